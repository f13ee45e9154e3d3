/** The level and the time of a stretch, typed; and all phrases brought to one level. */
import { Flex, Text } from '@chakra-ui/react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { gainOfStretch } from '../../../core/edits/stretch-level'
import { laterAt } from '../../../core/edits/stretch-time'
import { FADE_RANGE_FRAMES, MOST_LATER_FRAMES } from '../../../core/song/edit-schema'
import { GAIN_RANGE_DECIBELS } from '../../../core/song/fields'
import { WORTH_A_WORD } from '../../../core/voice/line-facts'
import { NumberField } from '../../shared/number-field'
import { KeyCap, Pill } from '../../shared/parts'
import { EvenBar } from './even-bar'
import { layGain, moveTo } from './tidying'
import { useTidy, type Reach } from './tidy-store'
import type { Even } from './use-even'
import type { Line } from './use-line'
import type { Stretch } from './use-stretch'

const milliseconds = (frames: number) => (1_000 * frames) / SAMPLE_RATE_HZ
const frames = (ms: number) => Math.round((ms * SAMPLE_RATE_HZ) / 1_000)

export const REACHES: Reach[] = ['line', 'phrase', 'word']
/** Typed gains set in and let go over so long at first; in a word over a quarter of it, if that is shorter. */
const USUAL_FADE_FRAMES = 2_400

export function usualFadeOf({ startFrame, endFrame }: Stretch): number {
  return Math.max(FADE_RANGE_FRAMES.min, Math.min(USUAL_FADE_FRAMES, Math.round((endFrame - startFrame) / 4)))
}

export function StretchBar({ line, stretch, even }: { line: Line; stretch: Stretch; even: Even | null }) {
  return (
    <Flex mt={2} px={3} minH="38px" align="center" gap={3} rowGap={1} wrap="wrap" bg="card" borderRadius="card" boxShadow="card" data-card tabIndex={-1}>
      {even ? <EvenBar line={line} even={even} /> : <OneStretch line={line} stretch={stretch} />}
    </Flex>
  )
}

function OneStretch({ line: { song, layer }, stretch }: { line: Line; stretch: Stretch }) {
  const { reach, name, holds, late } = stretch
  const isNear = useTidy(state => state.isNear)
  const gain = gainOfStretch(song, layer, stretch)
  const fadeFrames = gain?.fadeFrames ?? usualFadeOf(stretch)
  const laterFrames = laterAt(song, layer.id, stretch.startFrame + 1)
  const move = (ms: number) => moveTo(layer.id, `${name} ${Math.abs(ms)} ms ${ms < 0 ? 'earlier' : 'later'}`, { stretch, laterFrames: frames(ms), holds })
  return (
    <>
      <Flex gap="4px" role="group" aria-label="Level and time of">
        {REACHES.map(choice => (
          <Pill key={choice} size="xs" px={3} chosen={reach === choice} onClick={() => useTidy.setState({ reach: choice })}>
            {choice}
          </Pill>
        ))}
      </Flex>
      <Pill size="xs" px={3} chosen={isNear} onClick={() => useTidy.setState({ isNear: !isNear })}>
        Nearer <KeyCap>Z</KeyCap>
      </Pill>
      <Text fontFamily="heading" fontWeight={600} fontSize="16px" maxW="150px" truncate>
        {name}
      </Text>
      <Flex align="center" gap="6px">
        <Text>louder by</Text>
        <NumberField
          label={`${name}, louder by`}
          value={gain?.gainDecibels ?? 0}
          {...GAIN_RANGE_DECIBELS}
          unit="dB"
          width="48px"
          onKeep={typed => layGain(layer.id, `${name} by ${typed} dB`, { stretch, gainDecibels: typed, fadeFrames })}
        />
      </Flex>
      {gain ? (
        <Flex align="center" gap="6px">
          <Text>faded over</Text>
          <NumberField
            label={`${name}, faded over`}
            value={milliseconds(fadeFrames)}
            min={milliseconds(FADE_RANGE_FRAMES.min)}
            max={milliseconds(FADE_RANGE_FRAMES.max)}
            unit="ms"
            digits={0}
            width="48px"
            onKeep={typed => layGain(layer.id, `${name} faded over ${typed} ms`, { stretch, gainDecibels: gain.gainDecibels, fadeFrames: frames(typed) })}
          />
        </Flex>
      ) : null}
      <Flex align="center" gap="6px">
        <Text>later by</Text>
        <NumberField
          label={`${name}, later by`}
          value={milliseconds(laterFrames)}
          min={-milliseconds(MOST_LATER_FRAMES)}
          max={milliseconds(MOST_LATER_FRAMES)}
          unit="ms"
          digits={0}
          width="48px"
          onKeep={move}
        />
      </Flex>
      {late && Math.abs(late.nowMilliseconds) >= WORTH_A_WORD.lateMilliseconds ? (
        <Pill size="xs" px={3} onClick={() => move(-Math.round(late.sungMilliseconds))}>
          {Math.round(Math.abs(late.nowMilliseconds))} ms {late.nowMilliseconds > 0 ? 'late' : 'early'}: put it on the beat
        </Pill>
      ) : null}
    </>
  )
}

/** Every mend of the line as a plain sentence with a number: what the layer asks for, and what the singer laid. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useEffect, useRef, type ReactNode } from 'react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import type { GainInSong } from '../../../core/edits/stretch-level'
import type { MoveInSong } from '../../../core/edits/stretch-time'
import { isGain } from '../../../core/edits/tidy'
import type { MendInSong } from '../../../core/prints/laid-in'
import { MOST_LATER_FRAMES } from '../../../core/song/edit-schema'
import { GAIN_RANGE_DECIBELS } from '../../../core/song/fields'
import type { LayerId } from '../../../core/song/schema'
import { TIDY_RANGE_DECIBELS } from '../../../core/song/tidy-schema'
import { NumberField } from '../../shared/number-field'
import { SmallButton } from '../../shared/parts'
import { laidOn, type Laid } from './laid-on'
import { MEND_NAMES, whatOf, whereOf, whyOf } from './mend-words'
import { layGain, layMend, layMove, toggleMend } from './tidying'
import { useTidy } from './tidy-store'
import type { Line } from './use-line'

export function MendList({ line }: { line: Line }) {
  const chosen = useTidy(state => state.mend)
  const all = laidOn(line)
  if (all.length === 0) return null
  return (
    <Box role="list" mt={2} maxH="128px" overflowY="auto" aria-label="Mends">
      {all.map(laid => (
        <LaidRow key={laid.key} laid={laid} line={line} isChosen={laid.key === chosen} />
      ))}
    </Box>
  )
}

/** By its key. */
export function takeOff(laid: Laid, { layer, words }: Line): void {
  if (laid.kind === 'mend') toggleMend(laid.mend, whereOf(laid.mend, words))
  else if (laid.kind === 'gain') takeGainOff(laid.gain, layer.id, nameOfGain(laid.gain, words))
  else layMove(laid.move, `take off: ${nameOfMove(laid.move, words)}`, 0)
}

function LaidRow({ laid, line, isChosen }: { laid: Laid; line: Line; isChosen: boolean }) {
  if (laid.kind === 'gain') return <GainRow gain={laid.gain} name={laid.key} line={line} isChosen={isChosen} />
  if (laid.kind === 'move') return <MoveRow move={laid.move} name={laid.key} line={line} isChosen={isChosen} />
  return <MendRow mend={laid.mend} name={laid.key} line={line} isChosen={isChosen} />
}

interface Shown {
  name: string
  line: Line
  isChosen: boolean
}

function MendRow({ mend, line, ...shown }: Shown & { mend: MendInSong }) {
  const where = whereOf(mend, line.words)
  const { kind, decibels } = mend.mend
  return (
    <Row
      {...shown}
      kind={kind}
      where={where}
      isOn={!mend.isOff}
      why={mend.isOff ? 'as sung' : whyOf(mend, line.layer)}
      onToggle={() => toggleMend(mend, where)}
    >
      {mend.isOff ? (
        <Text color="ink.soft">taken off</Text>
      ) : kind !== 'pop' && !isGain(mend.mend) ? (
        <Text fontWeight={600}>mended</Text>
      ) : (
        <NumberField
          label={`${where}, change`}
          value={decibels}
          {...TIDY_RANGE_DECIBELS}
          unit="dB"
          width="52px"
          onKeep={typed => layMend(mend, `${MEND_NAMES[kind]} by ${typed} dB`, typed)}
        />
      )}
    </Row>
  )
}

function nameOfGain(gain: GainInSong, words: Line['words']): string {
  return `level of ${whatOf(gain, words)}`
}

function nameOfMove(move: MoveInSong, words: Line['words']): string {
  return `time of ${whatOf(move, words)}`
}

function takeGainOff(gain: GainInSong, layerId: LayerId, name: string): void {
  layGain(layerId, `take off: ${name}`, { stretch: gain, gainDecibels: 0, fadeFrames: gain.fadeFrames })
}

function GainRow({ gain, line, ...shown }: Shown & { gain: GainInSong }) {
  const { gainDecibels, fadeFrames } = gain
  const where = nameOfGain(gain, line.words)
  const fades = `faded over ${Math.round((1_000 * fadeFrames) / SAMPLE_RATE_HZ)} ms`
  const keep = (typed: number) => layGain(line.layer.id, `${where}: ${typed} dB`, { stretch: gain, gainDecibels: typed, fadeFrames })
  return (
    <Row {...shown} kind="gain" where={where} isOn why={fades} onToggle={() => takeGainOff(gain, line.layer.id, where)}>
      <NumberField label={`${where}, change`} value={gainDecibels} {...GAIN_RANGE_DECIBELS} unit="dB" width="52px" onKeep={keep} />
    </Row>
  )
}

const MOST_LATER_MILLISECONDS = (1_000 * MOST_LATER_FRAMES) / SAMPLE_RATE_HZ

function MoveRow({ move, line, ...shown }: Shown & { move: MoveInSong }) {
  const where = nameOfMove(move, line.words)
  const why = move.laterFrames < 0 ? 'earlier than it was sung' : 'later than it was sung'
  return (
    <Row {...shown} kind="move" where={where} isOn why={why} onToggle={() => layMove(move, `take off: ${where}`, 0)}>
      <NumberField
        label={`${where}, later`}
        value={(1_000 * move.laterFrames) / SAMPLE_RATE_HZ}
        min={-MOST_LATER_MILLISECONDS}
        max={MOST_LATER_MILLISECONDS}
        unit="ms"
        digits={0}
        width="52px"
        onKeep={typed => layMove(move, `${where}: ${typed} ms`, (typed * SAMPLE_RATE_HZ) / 1_000)}
      />
    </Row>
  )
}

interface RowProps {
  name: string
  kind: string
  where: string
  why: string
  isOn: boolean
  isChosen: boolean
  onToggle: () => void
  children: ReactNode
}

function Row({ name, kind, where, why, isOn, isChosen, onToggle, children }: RowProps) {
  const row = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (isChosen) row.current?.scrollIntoView({ block: 'nearest' })
  }, [isChosen])
  return (
    <Flex
      role="listitem"
      ref={row}
      data-mend={kind}
      align="center"
      gap={2}
      py="3px"
      px={1}
      borderBottomWidth="1px"
      borderStyle="dashed"
      borderColor="seamline"
      bg={isChosen ? 'sunken' : undefined}
      borderRadius={isChosen ? '8px' : undefined}
      opacity={isOn ? 1 : 0.7}
      onClick={() => useTidy.setState({ mend: name })}
    >
      <SmallButton type="button" role="switch" aria-checked={isOn} aria-label={where} minW="24px" minH="24px" onClick={onToggle}>
        <Box width="10px" height="10px" mx="auto" borderRadius="full" borderWidth="2px" borderColor="brand" bg={isOn ? 'brand' : 'transparent'} />
      </SmallButton>
      <Text flex="1 1 0" minW={0} truncate>
        {where}
      </Text>
      <Box flex="0 0 84px">{children}</Box>
      <Text flex="0 1 158px" minW={0} color="ink.soft" truncate>
        {why}
      </Text>
    </Flex>
  )
}

/** The chords under the bars, one chip each, and the row that changes the chosen one. */
import { Box, Flex, NativeSelect, Text } from '@chakra-ui/react'
import type { KeyboardEvent, MouseEvent } from 'react'
import { CHORD_QUALITIES, chordTones, INTERVALS, type ChordQuality } from '../../../core/beat/chord-names'
import { beatAtFrame, frameOfBeat } from '../../../core/beat/grid'
import { TONICS, type Key } from '../../../core/beat/key-names'
import { chordTonesAt } from '../../../core/beat/tones'
import { setChord } from '../../../core/song/beat-facts'
import type { BeatChord } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import { formatChord, formatPitchClass } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, Pill } from '../../shared/parts'
import { ensureEngine } from '../../song/live'
import { edit, useSong } from '../../song/song-store'

interface ChordLaneProps {
  view: FrameRange
  chosenBeat: number | null
  onChoose: (startBeat: number | null) => void
  /** Of the lane, in pixels. */
  width: number
}

const LETTER_PIXELS = 6.5

/** The whole name, its root and third, only its root, or nothing, as there is room. */
function shortened(chord: BeatChord, key: Key | null, pixels: number): string {
  const root = formatPitchClass(chord.root, key)
  const triad = INTERVALS[chord.quality].includes(3) ? `${root}m` : root
  return [formatChord(chord, key), triad, root].find(text => text.length * LETTER_PIXELS + 4 <= pixels) ?? ''
}

/** Of the lane's children, in one rule: there may be a hundred. */
const CHORD_STYLES = {
  '& > div': {
    position: 'absolute',
    top: '1px',
    bottom: '1px',
    bg: 'card',
    color: 'ink',
    borderRadius: '6px',
    fontSize: '11px',
    lineHeight: '24px',
    px: '2px',
    overflow: 'hidden',
    whiteSpace: 'nowrap',
  },
  '& > div[data-chosen]': { bg: 'brand', color: 'brand.ink' },
}

export function ChordLane({ view, chosenBeat, onChoose, width }: ChordLaneProps) {
  const { grid, chords, key } = useSong(song => song.beat)
  const length = view.endFrame - view.startFrame
  const chosen = chords.findIndex(chord => chord.startBeat === chosenBeat)
  const step = (event: KeyboardEvent) => {
    const by = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0
    if (by === 0 || chords.length === 0) return
    event.preventDefault()
    event.stopPropagation()
    onChoose(chords[Math.max(0, Math.min(chords.length - 1, chosen + by))]!.startBeat)
  }
  const choose = (event: MouseEvent) => {
    const box = event.currentTarget.getBoundingClientRect()
    const beat = beatAtFrame(grid, view.startFrame + ((event.clientX - box.left) / box.width) * length)
    const hit = chords.find(chord => beat >= chord.startBeat && beat < chord.startBeat + chord.beatCount)
    onChoose(hit && hit.startBeat !== chosenBeat ? hit.startBeat : null)
  }
  if (chords.length === 0) return null
  return (
    <Box
      position="relative"
      height="26px"
      mt="2px"
      cursor="pointer"
      role="slider"
      tabIndex={0}
      aria-label="Chords; arrow keys go from one to the next"
      aria-valuemin={1}
      aria-valuemax={chords.length}
      aria-valuenow={chosen + 1 || 1}
      aria-valuetext={chosen < 0 ? 'none chosen' : `${formatChord(chords[chosen]!, key)}, beat ${chords[chosen]!.startBeat + 1}`}
      onClick={choose}
      onKeyDown={step}
      css={CHORD_STYLES}
    >
      {chords.map((chord, i) => {
        const from = frameOfBeat(grid, chord.startBeat)
        const to = frameOfBeat(grid, chord.startBeat + chord.beatCount)
        return (
          <div
            key={chord.startBeat}
            aria-hidden
            data-chosen={i === chosen || undefined}
            title={formatChord(chord, key)}
            style={{ left: `${((from - view.startFrame) / length) * 100}%`, width: `max(4px, calc(${((to - from) / length) * 100}% - 2px))` }}
          >
            {shortened(chord, key, ((to - from) / length) * width)}
          </div>
        )
      })}
    </Box>
  )
}

/** Root, quality and length of the chosen chord, and the notes that fit it. */
export function ChordEditor({ chord, onChoose }: { chord: BeatChord; onChoose: (startBeat: number | null) => void }) {
  const { tuningCents, key } = useSong(song => song.beat)
  const keep = (next: Partial<BeatChord>) => {
    const changed = { ...chord, ...next }
    edit(`set a chord to ${formatChord(changed, key)}`, song => setChord(song, { startBeat: chord.startBeat, beatCount: changed.beatCount, chord: changed }))
  }
  const tones = chordTones(chord)
  const hear = async () => (await ensureEngine())?.playBeside(chordTonesAt(tones, tuningCents))
  return (
    <Card mt={3} py={2} px={4}>
      <Flex align="center" gap={3} wrap="wrap">
        <NativeSelect.Root size="sm" width="70px">
          <NativeSelect.Field
            aria-label="Root of the chord"
            bg="card"
            borderColor="seamline"
            value={chord.root}
            onChange={event => keep({ root: Number(event.target.value) })}
          >
            {TONICS.map((tonic, root) => (
              <option key={tonic} value={root}>
                {formatPitchClass(root, key)}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <NativeSelect.Root size="sm" width="138px">
          <NativeSelect.Field
            aria-label="Kind of chord"
            bg="card"
            borderColor="seamline"
            value={chord.quality}
            onChange={event => keep({ quality: event.target.value as ChordQuality })}
          >
            {CHORD_QUALITIES.map(quality => (
              <option key={quality}>{quality}</option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Box>
          for{' '}
          <NumberField
            label="Length of the chord"
            value={chord.beatCount}
            min={1}
            max={64}
            digits={0}
            unit="beats"
            width="40px"
            onKeep={beats => keep({ beatCount: Math.round(beats) })}
          />
        </Box>
        <Text color="ink.soft">
          Sits well on it:{' '}
          <Box as="span" color="ink">
            {tones.map(tone => formatPitchClass(tone, key)).join('  ')}
          </Box>
        </Text>
        <Flex gap={2} ml="auto">
          <Pill onClick={() => void hear()}>Hear it</Pill>
          <Pill
            onClick={() => {
              edit('take a chord away', song => setChord(song, { startBeat: chord.startBeat, beatCount: chord.beatCount, chord: null }))
              onChoose(null)
            }}
          >
            No chord here
          </Pill>
          <Pill onClick={() => onChoose(null)}>Done</Pill>
        </Flex>
      </Flex>
    </Card>
  )
}

/** The part over the key's rungs, the lead's notes faint beside it; a note is moved by keys or taken out. */
import { Box, chakra } from '@chakra-ui/react'
import { useRef, useState, type KeyboardEvent } from 'react'
import { nextRung } from '../../../core/tune/targets'
import { framesPerBeat } from '../../../core/beat/grid'
import { holdPartNote, setPartNote } from '../../../core/parts/commands'
import type { PlacedPartNote } from '../../../core/song/part-schema'
import type { Layer } from '../../../core/song/schema'
import { overlapFrames, type FrameRange, type PlacedLine } from '../../../core/song/select'
import { placeWords } from '../../../core/song/words'
import { formatMidi, formatPitchClass } from '../../shared/format'
import { useWidth } from '../../shared/use-width'
import { edit, tryOut, useSong, useSongStore } from '../../song/song-store'
import { seek } from '../../song/live'
import { useRoleColour } from '../../theme/roles'

const HEIGHT = 190
/** Names of rungs that lie nearer than this would lie on each other. */
const LEAST_APART_PIXELS = 12
const TOP = 26
const BOTTOM = 14
const LEFT = 34
/** From 41 Hz to 2.1 kHz. */
const SINGABLE = { lowest: 28, highest: 96 }
const BEYOND = 1.5
const LEAST_RANGE = 7

const Spot = chakra('button', {
  base: {
    position: 'absolute',
    borderRadius: '6px',
    cursor: 'pointer',
    borderWidth: '2px',
    borderColor: 'transparent',
    touchAction: 'none',
    _pressed: { borderColor: 'brand', borderStyle: 'dashed' },
  },
})

interface PartLadderProps {
  layer: Layer
  notes: readonly PlacedPartNote[]
  leadNotes: readonly PlacedPartNote[]
  range: FrameRange
  lines: readonly PlacedLine[]
}

export function PartLadder({ layer, notes: kept, leadNotes, range, lines }: PartLadderProps) {
  const box = useRef<HTMLDivElement>(null)
  const width = useWidth(box)
  const song = useSong(current => current)
  const [lead, own] = [useRoleColour('lead'), useRoleColour(layer.tint)]
  const [chosen, setChosen] = useState<number | null>(null)
  // A note that is dragged is seen where it would come to lie.
  const tried = useSongStore(state => state.trial?.layers.find(({ id }) => id === layer.id)?.part ?? null)
  const notes = tried ? kept.map(note => tried.find(({ startFrame }) => startFrame === note.startFrame) ?? note) : kept
  const heights = [...kept, ...leadNotes].map(({ midi }) => midi)
  const middle = (Math.min(...heights) + Math.max(...heights)) / 2
  const half = Math.max(LEAST_RANGE, Math.max(...heights) - middle + BEYOND)
  const x = (frame: number) => LEFT + ((frame - range.startFrame) / (range.endFrame - range.startFrame)) * (width - LEFT - 8)
  const y = (midi: number) => TOP + ((middle + half - midi) / (2 * half)) * (HEIGHT - TOP - BOTTOM)
  const across = ({ startFrame, endFrame, midi }: PlacedPartNote) => ({ x1: x(startFrame), x2: x(endFrame), y1: y(midi), y2: y(midi) })
  const words = lines.flatMap(line => placeWords(line, null))
  const rungs = rungsBetween(song.beat, middle - half, middle + half)
  const named = rungs.reduce<number[]>((kept, midi) => (kept.length === 0 || y(kept.at(-1)!) - y(midi) >= LEAST_APART_PIXELS ? [...kept, midi] : kept), [])
  const nameOf = (midi: number) => formatMidi(midi, song.beat.key)
  const sixteenthFrames = framesPerBeat(song.beat.grid) / 4
  const grip = useRef<{ startFrame: number; y: number; midi: number } | null>(null)
  const midiAt = (pixels: number, from: { y: number; midi: number }) => {
    const semitones = ((from.y - pixels) * 2 * half) / (HEIGHT - TOP - BOTTOM)
    const { key } = song.beat
    const wanted = from.midi + semitones
    const rungsNear = key ? rungsBetween(song.beat, wanted - 2.5, wanted + 2.5) : [Math.round(wanted)]
    const midi = rungsNear.reduce((best, rung) => (Math.abs(rung - wanted) < Math.abs(best - wanted) ? rung : best), rungsNear[0] ?? from.midi)
    return Math.max(SINGABLE.lowest, Math.min(SINGABLE.highest, midi))
  }
  const onKey = (event: KeyboardEvent, note: PlacedPartNote, i: number) => {
    const to = (at: number) => {
      const next = box.current?.querySelectorAll<HTMLButtonElement>('[data-part-note]')[at]
      next?.focus()
      next?.click()
    }
    const move = (by: 1 | -1) => {
      const { key, colour } = song.beat
      const midi = key ? nextRung(100 * note.midi, by, { key, colour, tuningCents: 0 }) / 100 : note.midi + by
      if (midi >= SINGABLE.lowest && midi <= SINGABLE.highest)
        edit(`${layer.name}: ${nameOf(midi)}`, current => setPartNote(current, { layerId: layer.id, startFrame: note.startFrame, midi }))
    }
    const hold = (bySixteenths: number) =>
      edit(`${layer.name}: ${nameOf(note.midi)} ${bySixteenths > 0 ? 'longer' : 'shorter'}`, current =>
        holdPartNote(current, { layerId: layer.id, startFrame: note.startFrame, endFrame: note.endFrame + bySixteenths * sixteenthFrames }),
      )
    if (event.shiftKey && (event.key === 'ArrowLeft' || event.key === 'ArrowRight')) {
      event.preventDefault()
      event.stopPropagation()
      return hold(event.key === 'ArrowRight' ? 1 : -1)
    }
    const actions: Record<string, () => void> = {
      ArrowUp: () => move(1),
      ArrowDown: () => move(-1),
      ArrowLeft: () => to(Math.max(0, i - 1)),
      ArrowRight: () => to(Math.min(notes.length - 1, i + 1)),
      Backspace: () => {
        edit(`${layer.name}: leave ${nameOf(note.midi)} out`, current => setPartNote(current, { layerId: layer.id, startFrame: note.startFrame, midi: null }))
        // The keys go on with the note that comes to stand there.
        requestAnimationFrame(() => to(Math.min(i, notes.length - 2)))
      },
    }
    const action = actions[event.key]
    if (!action || event.ctrlKey || event.metaKey || event.altKey) return
    event.preventDefault()
    event.stopPropagation()
    action()
  }
  return (
    <Box
      ref={box}
      position="relative"
      height={`${HEIGHT}px`}
      mt={2}
      bg="sunken"
      borderRadius="8px"
      overflow="hidden"
      role="group"
      aria-label={`Notes of ${layer.name}: arrow keys move them, with Shift they are held longer or shorter`}
    >
      {width > 0 ? (
        <>
          <svg aria-hidden width={width} height={HEIGHT} style={{ position: 'absolute', inset: 0 }}>
            {rungs.map(midi => (
              <g key={midi}>
                {named.includes(midi) ? (
                  <text x={8} y={y(midi) + 4} fontSize="11" fill="var(--chakra-colors-ink-soft)">
                    {formatPitchClass(((midi % 12) + 12) % 12, song.beat.key)}
                  </text>
                ) : null}
                <line x1={LEFT} x2={width - 8} y1={y(midi)} y2={y(midi)} stroke="var(--chakra-colors-seamline)" strokeDasharray="1 5" />
              </g>
            ))}
            {leadNotes.map(note => (
              <line key={note.startFrame} {...across(note)} stroke={lead} strokeOpacity={0.45} strokeWidth={2} />
            ))}
            {notes.map(note => (
              <line key={note.startFrame} {...across(note)} stroke={own} strokeWidth={4} strokeDasharray={layer.made ? '1 6' : '6 4'} strokeLinecap="round" />
            ))}
            {lines.length === 1
              ? notes.map(note => (
                  <text
                    key={note.startFrame}
                    x={x(note.startFrame)}
                    y={y(note.midi) - 9}
                    fontSize="14"
                    fontWeight={600}
                    style={{ fontFamily: 'var(--chakra-fonts-heading)' }}
                    fill="var(--chakra-colors-ink)"
                  >
                    {words
                      .filter(word => noteUnder(word, notes) === note)
                      .map(({ word }) => word)
                      .join(' ')}
                  </text>
                ))
              : null}
          </svg>
          {notes.map((note, i) => {
            const left = x(note.startFrame)
            const isChosen = chosen === note.startFrame
            return (
              <Spot
                key={note.startFrame}
                data-part-note
                type="button"
                aria-pressed={isChosen}
                aria-label={`${nameOf(note.midi)}, note ${i + 1} of ${notes.length}`}
                tabIndex={isChosen || (i === 0 && !notes.some(other => other.startFrame === chosen)) ? 0 : -1}
                onClick={() => {
                  setChosen(note.startFrame)
                  seek(note.startFrame)
                }}
                onKeyDown={event => onKey(event, note, i)}
                onPointerDown={event => {
                  if (event.button !== 0) return
                  event.currentTarget.setPointerCapture(event.pointerId)
                  grip.current = { startFrame: note.startFrame, y: event.clientY, midi: note.midi }
                }}
                onPointerMove={event => {
                  const from = grip.current
                  if (!from || event.buttons === 0 || Math.abs(event.clientY - from.y) < 4) return
                  tryOut(current => setPartNote(current, { layerId: layer.id, startFrame: from.startFrame, midi: midiAt(event.clientY, from) }))
                }}
                onPointerUp={event => {
                  const from = grip.current
                  grip.current = null
                  tryOut(null)
                  if (!from) return
                  const midi = midiAt(event.clientY, from)
                  if (midi !== from.midi && Math.abs(event.clientY - from.y) >= 4)
                    edit(`${layer.name}: ${nameOf(midi)}`, current => setPartNote(current, { layerId: layer.id, startFrame: from.startFrame, midi }))
                }}
                onPointerCancel={() => {
                  grip.current = null
                  tryOut(null)
                }}
                style={{ left: left - 3, top: y(note.midi) - 12, width: Math.max(24, x(note.endFrame) - left + 6), height: 24 }}
              />
            )
          })}
        </>
      ) : null}
    </Box>
  )
}

function rungsBetween(
  { key, colour }: { key: Parameters<typeof nextRung>[2]['key'] | null; colour: Parameters<typeof nextRung>[2]['colour'] },
  low: number,
  high: number,
): number[] {
  if (!key) return []
  const rungs: number[] = []
  for (let at = nextRung(100 * low, 1, { key, colour, tuningCents: 0 }); at < 100 * high; at = nextRung(at, 1, { key, colour, tuningCents: 0 }))
    rungs.push(at / 100)
  return rungs
}

/** A word stands at the note that it is sung on longest. */
function noteUnder(word: FrameRange, notes: readonly PlacedPartNote[]): PlacedPartNote | null {
  const over = notes.filter(note => overlapFrames(note, word) > 0)
  return over.length > 0 ? over.reduce((most, note) => (overlapFrames(note, word) > overlapFrames(most, word) ? note : most)) : null
}

/** The ladder: the key's notes as rungs, the words at the height they were sung, the sung pitch a thread, the wanted one a stitch. */
import { Box, chakra, Text } from '@chakra-ui/react'
import { memo, useMemo, useRef } from 'react'
import { chordTones } from '../../../core/beat/chord-names'
import { frameOfBeat } from '../../../core/beat/grid'
import { scaleSemitones, TONICS } from '../../../core/beat/key-names'
import type { NoteInSong } from '../../../core/prints/laid-in'
import type { Song } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import { formatChord, formatPitchClass } from '../../shared/format'
import { Playhead } from '../../shared/playhead'
import { useWidth } from '../../shared/use-width'
import { useRoleColour } from '../../theme/roles'
import { leftWords, offWords } from './note-words'
import { keyOfNote, useTidy } from './tidy-store'
import type { Line, SungPitch } from './use-line'

const HEIGHT = 284
const TOP = 30
const BOTTOM = 14
const LEFT = 46
/** Of the ladder beyond its highest and its lowest note. */
const BEYOND_CENTS = 160
const LEAST_CENTS = 900
/** What is written under a note is worth it from here on. */
const WORTH_CENTS = 8

interface Frame {
  x: (frame: number) => number
  y: (cents: number) => number
  low: number
  high: number
}

function frameOf({ range, notes }: Pick<Line, 'range' | 'notes'>, width: number): Frame {
  const heights = notes.flatMap(({ note, rungCents, drawnToCents }) => [note.cents, drawnToCents, rungCents ?? note.cents])
  const middle = heights.length > 0 ? (Math.min(...heights) + Math.max(...heights)) / 2 : 6_000
  const half = Math.max(LEAST_CENTS / 2, heights.length > 0 ? Math.max(...heights) - middle + BEYOND_CENTS : 0)
  const [low, high] = [middle - half, middle + half]
  return {
    x: frame => LEFT + ((frame - range.startFrame) / (range.endFrame - range.startFrame)) * (width - LEFT - 10),
    y: cents => TOP + ((high - cents) / (high - low)) * (HEIGHT - TOP - BOTTOM),
    low,
    high,
  }
}

export function Ladder({ line, onNote }: { line: Line; onNote: (note: NoteInSong) => void }) {
  const box = useRef<HTMLDivElement>(null)
  const width = useWidth(box)
  const colour = useRoleColour(line.layer.role)
  const frame = useMemo(() => frameOf(line, width), [line, width])
  const chosen = useTidy(state => state.note)
  return (
    <Box ref={box} position="relative" height={`${HEIGHT}px`} bg="sunken" borderRadius="card" overflow="hidden" role="group" aria-label="Notes of the line">
      {width > 0 ? (
        <>
          <svg aria-hidden width={width} height={HEIGHT} style={{ position: 'absolute', inset: 0 }}>
            <Rungs song={line.song} range={line.range} frame={frame} width={width} />
            {line.pitches.map(pitch => (
              <Thread key={pitch.startFrame} pitch={pitch} frame={frame} colour={colour} />
            ))}
            {line.notes.map(note => (
              <Wanted key={keyOfNote(note)} note={note} frame={frame} colour={colour} />
            ))}
          </svg>
          <Box position="absolute" top={0} bottom={0} left={`${LEFT}px`} right="10px" pointerEvents="none">
            <Playhead view={line.range} />
          </Box>
          <Words line={line} frame={frame} width={width} />
          <Offs line={line} frame={frame} />
          {line.notes.map((note, i) => (
            <NoteButton
              key={keyOfNote(note)}
              note={note}
              song={line.song}
              frame={frame}
              isChosen={keyOfNote(note) === chosen}
              isFirst={i === 0 && !line.notes.some(other => keyOfNote(other) === chosen)}
              onChoose={onNote}
            />
          ))}
        </>
      ) : null}
    </Box>
  )
}

/** Drawn through where the chord of the moment holds the note, dotted elsewhere. */
const Rungs = memo(function Rungs({ song, range, frame, width }: { song: Song; range: FrameRange; frame: Frame; width: number }) {
  const { key, colour, tuningCents, chords, grid } = song.beat
  const spans = chords
    .map(chord => ({ chord, startFrame: frameOfBeat(grid, chord.startBeat), endFrame: frameOfBeat(grid, chord.startBeat + chord.beatCount) }))
    .filter(({ startFrame, endFrame }) => endFrame > range.startFrame && startFrame < range.endFrame)
  const tonic = key ? TONICS.indexOf(key.tonic) : 0
  const classes = key ? scaleSemitones(key.mode, colour).map(semitone => (tonic + semitone) % 12) : []
  const rungs: number[] = []
  for (let midi = Math.ceil(frame.low / 100); midi <= frame.high / 100; midi++) if (classes.includes(((midi % 12) + 12) % 12)) rungs.push(midi)
  const right = width - 10
  return (
    <>
      {spans.map(({ chord, startFrame }) => (
        <g key={startFrame}>
          <line
            x1={Math.max(LEFT, frame.x(startFrame))}
            x2={Math.max(LEFT, frame.x(startFrame))}
            y1={8}
            y2={HEIGHT - 8}
            stroke="var(--chakra-colors-seamline)"
          />
          <text x={Math.max(LEFT, frame.x(startFrame)) + 5} y={20} fontSize="12" fontWeight={600} fill="var(--chakra-colors-ink-soft)">
            {formatChord(chord, key)}
          </text>
        </g>
      ))}
      {rungs.map(midi => {
        const y = frame.y(100 * midi + tuningCents)
        return (
          <g key={midi}>
            <text x={12} y={y + 4} fontSize="12.5" fill="var(--chakra-colors-ink-soft)">
              {formatPitchClass(midi % 12, key)}
            </text>
            <line x1={LEFT} x2={right} y1={y} y2={y} stroke="var(--chakra-colors-seamline)" strokeDasharray="1 5" />
            {spans
              .filter(({ chord }) => chordTones(chord).includes(midi % 12))
              .map(({ startFrame, endFrame }) => (
                <line
                  key={startFrame}
                  x1={Math.max(LEFT, frame.x(startFrame) + 4)}
                  x2={Math.min(right, frame.x(endFrame) - 4)}
                  y1={y}
                  y2={y}
                  stroke="var(--chakra-colors-ink-soft)"
                  strokeOpacity={0.75}
                  strokeWidth={1.5}
                />
              ))}
          </g>
        )
      })}
    </>
  )
})

function Thread({ pitch: { startFrame, hopFrames, cents }, frame, colour }: { pitch: SungPitch; frame: Frame; colour: string }) {
  const path = useMemo(() => {
    let drawn = ''
    let isDown = false
    cents.forEach((value, i) => {
      const isShown = value > frame.low - 300 && value < frame.high + 300
      if (isShown) drawn += `${isDown ? 'L' : 'M'}${frame.x(startFrame + i * hopFrames).toFixed(1)} ${frame.y(value).toFixed(1)}`
      isDown = isShown
    })
    return drawn
  }, [startFrame, hopFrames, cents, frame])
  return <path d={path} fill="none" stroke={colour} strokeWidth={2.6} strokeLinecap="round" strokeLinejoin="round" />
}

/** The stitched line where a moved note is to lie, joined to what was sung by short threads. */
function Wanted({ note, frame, colour }: { note: NoteInSong; frame: Frame; colour: string }) {
  const { cents } = note.note
  if (note.drawnToCents === cents) return null
  const [from, to] = [frame.x(note.startFrame), frame.x(note.endFrame)]
  const [y, sung] = [frame.y(note.drawnToCents), frame.y(cents)]
  const threads = Math.max(1, Math.min(4, Math.floor((to - from) / 34)))
  return (
    <g stroke={colour}>
      <line x1={from} x2={to} y1={y} y2={y} strokeWidth={2} strokeDasharray="6 4" />
      {Array.from({ length: threads }, (_, i) => {
        const x = from + ((i + 1) * (to - from)) / (threads + 1)
        return <line key={i} x1={x} x2={x} y1={y} y2={sung} strokeWidth={1} strokeOpacity={0.6} />
      })}
    </g>
  )
}

/** A letter is about so wide; a word that would lie on the one before it at the same height is left out. */
const LETTER_WIDTH = 8.6
const WORD_HEIGHT = 22

/** In the serif face, over the note that they begin on. */
function Words({ line, frame, width }: { line: Line; frame: Frame; width: number }) {
  const placed: { left: number; right: number; top: number }[] = []
  return line.words.map(word => {
    const over = line.notes.filter(note => note.startFrame < word.endFrame && note.endFrame > word.startFrame)
    const heights = over.flatMap(({ note, drawnToCents }) => [note.cents, drawnToCents])
    const top = Math.max(20, heights.length > 0 ? frame.y(Math.max(...heights)) - 36 : HEIGHT - 34)
    const left = frame.x(over[0] ? Math.max(word.startFrame, over[0].startFrame) : word.startFrame)
    const right = left + LETTER_WIDTH * word.word.length
    if (right > width || placed.some(other => left < other.right && right > other.left && Math.abs(top - other.top) < WORD_HEIGHT)) return null
    placed.push({ left, right, top })
    return (
      <Text
        key={word.startFrame}
        position="absolute"
        left={`${left}px`}
        top={`${top}px`}
        fontFamily="heading"
        fontWeight={600}
        fontSize="17px"
        lineHeight="24px"
        whiteSpace="nowrap"
        pointerEvents="none"
        color={over.length > 0 ? 'ink' : 'ink.soft'}
      >
        {word.word}
      </Text>
    )
  })
}

const Spot = chakra('button', {
  base: {
    position: 'absolute',
    borderRadius: '8px',
    borderWidth: '1px',
    borderColor: 'transparent',
    cursor: 'pointer',
    textAlign: 'left',
    _hover: { borderColor: 'seamline' },
    _pressed: { borderColor: 'brand', borderStyle: 'dashed' },
  },
})

interface NoteButtonProps {
  note: NoteInSong
  song: Song
  frame: Frame
  isChosen: boolean
  isFirst: boolean
  onChoose: (note: NoteInSong) => void
}

function NoteButton({ note, song, frame, isChosen, isFirst, onChoose }: NoteButtonProps) {
  const [top, bottom] = heightsOf(note, frame)
  const left = frame.x(note.startFrame)
  return (
    <Spot
      data-note
      type="button"
      aria-pressed={isChosen}
      aria-label={offWords(note, song)}
      tabIndex={isChosen || isFirst ? 0 : -1}
      onClick={() => onChoose(note)}
      style={{ left: left - 4, top: top - 9, width: Math.max(14, frame.x(note.endFrame) - left + 8), height: bottom - top + 18 }}
    />
  )
}

/** From what was sung to where it is drawn. */
function heightsOf(note: NoteInSong, frame: Frame): [top: number, bottom: number] {
  const { note: sung, drawnToCents } = note
  return [frame.y(Math.max(sung.cents, drawnToCents)), frame.y(Math.min(sung.cents, drawnToCents))]
}

/** A label is about so large; one that would lie on another is left to the note's own words. */
const LABEL = { width: 46, height: 15 }

/** How far each note was sung off its rung, where that is worth a word. */
function Offs({ line, frame }: { line: Line; frame: Frame }) {
  const placed: { left: number; top: number }[] = []
  return line.notes.map(note => {
    const { cents, targetCents } = note.note
    const off = note.rungCents === null ? 0 : Math.round(cents - (targetCents ?? note.rungCents))
    if (Math.abs(off) < WORTH_CENTS && note.own === null) return null
    const [left, top] = [frame.x(note.startFrame), Math.min(HEIGHT - 18, heightsOf(note, frame)[1] + 8)]
    if (placed.some(other => Math.abs(other.left - left) < LABEL.width && Math.abs(other.top - top) < LABEL.height)) return null
    placed.push({ left, top })
    const why = leftWords(note)
    return (
      <Text
        key={keyOfNote(note)}
        aria-hidden
        position="absolute"
        left={`${left}px`}
        top={`${top}px`}
        fontSize="11.5px"
        fontWeight={600}
        lineHeight="16px"
        whiteSpace="nowrap"
        pointerEvents="none"
        color={why ? 'ink.soft' : 'warn'}
        fontStyle={why ? 'italic' : undefined}
      >
        {off > 0 ? '+' : off < 0 ? '−' : ''}
        {Math.abs(off)} ct{note.own && why ? `, ${why}` : ''}
      </Text>
    )
  })
}

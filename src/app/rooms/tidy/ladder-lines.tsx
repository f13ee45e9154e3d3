/** What is drawn on the ladder: its rungs, the sung pitch, the wanted one, the mends. */
import { memo, useMemo } from 'react'
import { chordTones } from '../../../core/beat/chord-names'
import { frameOfBeat } from '../../../core/beat/grid'
import { scaleSemitones, TONICS } from '../../../core/beat/key-names'
import type { MendInSong, NoteInSong } from '../../../core/prints/laid-in'
import type { Song } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import { formatChord, formatPitchClass } from '../../shared/format'
import { HEIGHT, LEFT, type Frame } from './ladder-frame'
import type { SungPitch } from './use-line'

/** Drawn through where the chord of the moment holds the note, dotted elsewhere. */
export const Rungs = memo(function Rungs({ song, range, frame }: { song: Song; range: FrameRange; frame: Frame }) {
  const { key, colour, tuningCents, chords, grid } = song.beat
  const spans = chords
    .map(chord => ({ chord, startFrame: frameOfBeat(grid, chord.startBeat), endFrame: frameOfBeat(grid, chord.startBeat + chord.beatCount) }))
    .filter(({ startFrame, endFrame }) => endFrame > range.startFrame && startFrame < range.endFrame)
  const tonic = key ? TONICS.indexOf(key.tonic) : 0
  const classes = key ? scaleSemitones(key.mode, colour).map(semitone => (tonic + semitone) % 12) : []
  const rungs: number[] = []
  for (let midi = Math.ceil(frame.low / 100); midi <= frame.high / 100; midi++) if (classes.includes(((midi % 12) + 12) % 12)) rungs.push(midi)
  const { right } = frame
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

export function Thread({ pitch: { frameAt, cents }, frame, colour }: { pitch: SungPitch; frame: Frame; colour: string }) {
  const path = useMemo(() => {
    let drawn = ''
    let isDown = false
    cents.forEach((value, i) => {
      const isShown = value > frame.low - 300 && value < frame.high + 300
      if (isShown) drawn += `${isDown ? 'L' : 'M'}${frame.x(frameAt(i)).toFixed(1)} ${frame.y(value).toFixed(1)}`
      isDown = isShown
    })
    return drawn
  }, [frameAt, cents, frame])
  return <path d={path} fill="none" stroke={colour} strokeWidth={2.6} strokeLinecap="round" strokeLinejoin="round" />
}

/** The stitched line where a moved note is to lie, joined to what was sung by short threads. */
export function Wanted({ note, frame, colour }: { note: NoteInSong; frame: Frame; colour: string }) {
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

/** A mend as a patch under the notes, as long as it is: sewn on where it is laid, an empty hem where it is taken off. */
export function Mark({ mend, frame, isChosen }: { mend: MendInSong; frame: Frame; isChosen: boolean }) {
  const left = Math.max(LEFT, frame.x(mend.startFrame))
  const width = Math.max(6, Math.min(frame.x(mend.endFrame), frame.right) - left)
  if (left >= frame.right) return null
  return (
    <rect
      x={left}
      y={HEIGHT - 18}
      width={width}
      height={8}
      rx={4}
      fill={mend.isOff ? 'none' : 'var(--chakra-colors-ink-soft)'}
      fillOpacity={mend.mend.kind === 'rest' ? 0.22 : 0.55}
      stroke={isChosen ? 'var(--chakra-colors-brand)' : 'var(--chakra-colors-ink-soft)'}
      strokeOpacity={isChosen || mend.isOff ? 1 : 0}
      strokeWidth={isChosen ? 2 : 1}
      strokeDasharray={mend.isOff ? '3 2' : undefined}
    />
  )
}

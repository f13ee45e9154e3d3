/** Parts as Standard MIDI Files, with their words. */
import { parseMidi, writeMidi, type MidiEvent } from 'midi-file'
import type { PartNote } from './part'

const TICKS_A_BEAT = 960
const DEFAULT_BPM = 120

/** From a beat on the tempo is so fast. */
export interface TempoChange {
  beat: number
  bpm: number
}

export interface PartTrack {
  name: string
  /** In beats from the start of the file. */
  notes: readonly { startBeat: number; endBeat: number; midi: number; word?: string | undefined }[]
}

/** What a whole song's file says beside its parts. */
export interface MidiHead {
  title?: string
  /** In beats from the start of the file. */
  markers?: readonly { beat: number; text: string }[]
  /** A bar of so many quarters. */
  beatsPerBar?: number
}

/** @param tempos In order, the first at beat 0; 120 bpm without any. @returns a file of type 1: the tempos and the head, then a track for each part. */
export function writePartMidi(
  tracks: readonly PartTrack[],
  tempos: readonly TempoChange[] = [],
  { title, markers = [], beatsPerBar }: MidiHead = {},
): Uint8Array {
  const all = tempos.length > 0 ? tempos : [{ beat: 0, bpm: DEFAULT_BPM }]
  const tempoEvents: TimedEvent[] = [
    ...(title ? [{ tick: 0, event: { deltaTime: 0, meta: true, type: 'trackName', text: utf8(title) } as MidiEvent }] : []),
    ...(beatsPerBar
      ? [
          {
            tick: 0,
            event: { deltaTime: 0, meta: true, type: 'timeSignature', numerator: beatsPerBar, denominator: 4, metronome: 24, thirtyseconds: 8 } as MidiEvent,
          },
        ]
      : []),
    ...all.map(({ beat, bpm }) => ({ tick: ticks(beat), event: setTempo(bpm) })),
    ...markers.map(({ beat, text }) => ({ tick: ticks(beat), event: { deltaTime: 0, meta: true, type: 'marker', text: utf8(text) } as MidiEvent })),
  ]
  const parts = tracks.map(({ name, notes }) =>
    inOrder([
      { tick: 0, event: { deltaTime: 0, meta: true, type: 'trackName', text: utf8(name) } },
      ...notes.flatMap(({ startBeat, endBeat, midi, word }) => {
        const [on, off] = [ticks(startBeat), Math.max(ticks(startBeat) + 1, ticks(endBeat))]
        return [
          ...(word ? [{ tick: on, event: { deltaTime: 0, meta: true, type: 'lyrics', text: utf8(word) } as MidiEvent }] : []),
          { tick: off, event: { deltaTime: 0, channel: 0, type: 'noteOff', noteNumber: midi, velocity: 0 } as MidiEvent },
          { tick: on, event: { deltaTime: 0, channel: 0, type: 'noteOn', noteNumber: midi, velocity: 90 } as MidiEvent },
        ]
      }),
    ]),
  )
  const header = { format: 1 as const, numTracks: parts.length + 1, ticksPerBeat: TICKS_A_BEAT }
  return Uint8Array.from(writeMidi({ header, tracks: [inOrder(tempoEvents), ...parts] }))
}

interface TimedEvent {
  tick: number
  event: MidiEvent
}

/** The library writes a letter as a byte: words are handed over as the bytes that they are. */
const utf8 = (text: string) => String.fromCharCode(...new TextEncoder().encode(text))
const ticks = (beat: number) => Math.max(0, Math.round(beat * TICKS_A_BEAT))
const setTempo = (bpm: number): MidiEvent => ({ deltaTime: 0, meta: true, type: 'setTempo', microsecondsPerBeat: Math.round(60_000_000 / bpm) })

/** What ends at a tick ends before what begins there. */
function inOrder(events: TimedEvent[]): MidiEvent[] {
  const rank = ({ event: { type } }: { event: MidiEvent }) => (type === 'noteOff' ? 0 : type === 'noteOn' ? 2 : 1)
  const sorted = [...events].sort((a, b) => a.tick - b.tick || rank(a) - rank(b))
  const timed = sorted.map(({ tick, event }, i) => ({ ...event, deltaTime: tick - (i > 0 ? sorted[i - 1].tick : 0) }) as MidiEvent)
  return [...timed, { deltaTime: 0, meta: true, type: 'endOfTrack' }]
}

/**
 * The notes of the first track that has any, on the file's own clock; of notes that sound together the highest.
 * @throws RangeError for what is no Standard MIDI File, or has no notes.
 */
export function readPartMidi(bytes: Uint8Array): PartNote[] {
  const file = parsed(bytes)
  const { ticksPerBeat } = file.header
  if (!ticksPerBeat) throw new RangeError('a MIDI file that counts film frames cannot be read: one that counts beats is needed')
  const secondsAt = clockOf(file.tracks, ticksPerBeat)
  const track = file.tracks.find(events => events.some(({ type }) => type === 'noteOn'))
  if (!track) throw new RangeError('the MIDI file has no notes')
  return oneAtATime(notesOf(track)).map(({ from, to, midi }) => ({ startSeconds: secondsAt(from), endSeconds: secondsAt(to), midi }))
}

function parsed(bytes: Uint8Array): ReturnType<typeof parseMidi> {
  try {
    return parseMidi(bytes)
  } catch {
    throw new RangeError('this is no Standard MIDI File, or it is damaged')
  }
}

function clockOf(tracks: readonly (readonly MidiEvent[])[], ticksPerBeat: number): (tick: number) => number {
  const tempos = tracks
    .flatMap(track => {
      let tick = 0
      return track.flatMap(event => {
        tick += event.deltaTime
        return event.type === 'setTempo' ? [{ tick, microseconds: event.microsecondsPerBeat }] : []
      })
    })
    .sort((a, b) => a.tick - b.tick)
  return tick => {
    let seconds = 0
    let at = 0
    let microseconds = 60_000_000 / DEFAULT_BPM
    for (const tempo of tempos) {
      if (tempo.tick >= tick) break
      seconds += ((tempo.tick - at) / ticksPerBeat) * (microseconds / 1e6)
      ;[at, microseconds] = [tempo.tick, tempo.microseconds]
    }
    return seconds + ((tick - at) / ticksPerBeat) * (microseconds / 1e6)
  }
}

interface TickNote {
  from: number
  to: number
  midi: number
}

function notesOf(track: readonly MidiEvent[]): TickNote[] {
  const notes: TickNote[] = []
  const sounding = new Map<number, number>()
  let tick = 0
  for (const event of track) {
    tick += event.deltaTime
    if (event.type !== 'noteOn' && event.type !== 'noteOff') continue
    const from = sounding.get(event.noteNumber)
    if (from !== undefined && tick > from) notes.push({ from, to: tick, midi: event.noteNumber })
    sounding.delete(event.noteNumber)
    if (event.type === 'noteOn' && event.velocity > 0) sounding.set(event.noteNumber, tick)
  }
  return notes.sort((a, b) => a.from - b.from || b.midi - a.midi)
}

function oneAtATime(notes: readonly TickNote[]): TickNote[] {
  const line: TickNote[] = []
  for (const note of notes) {
    const last = line.at(-1)
    if (last && last.from === note.from) continue
    if (last && last.to > note.from) last.to = note.from
    line.push({ ...note })
  }
  return line
}

/** A voice that nobody sang: the lead's, drawn to the notes of a part. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { makeRandom } from '../audio/random'
import { resynthesise } from '../tune/resynthesise'
import { shiftAt, shiftsOf } from '../tune/shifts'
import { SHIFT_RANGE_CENTS } from '../song/edit-schema'
import type { TargetedNote } from '../tune/targets'
import type { TimeMap } from '../tune/time-map'
import { toWritten } from '../tune/written'
import type { PartNote } from '../parts/part'
import { HOP_SECONDS } from '../voice/hop'
import type { SungNote } from '../voice/notes'
import type { Stretch } from '../voice/phrases'

export interface MadeOptions {
  /** Of the lead, by hop, 0 for none; and what was found in it. */
  f0Hz: Float32Array
  sung: readonly SungNote[]
  phrases: readonly Stretch[]
  /** The lead's notes drawn to these, wherever both sound. */
  notes: readonly PartNote[]
  /** Formants up or down. */
  throatSemitones: number
  /** Another one is another singer: its timing and its pitch waver otherwise. */
  seed: number
}

/** A sung voice's notes, as tightly as a good singer holds them; some of the lead's vibrato is its own. */
const SETTINGS = { speedMilliseconds: 60, amount: 1, toleranceCents: 0, vibratoKept: 0.7, glidesKept: 1 }
/** How far a made voice wavers: no two singers begin together, or hold a note alike. */
const WAVER_SECONDS = 0.009
const WAVER_CENTS = 2
/** Where the part rests, the voice is faded out and in over so long. */
const FADE_FRAMES = 960
/** Round a note of the part so much of the voice belongs to it: its consonants. */
const BESIDE_SECONDS = 0.2

/** @param lead One channel at 48 kHz; its first frame is that of the first hop. @returns on the lead's time line, as long; silent where the part is. */
export function makeVoice(lead: Mono, { f0Hz, sung, phrases, notes, throatSemitones, seed }: MadeOptions): Mono {
  const random = makeRandom(seed + 1)
  const drawn = toWritten(sung, notes, { f0Hz }, SHIFT_RANGE_CENTS.max + 100)
  // A part is further away than any mistake: what is not certain goes along with the notes beside it.
  const shifts = spread(shiftsOf({ f0Hz, clarity: new Float32Array(f0Hz.length).fill(1) }, drawn, SETTINGS), drawn, f0Hz)
  const waver = wavering(random)
  const hopFrames = Math.round(HOP_SECONDS * SAMPLE_RATE_HZ)
  const made = resynthesise(lead, {
    pitch: { f0Hz, hopFrames },
    centsAt: frame => shiftAt(shifts, frame / hopFrames) + waver(frame / SAMPLE_RATE_HZ),
    time: timing(drawn, random),
    throatSemitones,
  })
  return silentBetween(made, drawn, phrases)
}

/** Voice between the notes, and at their ends, is moved as the note next to it. */
function spread(shifts: Float32Array, notes: readonly TargetedNote[], f0Hz: Float32Array): Float32Array {
  const sung = notes.filter(note => note.targetCents !== null)
  if (sung.length === 0) return shifts
  const within = (hop: number, { startSeconds, endSeconds }: TargetedNote) => Math.max(startSeconds / HOP_SECONDS - hop, hop - endSeconds / HOP_SECONDS)
  let at = 0
  return shifts.map((shift, hop) => {
    if (f0Hz[hop] === 0) return 0
    while (at + 1 < sung.length && within(hop, sung[at + 1]) < within(hop, sung[at])) at++
    return within(hop, sung[at]) <= 0 ? shift : sung[at].targetCents! - sung[at].cents
  })
}

function wavering(random: () => number): (seconds: number) => number {
  const waves = [0.31, 0.73].map(hz => ({ hz: hz * (0.8 + 0.4 * random()), phase: 2 * Math.PI * random() }))
  return seconds => waves.reduce((sum, { hz, phase }) => sum + (WAVER_CENTS / waves.length) * Math.sin(2 * Math.PI * hz * seconds + phase), 0)
}

function timing(notes: readonly TargetedNote[], random: () => number): TimeMap {
  const from: number[] = []
  const to: number[] = []
  let later = 0
  for (const { startSeconds } of notes) {
    later = 0.5 * later + WAVER_SECONDS * (2 * random() - 1)
    const frame = Math.round(startSeconds * SAMPLE_RATE_HZ)
    const moved = frame + Math.round(later * SAMPLE_RATE_HZ)
    if (from.length > 0 && (frame <= from[from.length - 1] || moved <= to[to.length - 1])) continue
    from.push(frame)
    to.push(moved)
  }
  return { from, to }
}

/** Where nothing is written, nobody sings. Changed in place. */
function silentBetween(voice: Mono, notes: readonly TargetedNote[], phrases: readonly Stretch[]): Mono {
  const sounds = new Uint8Array(Math.ceil(voice.length / FADE_FRAMES) + 1)
  const mark = (from: number, to: number, value: 0 | 1) =>
    sounds.fill(value, Math.max(0, Math.floor((from * SAMPLE_RATE_HZ) / FADE_FRAMES)), Math.max(0, Math.ceil((to * SAMPLE_RATE_HZ) / FADE_FRAMES)))
  const sung = notes.filter(note => note.targetCents !== null)
  for (const phrase of phrases) {
    const inside = sung.filter(note => note.startSeconds < phrase.endSeconds && note.endSeconds > phrase.startSeconds)
    if (inside.length === 0) continue
    const [first, last] = [inside[0], inside[inside.length - 1]]
    mark(
      Math.max(phrase.startSeconds - BESIDE_SECONDS / 4, first.startSeconds - BESIDE_SECONDS),
      Math.min(phrase.endSeconds + BESIDE_SECONDS / 4, last.endSeconds + BESIDE_SECONDS),
      1,
    )
  }
  for (const note of notes) if (note.targetCents === null) mark(note.startSeconds, note.endSeconds, 0)
  for (const note of sung) mark(note.startSeconds, note.endSeconds, 1)
  let gain = 0
  for (let i = 0; i < voice.length; i++) {
    const wanted = sounds[Math.floor(i / FADE_FRAMES)]
    gain += Math.max(-1 / FADE_FRAMES, Math.min(1 / FADE_FRAMES, wanted - gain))
    voice[i] *= gain
  }
  return voice
}

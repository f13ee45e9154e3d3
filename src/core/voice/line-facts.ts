/** What can be said of one sung line: clipped, quiet, noisy, late, flat. Stated, not judged. */
import { median } from '../audio/statistics'
import { powerToDecibels } from '../audio/decibels'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { beatAtFrame, frameOfBeat, type Grid } from '../beat/grid'
import { scaleSemitones, TONICS, type Key } from '../beat/key-names'
import type { FrameRange } from '../song/select'
import type { VoiceAnalysis } from './analyse-voice'

export interface LineFacts {
  /** Nothing was sung here. */
  silent: boolean
  /** Places where it was clipped; clips close together are one. */
  clips: number
  /** Loudness of the voice in the line, root mean square of its louder half. */
  voiceDbfs: number
  /** How far the voice stands above the room. */
  aboveNoiseDecibels: number
  /** Median distance of the note onsets from the nearest sixteenth of the beat; positive is late. Null with too few onsets. */
  lateMilliseconds: number | null
  /** Median distance of the held notes from the nearest note of the key, at the beat's tuning; positive is sharp. Null without a key or without held notes. */
  centsOff: number | null
}

/** Fewer onsets than this do not say whether a line is late. */
const LEAST_ONSETS = 3
/** In a line; of a single word less is enough. */
const LEAST_VOICED_HOPS = 20
const LEAST_VOICED_SHARE = 0.15
const HELD_HOPS = 16

/**
 * @param analysis Of the asset whose frame 0 is song frame `originFrame`.
 * @param key Null where it is not known.
 */
export function factsOfLine(
  analysis: VoiceAnalysis,
  originFrame: number,
  line: FrameRange,
  { grid, key, tuningCents }: { grid: Grid; key: Key | null; tuningCents: number },
): LineFacts {
  const hop = analysis.hopSeconds * SAMPLE_RATE_HZ
  const from = Math.max(0, Math.round((line.startFrame - originFrame) / hop))
  const to = Math.min(analysis.f0Hz.length, Math.round((line.endFrame - originFrame) / hop))
  const voiced: number[] = []
  for (let i = from; i < to; i++) if (analysis.f0Hz[i] > 0) voiced.push(analysis.power[i])
  voiced.sort((a, b) => a - b)
  const voiceDbfs = powerToDecibels(voiced[Math.floor(0.7 * voiced.length)] ?? 0)
  const inLine = (seconds: number) => originFrame + seconds * SAMPLE_RATE_HZ >= line.startFrame && originFrame + seconds * SAMPLE_RATE_HZ < line.endFrame
  const lates = analysis.onsetSeconds.filter(inLine).map(seconds => lateMilliseconds(grid, originFrame + seconds * SAMPLE_RATE_HZ))
  const offs = key ? heldNotes(analysis.f0Hz, from, to).map(cents => centsFromScale(cents - tuningCents, key)) : []
  return {
    silent: voiced.length < Math.min(LEAST_VOICED_HOPS, LEAST_VOICED_SHARE * (to - from)),
    clips: countPlaces(analysis.clipped.map(({ startSeconds }) => startSeconds).filter(inLine)),
    voiceDbfs,
    aboveNoiseDecibels: voiceDbfs - analysis.noiseFloorDbfs,
    lateMilliseconds: lates.length >= LEAST_ONSETS ? median(lates) : null,
    centsOff: offs.length > 0 ? median(offs) : null,
  }
}

const PLACE_SECONDS = 0.25

function countPlaces(times: readonly number[]): number {
  return times.filter((time, i) => i === 0 || time - times[i - 1] > PLACE_SECONDS).length
}

/** Milliseconds after the nearest sixteenth. */
export function lateMilliseconds(grid: Grid, frame: number): number {
  const beat = beatAtFrame(grid, frame)
  const nearest = Math.round(beat * 4) / 4
  // Within the beat the grid is straight: its length there is the beat's.
  const whole = Math.floor(nearest)
  const beatFrames = frameOfBeat(grid, whole + 1) - frameOfBeat(grid, whole)
  return (1_000 * (beat - nearest) * beatFrames) / SAMPLE_RATE_HZ
}

/** Medians, in cents above 440 Hz, of stretches that stay on one note. */
function heldNotes(f0Hz: Float32Array, from: number, to: number): number[] {
  const notes: number[] = []
  let run: number[] = []
  const close = () => {
    if (run.length >= HELD_HOPS) notes.push(median(run))
    run = []
  }
  for (let i = from; i < to; i++) {
    const cents = f0Hz[i] > 0 ? 1_200 * Math.log2(f0Hz[i] / 440) : NaN
    if (cents !== cents || (run.length > 0 && Math.abs(cents - median(run.slice(-HELD_HOPS))) > 80)) close()
    if (cents === cents) run.push(cents)
  }
  close()
  return notes
}

function centsFromScale(cents: number, { tonic, mode }: Key): number {
  const above = (((cents - 100 * (TONICS.indexOf(tonic) - 9)) % 1_200) + 1_200) % 1_200
  const offs = [...scaleSemitones(mode), 12].map(semitone => above - 100 * semitone)
  return offs.reduce((best, off) => (Math.abs(off) < Math.abs(best) ? off : best))
}

export interface Remark {
  kind: 'clipped' | 'quiet' | 'noisy' | 'late' | 'early' | 'flat' | 'sharp'
  /** Places, decibels, milliseconds or cents, as the kind says. */
  amount: number
}

const QUIET_DBFS = -42
/** From when on a singer hears it in a comparison; one set for every room, tuned on the practice singer's planted faults. */
export const WORTH_A_WORD = { belowVoiceDecibels: 24, lateMilliseconds: 30, offCents: 22 } as const

/**
 * Only what is worth hearing again.
 * @param habitMilliseconds How late this singer usually is on this beat: nobody is to be told every time that they lay back.
 */
export function remarksOn(facts: LineFacts, habitMilliseconds: number): Remark[] {
  if (facts.silent) return []
  const remarks: Remark[] = []
  if (facts.clips > 0) remarks.push({ kind: 'clipped', amount: facts.clips })
  if (facts.voiceDbfs < QUIET_DBFS) remarks.push({ kind: 'quiet', amount: facts.voiceDbfs })
  if (facts.aboveNoiseDecibels < WORTH_A_WORD.belowVoiceDecibels) remarks.push({ kind: 'noisy', amount: facts.aboveNoiseDecibels })
  const late = facts.lateMilliseconds === null ? 0 : facts.lateMilliseconds - habitMilliseconds
  if (Math.abs(late) > WORTH_A_WORD.lateMilliseconds) remarks.push({ kind: late > 0 ? 'late' : 'early', amount: Math.abs(late) })
  if (facts.centsOff !== null && Math.abs(facts.centsOff) > WORTH_A_WORD.offCents)
    remarks.push({ kind: facts.centsOff < 0 ? 'flat' : 'sharp', amount: Math.abs(facts.centsOff) })
  return remarks
}

/** What can be said of one sung line: clipped, quiet, noisy, late, flat. Stated, not judged. */
import { median } from '../audio/statistics'
import { powerToDecibels } from '../audio/decibels'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { beatAtFrame, frameOfBeat, type Grid } from '../beat/grid'
import { scaleSemitones, TONICS, type Key } from '../beat/key-names'
import type { FrameRange } from '../song/select'
import type { VoiceAnalysis } from './analyse-voice'
import { runsOf } from './runs'

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
  /** Rapped or spoken: no pitch is held, and nothing is said of it. */
  spoken: boolean
  /**
   * Median distance of the held notes from the nearest note of the key, at the beat's tuning; positive is sharp. Null without a key,
   * without held notes, or where it is spoken.
   */
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
  const spoken = isSpoken(analysis, from, to)
  const offs = key && !spoken ? heldNotes(analysis.f0Hz, from, to).map(cents => centsFromScale(cents - tuningCents, key)) : []
  return {
    silent: voiced.length < Math.min(LEAST_VOICED_HOPS, LEAST_VOICED_SHARE * (to - from)),
    clips: countPlaces(analysis.clipped.map(({ startSeconds }) => startSeconds).filter(inLine)),
    voiceDbfs,
    aboveNoiseDecibels: voiceDbfs - analysis.noiseFloorDbfs,
    lateMilliseconds: lates.length >= LEAST_ONSETS ? median(lates) : null,
    spoken,
    centsOff: offs.length > 0 ? median(offs) : null,
  }
}

/** About a turn of vibrato: its mean stays where the note is. */
const SMOOTH_SECONDS = 0.18
/** A smoothed pitch that moves by less than this from one moment to the next is held. */
const STEP_SECONDS = 0.06
const HELD_CENTS_PER_SECOND = 120
/**
 * So much is held in singing: of the moments at which it can be told, and of all that is voiced. Of 84 sung phrases (a synthesiser's of
 * two voices, straight and loose, with noise, and the practice singer's with up to 100 cents of vibrato) one holds less; of 37 rapped and
 * spoken ones two hold more.
 */
const LEAST_HELD_SHARE = 0.2
const LEAST_HELD_VOICE = 0.04
/** One word is too short to tell: what is round it says how it is meant. */
const CONTEXT_SECONDS = 3

/** Whether a stretch of the analysis is rapped or spoken. */
function isSpoken({ f0Hz, hopSeconds }: Pick<VoiceAnalysis, 'f0Hz' | 'hopSeconds'>, first: number, last: number): boolean {
  const beside = Math.max(0, Math.ceil((CONTEXT_SECONDS / hopSeconds - (last - first)) / 2))
  const from = Math.max(0, first - beside)
  const to = Math.min(f0Hz.length, last + beside)
  const smooth = Math.round(SMOOTH_SECONDS / hopSeconds)
  const step = Math.round(STEP_SECONDS / hopSeconds)
  let voiced = 0
  let moments = 0
  let held = 0
  for (const run of runsOf(to - from, i => f0Hz[from + i] > 0)) {
    const length = run.to - run.from
    voiced += length
    const sums = new Float64Array(length + 1)
    for (let i = 0; i < length; i++) sums[i + 1] = sums[i] + 1_200 * Math.log2(f0Hz[from + run.from + i] / 440)
    const meanAt = (i: number) => (sums[i + smooth] - sums[i]) / smooth
    for (let i = 0; i + smooth + step <= length; i++) {
      moments++
      if (Math.abs(meanAt(i + step) - meanAt(i)) < HELD_CENTS_PER_SECOND * STEP_SECONDS) held++
    }
  }
  return held < LEAST_HELD_SHARE * moments || held < LEAST_HELD_VOICE * voiced
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

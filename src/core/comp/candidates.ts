/** What takes of a line have in common, and how far each is from it. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { Song, Take } from '../song/schema'
import { lengthOf, type FrameRange } from '../song/select'
import type { VoiceAnalysis } from '../voice/analyse-voice'
import { factsOfLine } from '../voice/line-facts'
import type { CandidateFacts } from './propose-comp'

/** An onset further than this from another take’s belongs to another note. */
const SAME_ONSET_SECONDS = 0.2
const LEAST_TOGETHER_HOPS = 20
const HELD_HOPS = 20
const HALF_STEP_CENTS = 50

/** Facts of every take that sings a line, each measured against the middle of the others. */
export function candidatesOfLine(song: Pick<Song, 'beat'>, line: FrameRange, takes: readonly { take: Take; analysis: VoiceAnalysis }[]): CandidateFacts[] {
  const facts = takes.map(({ take, analysis }) => factsOfLine(analysis, take.originFrame, line, song.beat))
  const pitches = takes.map(({ take, analysis }) => centsOver(analysis, take.originFrame, line))
  const onsets = takes.map(({ take, analysis }) => analysis.onsetSeconds.map(seconds => seconds + take.originFrame / SAMPLE_RATE_HZ).filter(seconds => seconds * SAMPLE_RATE_HZ >= line.startFrame && seconds * SAMPLE_RATE_HZ < line.endFrame))
  const loudness = middle(facts.filter(entry => !entry.silent).map(entry => entry.voiceDbfs)) ?? 0
  const habit = middle(facts.flatMap(entry => entry.lateMilliseconds ?? [])) ?? 0
  return takes.map(({ take }, i) => {
    const others = takes.map((_, o) => o).filter(o => o !== i && !facts[o].silent)
    const centsFromOthers = others.length < 2 ? null : middle(others.flatMap(o => centsApart(pitches[i], pitches[o]) ?? []))
    return {
      takeId: take.id,
      silent: facts[i].silent,
      centsOff: onItsOwnNote(facts[i].centsOff, centsFromOthers, middle(others.flatMap(o => facts[o].centsOff ?? []))),
      centsFromOthers,
      waverCents: waverOf(pitches[i]),
      lateMilliseconds: facts[i].lateMilliseconds === null ? null : facts[i].lateMilliseconds! - (takes.length > 2 ? habit : 0),
      lateFromOthersMilliseconds: others.length < 2 ? null : middle(others.flatMap(o => lateAgainst(onsets[i], onsets[o]) ?? [])),
      levelFromOthers: facts[i].silent ? 0 : facts[i].voiceDbfs - loudness,
      aboveNoiseDecibels: facts[i].aboveNoiseDecibels,
      clips: facts[i].clips,
    }
  })
}

/** Cents above 440 Hz by hop over a range; NaN without voice. */
export function centsOver({ f0Hz, hopSeconds }: Pick<VoiceAnalysis, 'f0Hz' | 'hopSeconds'>, originFrame: number, range: FrameRange): Float32Array {
  const hop = hopSeconds * SAMPLE_RATE_HZ
  const first = Math.round((range.startFrame - originFrame) / hop)
  return Float32Array.from({ length: Math.floor(lengthOf(range) / hop) }, (_, i) => {
    const hz = f0Hz[first + i] ?? 0
    return hz > 0 ? 1_200 * Math.log2(hz / 440) : NaN
  })
}

/** What is half a step flat lies as near to the note below, as if it were sharp: the others say which note is meant. */
function onItsOwnNote(centsOff: number | null, fromOthers: number | null, othersOff: number | null): number | null {
  if (centsOff === null || fromOthers === null || othersOff === null) return centsOff
  const meant = othersOff + fromOthers
  return Math.abs(meant - centsOff) > HALF_STEP_CENTS ? meant : centsOff
}

/** Median of where both sing the same note. */
function centsApart(a: Float32Array, b: Float32Array): number | null {
  const apart: number[] = []
  for (let i = 0; i < a.length; i++) {
    const difference = a[i] - b[i]
    if (Math.abs(difference) < 120) apart.push(difference)
  }
  return apart.length < LEAST_TOGETHER_HOPS ? null : middle(apart)
}

/** Median of how late the onsets are against the nearest of another take. */
function lateAgainst(own: readonly number[], other: readonly number[]): number | null {
  const late = own.flatMap(seconds => {
    const nearest = other.reduce((best, at) => (Math.abs(at - seconds) < Math.abs(best - seconds) ? at : best), Infinity)
    return Math.abs(nearest - seconds) < SAME_ONSET_SECONDS ? [1_000 * (seconds - nearest)] : []
  })
  return late.length < 3 ? null : middle(late)
}

/** Median spread of the pitch over short stretches of voice. */
function waverOf(cents: Float32Array): number | null {
  const spreads: number[] = []
  for (let from = 0; from + HELD_HOPS <= cents.length; from += HELD_HOPS >> 1) {
    const held = Array.from(cents.subarray(from, from + HELD_HOPS))
    if (held.some(value => value !== value)) continue
    const spread = Math.max(...held) - Math.min(...held)
    // More is a change of note.
    if (spread < 150) spreads.push(spread / 2)
  }
  return spreads.length === 0 ? null : middle(spreads)
}

function middle(values: readonly number[]): number | null {
  const sorted = [...values].sort((a, b) => a - b)
  return sorted.length === 0 ? null : sorted[sorted.length >> 1]
}

/** What takes of a line have in common, and how far each is from it. */
import { median } from '../audio/statistics'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { LayerId, Song, Take } from '../song/schema'
import { covers, lengthOf, placedLines, type FrameRange } from '../song/select'
import type { VoiceAnalysis } from '../voice/analyse-voice'
import { factsOfLine } from '../voice/line-facts'
import type { CandidateFacts, LineCandidates } from './propose-comp'
import { seamCostAt } from './quiet-places'

/** An onset further than this from another take’s belongs to another note. */
const SAME_ONSET_SECONDS = 0.2
/** 100 ms of voice in both takes: less is a glide or an ornament, from which no difference of pitch can be told. */
const LEAST_TOGETHER_HOPS = 20
/** Whether a note wavers is measured over windows of 100 ms. */
const HELD_HOPS = 20
/** Further off than this, a note is nearer to the next semitone. */
const HALF_STEP_CENTS = 50

/** So many others say what takes have in common; with all of sixty, each would be compared with each. */
const MOST_COMPARED = 8

export interface Heard {
  take: Take
  analysis: VoiceAnalysis
}

/** The takes of a layer that sing at least half of some line; bounces are made of them and say nothing new. */
export function takesToCompare(song: Song, layerId: LayerId): Take[] {
  const lines = placedLines(song)
  return song.takes.filter(take => take.layerId === layerId && !take.binned && !take.bounceOf && lines.some(line => covers(take, line)))
}

/** What is known of takes line by line. */
export function candidatesByLine(song: Song, heard: readonly Heard[]): LineCandidates[] {
  return placedLines(song).map(({ line, startFrame, endFrame }) => {
    const covering = heard.filter(({ take }) => covers(take, { startFrame, endFrame }))
    const placed = covering.map(({ take, analysis }) => ({ analysis, originFrame: take.originFrame }))
    return {
      lineId: line.id,
      startFrame,
      endFrame,
      takes: candidatesOfLine(song, { startFrame, endFrame }, covering),
      seamCost: seamCostAt(placed, startFrame),
    }
  })
}

/**
 * Facts of takes that sing a line, each measured against the middle of others.
 * @param takes All that are known to sing it.
 * @param wanted Of these, whose facts are asked for.
 */
export function candidatesOfLine(song: Pick<Song, 'beat'>, line: FrameRange, takes: readonly Heard[], wanted: readonly Heard[] = takes): CandidateFacts[] {
  const compared = evenly(takes, MOST_COMPARED + 1)
  const readings = new Map([...new Set([...compared, ...wanted])].map(analysed => [analysed, readLine(analysed, line, song.beat)]))
  const sounding = [...readings.values()].filter(reading => !reading.facts.silent)
  const loudness = middle(sounding.map(({ facts }) => facts.voiceDbfs)) ?? 0
  const habit = middle([...readings.values()].flatMap(({ facts }) => facts.lateMilliseconds ?? [])) ?? 0
  return wanted.map(analysed => {
    const own = readings.get(analysed)!
    const { facts } = own
    const others = compared
      .map(entry => readings.get(entry)!)
      .filter(other => other !== own && !other.facts.silent)
      .slice(0, MOST_COMPARED)
    const centsFromOthers = others.length < 2 || facts.spoken ? null : middle(others.flatMap(other => centsApart(own.pitches, other.pitches) ?? []))
    return {
      takeId: analysed.take.id,
      silent: facts.silent,
      centsOff: onItsOwnNote(facts.centsOff, centsFromOthers, middle(others.flatMap(other => other.facts.centsOff ?? []))),
      centsFromOthers,
      waverCents: facts.spoken ? null : waverOf(own.pitches),
      lateMilliseconds: facts.lateMilliseconds === null ? null : facts.lateMilliseconds - (takes.length > 2 ? habit : 0),
      lateFromOthersMilliseconds: others.length < 2 ? null : middle(others.flatMap(other => lateAgainst(own.onsets, other.onsets) ?? [])),
      levelFromOthers: facts.silent ? 0 : facts.voiceDbfs - loudness,
      aboveNoiseDecibels: facts.aboveNoiseDecibels,
      clips: facts.clips,
    }
  })
}

/** What is read off one take of a line: its own facts, its pitch in cents by hop, its onsets in seconds of the song. */
function readLine({ take, analysis }: Heard, line: FrameRange, beat: Song['beat']) {
  const inLine = (seconds: number) => seconds * SAMPLE_RATE_HZ >= line.startFrame && seconds * SAMPLE_RATE_HZ < line.endFrame
  return {
    facts: factsOfLine(analysis, take.originFrame, line, beat),
    pitches: centsOver(analysis, take.originFrame, line),
    onsets: analysis.onsetSeconds.map(seconds => seconds + take.originFrame / SAMPLE_RATE_HZ).filter(inLine),
  }
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

/** At most so many, evenly from first to last. */
function evenly<T>(values: readonly T[], most: number): readonly T[] {
  return values.length <= most ? values : Array.from({ length: most }, (_, i) => values[Math.floor((i * values.length) / most)])
}

/** Median of where both sing the same note. */
function centsApart(a: Float32Array, b: Float32Array): number | null {
  const apart = new Float32Array(a.length)
  let count = 0
  for (let i = 0; i < a.length; i++) {
    const difference = a[i] - b[i]
    if (Math.abs(difference) < 120) apart[count++] = difference
  }
  return count < LEAST_TOGETHER_HOPS ? null : apart.subarray(0, count).sort()[count >> 1]
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
  return middle(spreads)
}

function middle(values: readonly number[]): number | null {
  return values.length === 0 ? null : median(values)
}

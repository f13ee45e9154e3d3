/** All that is laid over a take where a layer plays it: what follows from how the layer is tidied and tuned, and what the singer changed. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { pathsOfTake, timesOfTake } from '../align/led-paths'
import { originOf } from '../edits/in-asset'
import { gainsOf, isGain, mendsFor, type Findings, type Mend } from '../edits/tidy'
import { SHIFT_RANGE_CENTS, type GainEdit, type NoteEdit, type TimeEdit } from '../song/edit-schema'
import type { Layer, Song, Take } from '../song/schema'
import { currentComp, type FrameRange } from '../song/select'
import { hasEdits } from '../song/takes'
import type { Heard, TuneSettings } from '../song/tidy-schema'
import type { TargetedNote } from '../tune/targets'
import { sungAt, timeMapOf } from '../tune/time-map'
import { settingsOf } from '../tune/tune-settings'
import { leadPhrases } from './lead-phrases'
import { rungsDependOn, rungsOf } from './rungs-of'

export interface Tuning {
  settings: TuneSettings
  /** In order; their seconds count from the start of the asset. */
  notes: TargetedNote[]
}

/** In frames of the take's asset. */
export interface LaidOver {
  gains: readonly Omit<GainEdit, 'id'>[]
  /** Those that are moved by hand. */
  notes: readonly NoteEdit[]
  times: readonly TimeEdit[]
  /** Clicks, pops, clipped tops and noises, which no gain can mend. */
  redrawn: readonly Mend[]
  tuning: Tuning | null
}

const NOTHING: LaidOver = { gains: [], notes: [], times: [], redrawn: [], tuning: null }

/** Asked for again with every plan, and mostly unchanged; a take may be played by a few layers, each with its own way. */
const known = new WeakMap<Take, { by: readonly unknown[]; laid: LaidOver }[]>()
const MOST_WAYS = 4

/** What a take's sound goes through in one layer. */
export function laidOver(song: Song, layer: Layer, take: Take): LaidOver {
  const { tidy, tune } = layer
  const paths = pathsOfTake(song, layer, take)
  if (!tidy && !tune && !hasEdits(take) && paths.length === 0) return NOTHING
  const origin = originIn(layer, take)
  const by = [
    tidy,
    tune,
    ...(tune ? rungsDependOn(song, layer, tune) : []),
    ...(tidy?.endsWithLead ? [leadPhrases(song, layer), origin] : []),
    layer.together?.tightness,
    ...paths,
  ]
  const ways = known.get(take) ?? []
  const before = ways.find(way => way.by.length === by.length && way.by.every((value, i) => value === by[i]))
  if (before) return before.laid
  const mends = mendsOf(song, layer, take)
  const laid: LaidOver = {
    notes: take.edits.notes,
    times: timesOfTake(song, layer, take),
    gains: [...take.edits.gains, ...gainsOf(mends)],
    redrawn: mends.filter(mend => !isGain(mend)),
    tuning: tuningOf(song, layer, take),
  }
  known.set(take, [...ways.slice(1 - MOST_WAYS), { by, laid }])
  return laid
}

/** What of its layer's policy applies to a take: a bounce has in it what lay over its layer when it was made. */
function policyFor<P>(bounced: P | null | undefined, policy: P | null): P | null {
  return bounced ? null : policy
}

/** The mends of a take in a layer, without those that the singer took off. */
export function mendsOf(song: Song, layer: Layer, take: Take): Mend[] {
  return allMendsOf(song, layer, take).flatMap(({ mend, isOff }) => (isOff ? [] : [mend]))
}

/** Every mend that the layer's policy asks for, with the singer's own amount, and whether it is taken off. */
export function allMendsOf(song: Song, layer: Layer, take: Take): { mend: Mend; isOff: boolean; isOwn: boolean }[] {
  const policy = policyFor(take.bounceOf?.tidy, layer.tidy)
  if (!policy || !take.heard) return []
  const leadSings = policy.endsWithLead ? onTakesClock(leadPhrases(song, layer), originIn(layer, take), timesOfTake(song, layer, take)) : []
  return mendsFor(findingsOf(take.heard), policy, take.heard.frames / SAMPLE_RATE_HZ, leadSings).map(mend => {
    const own = take.edits.mends.find(entry => entry.kind === mend.kind && entry.startFrame === mend.startFrame)
    if (!own) return { mend, isOff: false, isOwn: false }
    return { mend: { ...mend, decibels: own.decibels ?? mend.decibels }, isOff: own.decibels === null, isOwn: true }
  })
}

/** Where in the song the take's frame 0 lies in the layer: as its first pick there places it. */
function originIn(layer: Layer, take: Take): number {
  const pick = currentComp(layer).picks.find(({ takeId }) => takeId === take.id)
  return pick ? originOf(pick, take) : take.originFrame
}

/** What of the take sounds there: it may be moved. */
function onTakesClock(ranges: readonly FrameRange[], originFrame: number, times: readonly TimeEdit[]) {
  const time = timeMapOf(times)
  const seconds = (frame: number) => sungAt(time, frame - originFrame) / SAMPLE_RATE_HZ
  return ranges.map(({ startFrame, endFrame }) => ({ startSeconds: seconds(startFrame), endSeconds: seconds(endFrame) }))
}

function findingsOf(heard: Heard): Findings {
  const seconds = (pairs: readonly (readonly [number, number])[]) =>
    pairs.map(([start, end]) => ({ startSeconds: start / SAMPLE_RATE_HZ, endSeconds: end / SAMPLE_RATE_HZ }))
  return {
    phrases: seconds(heard.phrases),
    breaths: seconds(heard.breaths),
    esses: seconds(heard.esses),
    pops: seconds(heard.pops),
    clicks: seconds(heard.clicks),
    noises: seconds(heard.noises),
    finals: seconds(heard.finals),
    clipped: seconds(heard.clipped),
  }
}

/** The notes of a take and where they are drawn to; null where the layer is not tuned, or nothing says to what. */
function tuningOf(song: Song, layer: Layer, take: Take): Tuning | null {
  const tune = policyFor(take.bounceOf?.tune, layer.tune)
  if (!tune || !take.heard || !song.beat.key) return null
  return { settings: settingsOf(tune), notes: notesOfTake(song, layer, take, take.heard).map(({ note }) => note) }
}

/** Each note that was found in a take, where it would be drawn to, and what the singer decided for it. */
export function notesOfTake(song: Song, layer: Layer, take: Take, heard: Heard): { note: TargetedNote; own: NoteEdit | null; rungCents: number | null }[] {
  return rungsOf(song, layer, take, heard).map(({ targetCents: rungCents, ...note }) => {
    const middle = ((note.startSeconds + note.endSeconds) / 2) * SAMPLE_RATE_HZ
    const own = take.edits.notes.find(({ startFrame, endFrame }) => startFrame <= middle && endFrame > middle) ?? null
    // A note moved by hand goes to its own rung, or is left to its shift; all others to what the layer is tuned to.
    return { note: { ...note, targetCents: own ? withinReach(own.rungCents, note.cents) : rungCents }, own, rungCents }
  })
}

/** No voice is led further than an octave. */
function withinReach(rungCents: number | null, cents: number): number | null {
  return rungCents === null ? null : Math.max(cents + SHIFT_RANGE_CENTS.min, Math.min(cents + SHIFT_RANGE_CENTS.max, rungCents))
}

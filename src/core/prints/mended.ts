/** Which stretches of a take are printed: round all that is moved or drawn anew, as far as the voice needs to be itself again. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { SETTLED_FRAMES } from '../tune/resynthesise'
import { isMoved } from '../tune/shifts'
import type { TargetedNote } from '../tune/targets'
import { TIME_REACH_FRAMES } from '../tune/time-map'
import type { AssetId } from '../song/schema'
import type { TuneSettings } from '../song/tidy-schema'
import type { PrintJob } from './jobs'
import type { LaidOver } from './laid-over'

export type MendedJob = Extract<PrintJob, { kind: 'mended' }>

/** Before the first change so much is kept, for what is laid crosses it by a period or two. */
const BEFORE_FRAMES = 2_400

/** Asked for with every plan of a mix. */
const known = new WeakMap<LaidOver, { assetId: AssetId; jobs: MendedJob[] }>()

/** In order, without overlap; none where nothing is moved. */
export function mendedJobsOf(assetId: AssetId, laid: LaidOver): MendedJob[] {
  const before = known.get(laid)
  if (before?.assetId === assetId) return before.jobs
  const jobs = cutJobs(assetId, laid)
  known.set(laid, { assetId, jobs })
  return jobs
}

function cutJobs(assetId: AssetId, { notes, times, redrawn, tuning }: LaidOver): MendedJob[] {
  // A note that is drawn to its own rung is among the tuned ones.
  const shifted = notes.filter(({ rungCents }) => rungCents === null || !tuning)
  const tuned = tuning ? tuning.notes.filter(note => isHeardTuned(note, tuning.settings)) : []
  const stretches = [
    ...shifted.filter(({ shiftCents }) => shiftCents !== 0).map(({ startFrame, endFrame }) => ({ from: startFrame, to: endFrame })),
    ...times.map(({ frame }) => ({ from: frame - TIME_REACH_FRAMES, to: frame + TIME_REACH_FRAMES })),
    ...redrawn.map(({ startFrame, endFrame }) => ({ from: startFrame, to: endFrame })),
    ...tuned.map(note => framesOf(note)),
  ].sort((a, b) => a.from - b.from)
  const joined: { from: number; to: number }[] = []
  for (const { from, to } of stretches) {
    const last = joined.at(-1)
    const wide = { from: Math.max(0, from - BEFORE_FRAMES), to: to + SETTLED_FRAMES }
    if (last && wide.from <= last.to) last.to = Math.max(last.to, wide.to)
    else joined.push(wide)
  }
  return joined.map(({ from, to }) => {
    const inside = ({ startFrame, endFrame }: { startFrame: number; endFrame: number }) => startFrame >= from && endFrame <= to
    return {
      kind: 'mended',
      assetId,
      startFrame: from,
      endFrame: to,
      notes: shifted.filter(inside).map(({ startFrame, endFrame, shiftCents }) => ({ startFrame, endFrame, shiftCents })),
      times: times.filter(({ frame }) => frame >= from && frame <= to).map(({ id: _, ...time }) => time),
      redrawn: redrawn.filter(inside),
      tuning: tuning && {
        settings: tuning.settings,
        notes: tuned.filter(note => {
          const { from: start, to: end } = framesOf(note)
          return start >= from && end <= to
        }),
      },
    }
  })
}

/** A throat is moved in every note, whether its pitch is or not. */
function isHeardTuned(note: TargetedNote, settings: TuneSettings): boolean {
  return settings.throatSemitones !== 0 || isMoved(note, settings)
}

function framesOf({ startSeconds, endSeconds }: TargetedNote) {
  return { from: Math.round(startSeconds * SAMPLE_RATE_HZ), to: Math.round(endSeconds * SAMPLE_RATE_HZ) }
}

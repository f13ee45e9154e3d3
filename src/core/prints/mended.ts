/** Which stretches of a take are printed: round the notes and the places that are moved, as far as the voice needs to be itself again. */
import { SETTLED_FRAMES } from '../tune/resynthesise'
import { TIME_REACH_FRAMES } from '../tune/time-map'
import type { Take } from '../song/schema'
import type { PrintJob } from './jobs'

export type MendedJob = Extract<PrintJob, { kind: 'mended' }>

/** Before the first change so much is kept, for what is laid crosses it by a period or two. */
const BEFORE_FRAMES = 2_400

/** In order, without overlap; none where nothing is moved. */
export function mendedJobsOf({ assetId, edits }: Pick<Take, 'assetId' | 'edits'>): MendedJob[] {
  const stretches = [
    ...edits.notes.map(note => ({ from: note.startFrame, to: note.endFrame })),
    ...edits.times.map(({ frame }) => ({ from: frame - TIME_REACH_FRAMES, to: frame + TIME_REACH_FRAMES })),
  ].sort((a, b) => a.from - b.from)
  const joined: { from: number; to: number }[] = []
  for (const { from, to } of stretches) {
    const last = joined.at(-1)
    const wide = { from: Math.max(0, from - BEFORE_FRAMES), to: to + SETTLED_FRAMES }
    if (last && wide.from <= last.to) last.to = Math.max(last.to, wide.to)
    else joined.push(wide)
  }
  return joined.map(({ from, to }) => ({
    kind: 'mended',
    assetId,
    startFrame: from,
    endFrame: to,
    notes: edits.notes.filter(note => note.startFrame >= from && note.endFrame <= to).map(({ id: _, ...note }) => note),
    times: edits.times.filter(({ frame }) => frame >= from && frame <= to).map(({ id: _, ...time }) => time),
  }))
}

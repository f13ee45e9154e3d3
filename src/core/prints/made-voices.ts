/** What a layer sings that nobody sang: which stretches of the lead are drawn to its part, a print for each phrase. */
import { leadOf } from '../align/led-paths'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { originOf } from '../edits/in-asset'
import type { Layer, Pick, Song, Take } from '../song/schema'
import { currentComp, lengthOf, overlapFrames, placedLines, requireTake, type FrameRange } from '../song/select'
import type { PlacedPartNote } from '../song/part-schema'
import type { Heard } from '../song/tidy-schema'
import type { PrintJob } from './jobs'
import { sungNotes } from './rungs-of'

export type MadeJob = Extract<PrintJob, { kind: 'made' }>
type ToneJob = Extract<PrintJob, { kind: 'tone' }>

/** A print and where it sounds: its frame 0 is at `startFrame` of the song. */
export interface MadePhrase extends FrameRange {
  job: MadeJob | ToneJob
}

/** A phrase is made with so much beside it: its consonants. */
const BESIDE_FRAMES = 0.12 * SAMPLE_RATE_HZ
/** A line in which takes play for so much is sung. */
const SUNG_SHARE = 0.25

const known = new WeakMap<Layer, { by: readonly unknown[]; phrases: MadePhrase[] }>()

/** In order; none where the layer is not made, plays takes, or the lead rests or was not listened to. The same object while nothing of it changes. */
export function madePhrases(song: Song, layer: Layer): MadePhrase[] {
  if (layer.made?.sound === 'tone') return tonePhrases(song, layer)
  const lead = layer.made && layer.part.length > 0 ? leadOf(song, layer) : null
  if (!lead) return []
  const comp = currentComp(lead)
  const takes = comp.picks.map(pick => requireTake(song, pick.takeId))
  const by = [comp, song.sections, song.beat.grid, ...takes.flatMap(take => [take.heard, take.originFrame])]
  const before = known.get(layer)
  if (before && before.by.length === by.length && before.by.every((value, i) => value === by[i])) return before.phrases
  const lines = unsungLines(song, layer)
  const phrases = comp.picks.flatMap((pick, i) => phrasesIn(takes[i], pick, lines, layer)).sort((a, b) => a.startFrame - b.startFrame)
  known.set(layer, { by, phrases })
  return phrases
}

/** A rest of so much parts two phrases of a tone. */
const REST_FRAMES = 0.4 * SAMPLE_RATE_HZ

/** Notes over which no take plays, as far as they follow each other. */
function tonePhrases({ beat }: Song, layer: Layer): MadePhrase[] {
  const before = known.get(layer)
  const by = [beat.assetId, beat.tuningCents]
  if (before && before.by.every((value, i) => value === by[i])) return before.phrases
  const { picks } = currentComp(layer)
  const unsung = layer.part.filter(note => picks.reduce((sum, pick) => sum + overlapFrames(pick, note), 0) <= SUNG_SHARE * lengthOf(note))
  const runs: PlacedPartNote[][] = []
  for (const note of unsung) {
    const run = runs.at(-1)
    if (run && note.startFrame - run[run.length - 1].endFrame < REST_FRAMES) run.push(note)
    else runs.push([note])
  }
  const phrases = runs.map((run): MadePhrase => {
    const range = { startFrame: run[0].startFrame, endFrame: run[run.length - 1].endFrame }
    const notes = run.map(note => ({ midi: note.midi, startFrame: note.startFrame - range.startFrame, endFrame: note.endFrame - range.startFrame }))
    return { ...range, job: { kind: 'tone', assetId: beat.assetId, ...range, notes, tuningCents: beat.tuningCents } }
  })
  known.set(layer, { by, phrases })
  return phrases
}

/** Lines of the part in which the layer plays no take. */
export function unsungLines(song: Song, layer: Layer): FrameRange[] {
  const { picks } = currentComp(layer)
  return placedLines(song).filter(line => {
    const sung = picks.reduce((sum, pick) => sum + overlapFrames(pick, line), 0)
    return sung <= SUNG_SHARE * lengthOf(line) && layer.part.some(note => overlapFrames(note, line) > 0)
  })
}

function phrasesIn(take: Take, pick: Pick, lines: readonly FrameRange[], layer: Layer): MadePhrase[] {
  const { heard } = take
  const origin = originOf(pick, take)
  return (heard?.phrases ?? []).flatMap(([from, to], i, all) => {
    const phrase = { startFrame: origin + from, endFrame: origin + to }
    const middle = (phrase.startFrame + phrase.endFrame) / 2
    const line = lines.find(entry => middle >= entry.startFrame && middle < entry.endFrame)
    if (!line || overlapFrames(phrase, pick) === 0) return []
    // Half of the rest to the next phrase is the next phrase's.
    const least = i > 0 ? origin + (all[i - 1][1] + from) / 2 : -Infinity
    const most = i + 1 < all.length ? origin + (to + all[i + 1][0]) / 2 : Infinity
    const startFrame = Math.ceil(Math.max(pick.startFrame, phrase.startFrame - BESIDE_FRAMES, least, origin))
    const endFrame = Math.floor(Math.min(pick.endFrame, phrase.endFrame + BESIDE_FRAMES, most))
    const job = endFrame > startFrame ? jobOf(take, heard!, { startFrame: startFrame - origin, endFrame: endFrame - origin }, origin, layer) : null
    return job ? [{ job, startFrame, endFrame }] : []
  })
}

/** Null where nothing of the part lies in it. */
function jobOf(take: Take, heard: Heard, range: FrameRange, origin: number, { part, made }: Layer): MadeJob | null {
  const notes = part
    .filter(note => note.endFrame - origin > range.startFrame && note.startFrame - origin < range.endFrame)
    .map(note => ({ startFrame: note.startFrame - origin, endFrame: note.endFrame - origin, midi: note.midi }))
  if (notes.length === 0) return null
  const sung = sungNotes(heard).filter(note => note.endSeconds * SAMPLE_RATE_HZ > range.startFrame && note.startSeconds * SAMPLE_RATE_HZ < range.endFrame)
  return { kind: 'made', assetId: take.assetId, ...range, notes, sung, throatSemitones: made!.throatSemitones, seed: made!.seed }
}

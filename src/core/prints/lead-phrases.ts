/** Where the lead sings, for those that end with it. */
import { leadOf } from '../align/led-paths'
import { originOf } from '../edits/in-asset'
import type { Comp, Layer, Song, Take } from '../song/schema'
import { currentComp, requireTake, type FrameRange } from '../song/select'
import type { Heard } from '../song/tidy-schema'

const NONE: FrameRange[] = []
const known = new WeakMap<Comp, { by: readonly unknown[]; phrases: FrameRange[] }>()

/** Phrases that a layer's lead plays, in frames of the song; the same object while nothing of them changes. */
export function leadPhrases(song: Song, layer: Layer): FrameRange[] {
  const lead = leadOf(song, layer)
  if (!lead) return NONE
  const comp = currentComp(lead)
  const takes = comp.picks.map(pick => requireTake(song, pick.takeId))
  const by = takes.flatMap(take => [take.heard, take.originFrame])
  const before = known.get(comp)
  if (before && before.by.length === by.length && before.by.every((value, i) => value === by[i])) return before.phrases
  const phrases = comp.picks
    .flatMap((pick, i) => phrasesOf(takes[i], originOf(pick, takes[i]), pick))
    .sort((a, b) => a.startFrame - b.startFrame)
    .reduce<FrameRange[]>(joinTouching, [])
  known.set(comp, { by, phrases })
  return phrases
}

function phrasesOf({ heard }: { heard: Heard | null } & Pick<Take, 'id'>, originFrame: number, pick: FrameRange): FrameRange[] {
  return (heard?.phrases ?? [])
    .map(([start, end]) => ({ startFrame: Math.max(pick.startFrame, originFrame + start), endFrame: Math.min(pick.endFrame, originFrame + end) }))
    .filter(({ startFrame, endFrame }) => endFrame > startFrame)
}

/** A phrase that two picks share is one. */
function joinTouching(phrases: FrameRange[], phrase: FrameRange): FrameRange[] {
  const last = phrases.at(-1)
  if (last && phrase.startFrame <= last.endFrame + 1) last.endFrame = Math.max(last.endFrame, phrase.endFrame)
  else phrases.push({ ...phrase })
  return phrases
}

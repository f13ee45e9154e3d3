/** Where in the song two states of it differ, in the sheet's words. */
import type { Song } from './schema'
import { currentComp, placedLines, type FrameRange } from './select'
import { placeOfTake } from './take-place'

/** "Lead, Hook 1, line 3" for picks; "Hook 1, line 3" for a line; "Hook 1" for a section; null where it has no place, as a mix has none. */
export function placeOfChange(before: Song, after: Song): string | null {
  return placeOfPicks(before, after) ?? placeOfLines(before, after)
}

function placeOfPicks(before: Song, after: Song): string | null {
  if (before.layers === after.layers) return null
  for (const layer of after.layers) {
    const was = before.layers.find(entry => entry.id === layer.id)
    if (!was || was === layer) continue
    const changed = differing(currentComp(was).picks, currentComp(layer).picks)
    if (changed) return `${layer.name}, ${placeOfTake(after, changed)}`
  }
  return null
}

/** From the first entry that is in but one of two lists to the last; null if both hold the same. */
function differing<T extends FrameRange>(a: readonly T[], b: readonly T[]): FrameRange | null {
  const key = (entry: T) => JSON.stringify(entry)
  const [inA, inB] = [new Set(a.map(key)), new Set(b.map(key))]
  const alone = [...a.filter(entry => !inB.has(key(entry))), ...b.filter(entry => !inA.has(key(entry)))]
  if (alone.length === 0) return null
  return { startFrame: Math.min(...alone.map(entry => entry.startFrame)), endFrame: Math.max(...alone.map(entry => entry.endFrame)) }
}

function placeOfLines(before: Song, after: Song): string | null {
  if (before.sections === after.sections) return null
  const old = new Map(placedLines(before).map(placed => [placed.line.id, placed]))
  const changed = placedLines(after).filter(({ line, startFrame, endFrame }) => {
    const was = old.get(line.id)
    return !was || was.line.words !== line.words || was.startFrame !== startFrame || was.endFrame !== endFrame
  })
  const [first] = changed
  const last = changed.at(-1)
  if (!first || !last) {
    const section = after.sections.find(
      entry => !before.sections.some(other => other.id === entry.id && other.name === entry.name && other.startBar === entry.startBar),
    )
    return section?.name ?? null
  }
  if (first.section.id !== last.section.id) return `${first.section.name} to ${last.section.name}`
  return first === last ? `${first.section.name}, line ${first.number}` : `${first.section.name}, lines ${first.number} to ${last.number}`
}

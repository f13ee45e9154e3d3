/** Lines that come into the sheet are wanted of the layers that sing such sections. */
import { produce } from 'immer'
import type { LineId, Section, Song } from './schema'

/** "Hook 2" and "hook" are of one kind. */
export function plainSection(section: string): string {
  return (
    section
      .replace(/[\s\d]+$/, '')
      .trim()
      .toLowerCase() || section.trim().toLowerCase()
  )
}

/** @param sings Plain names of sections; null: all. */
export function linesToSing(sections: readonly Section[], sings: readonly string[] | null): LineId[] {
  const asked = sections.filter(section => sings === null || sings.includes(plainSection(section.name)))
  return asked.flatMap(section => section.lines.map(line => line.id))
}

/** The plan of a sheet that was laid: lines that were there before stay as they were planned. */
export function planNewLines(before: Song, after: Song): Song {
  const old = new Set<string>(before.sections.flatMap(section => section.lines.map(line => line.id)))
  const fresh = after.layers.map(layer => linesToSing(after.sections, layer.sings).filter(id => !old.has(id)))
  if (fresh.every(ids => ids.length === 0)) return after
  return produce(after, draft => {
    draft.layers.forEach((layer, i) => (layer.wanted = [...layer.wanted, ...fresh[i]].slice(-MOST_WANTED)))
  })
}

export const MOST_WANTED = 2_000

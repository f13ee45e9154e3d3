/** Words of a line, as something is laid on them: they are found again when the sheet changes. */
import { z } from 'zod'
import { id } from './fields'

const at = z.number().int().min(0).max(500)

/** Words of a line from the first to the last, counted from 0, of how many, and what they were; null: the whole line. */
export const AnchorSchema = z.strictObject({
  lineId: id.brand<'LineId'>(),
  words: z
    .strictObject({ from: at, to: at, of: at, text: z.string().max(500) })
    .refine(({ from, to }) => from <= to, 'a last word that is not before the first')
    .nullable(),
})
export type Anchor = z.infer<typeof AnchorSchema>
export interface WordRange {
  from: number
  to: number
}

type Words = { words: string }

export function wordsOfLine({ words }: Words): string[] {
  return words.split(/\s+/).filter(Boolean)
}

/** @throws RangeError if the line has no such words. */
export function anchorTo(line: Words & { id: Anchor['lineId'] }, words: WordRange | null): Anchor {
  if (words === null) return { lineId: line.id, words: null }
  const all = wordsOfLine(line)
  const { from, to } = words
  if (!(from >= 0 && from <= to && to < all.length)) throw new RangeError(`the line has ${all.length} words, got ${from} to ${to}`)
  return { lineId: line.id, words: { from, to, of: all.length, text: all.slice(from, to + 1).join(' ') } }
}

/**
 * Where the words are in a line now: the nearest place that says the same, or, in a line that has as many words as it had, the same place, for
 * then a word was only spelled otherwise. Null: the line does not say them any more.
 */
export function findWords({ from, to, of, text }: NonNullable<Anchor['words']>, line: Words): WordRange | null {
  const all = wordsOfLine(line)
  const length = to - from + 1
  const starts = all.map((_, start) => start).filter(start => all.slice(start, start + length).join(' ') === text)
  const nearest = starts.sort((a, b) => Math.abs(a - from) - Math.abs(b - from))[0]
  if (nearest !== undefined) return { from: nearest, to: nearest + length - 1 }
  return all.length === of ? { from, to } : null
}

/** The line and the words that an anchor means; a line that was parted has handed words to the one after it. Null: they are gone. */
export function resolveAnchor<P extends { line: Words & { id: Anchor['lineId'] } }>(
  { lineId, words }: Anchor,
  lines: readonly P[],
): { placed: P; words: WordRange | null } | null {
  const at = lines.findIndex(({ line }) => line.id === lineId)
  if (at < 0) return null
  if (words === null) return { placed: lines[at], words: null }
  for (const placed of lines.slice(at, at + 2)) {
    const found = findWords(words, placed.line)
    if (found) return { placed, words: found }
  }
  return null
}

/** Where anchors lie on the sheet: for each line the words that are meant, a line as a whole from its first word to its last; words that are gone, nowhere. */
export function anchoredWords<L extends Words & { id: Anchor['lineId'] }>(
  anchors: readonly Anchor[],
  lines: readonly { line: L }[],
): Map<Anchor['lineId'], WordRange[]> {
  const found = new Map<Anchor['lineId'], WordRange[]>()
  for (const anchor of anchors) {
    const at = resolveAnchor(anchor, lines)
    if (!at) continue
    const { line } = at.placed
    const words = at.words ?? { from: 0, to: wordsOfLine(line).length - 1 }
    found.set(line.id, [...(found.get(line.id) ?? []), words])
  }
  return found
}

/** Which lines of a changed text are lines that were there: by the longest common subsequence, of lines first and of their words then. */

export interface TextLine {
  words: string
  /** Of two lines that are equally alike, the one under the same heading is meant. */
  sectionName: string
}

/** Below this share of common words a line is another line. */
const LEAST_LIKENESS = 0.5
const SAME_SECTION_BONUS = 0.01

/** For every new line the index of the old line it was, rising; null for one that is new. */
export function matchLines(before: readonly TextLine[], after: readonly TextLine[]): (number | null)[] {
  const old = before.map(prepare)
  const fresh = after.map(prepare)
  const matches: (number | null)[] = after.map(() => null)
  // What both texts begin or end with needs no table.
  let start = 0
  while (start < old.length && start < fresh.length && isSame(old[start], fresh[start])) matches[start] = start++
  let end = 0
  while (end < Math.min(old.length, fresh.length) - start && isSame(old[old.length - 1 - end], fresh[fresh.length - 1 - end])) {
    matches[fresh.length - 1 - end] = old.length - 1 - end
    end++
  }
  const rows = old.length - end - start
  const columns = fresh.length - end - start
  const width = columns + 1
  // best[i * width + j]: how much of the lines from old i and fresh j on can be matched.
  const best = new Float64Array((rows + 1) * width)
  const likeness = new Float64Array(rows * columns)
  for (let i = rows - 1; i >= 0; i--) {
    for (let j = columns - 1; j >= 0; j--) {
      const alike = likenessOf(old[start + i], fresh[start + j])
      likeness[i * columns + j] = alike
      const skipped = Math.max(best[(i + 1) * width + j], best[i * width + j + 1])
      best[i * width + j] = alike > 0 ? Math.max(skipped, alike + best[(i + 1) * width + j + 1]) : skipped
    }
  }
  for (let i = 0, j = 0; i < rows && j < columns;) {
    const alike = likeness[i * columns + j]
    if (alike > 0 && best[i * width + j] === alike + best[(i + 1) * width + j + 1]) matches[start + j++] = start + i++
    else if (best[(i + 1) * width + j] >= best[i * width + j + 1]) i++
    else j++
  }
  return matches
}

interface PreparedLine {
  text: string
  words: string[]
  section: string
}

function prepare({ words, sectionName }: TextLine): PreparedLine {
  const text = words
    .toLowerCase()
    .replace(/[^\p{L}\p{N}\s]/gu, '')
    .trim()
  return { text, words: text.split(/\s+/).filter(Boolean), section: sectionName.toLowerCase() }
}

function isSame(a: PreparedLine, b: PreparedLine): boolean {
  return a.text === b.text && a.section === b.section
}

/** 0 for different lines, else more than half, and a little above 1 for the same line. */
function likenessOf(a: PreparedLine, b: PreparedLine): number {
  const bonus = a.section === b.section ? SAME_SECTION_BONUS : 0
  if (a.text === b.text) return 1 + bonus
  const share = (2 * commonWords(a.words, b.words)) / (a.words.length + b.words.length)
  return share >= LEAST_LIKENESS ? share + bonus : 0
}

/** Length of the longest common subsequence of two lines' words. */
function commonWords(a: readonly string[], b: readonly string[]): number {
  let row = new Uint16Array(b.length + 1)
  for (const word of a) {
    const next = new Uint16Array(b.length + 1)
    for (let j = 0; j < b.length; j++) next[j + 1] = word === b[j] ? row[j] + 1 : Math.max(row[j + 1], next[j])
    row = next
  }
  return row[b.length]
}

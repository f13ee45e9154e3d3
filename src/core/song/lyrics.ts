/** Reading pasted lyrics: lines, with sections begun by a blank line or a heading in brackets. */

export interface LyricSection {
  name: string
  lines: string[]
  /** Bar the heading asks for, as in "[Verse 1 | bar 5]"; null if it asks for none. */
  bar: number | null
  /** Length the heading asks for, as in "[Lift | 4 bars]"; null for as long as its lines. */
  bars: number | null
}

/** Headings may say a bar and a length: "[Hook | bar 17 | 8 bars]". Without a heading a section is "Verse n". Empty text gives no sections. */
export function parseLyrics(text: string): LyricSection[] {
  const sections: LyricSection[] = []
  let current: LyricSection | null = null
  let verses = 0
  const begin = (name: string | null, bar: number | null = null, bars: number | null = null) => {
    current = { name: name ?? `Verse ${++verses}`, lines: [], bar, bars }
    sections.push(current)
    return current
  }
  for (const raw of text.split(/\r\n|\r|\n/)) {
    const line = withoutTimes(raw.trim())
    if (line === null) continue
    const heading = /^\[([^\]]*)\]$/.exec(line)
    if (heading) {
      const parts = heading[1].split('|').map(part => part.trim())
      const bar = parts.map(part => /^bar (\d+)$/i.exec(part)).find(match => match !== null)
      const bars = parts.map(part => /^(\d+) bars?$/i.exec(part)).find(match => match !== null)
      begin(parts[0] || null, bar ? Number(bar[1]) : null, bars ? Number(bars[1]) : null)
    } else if (line === '') {
      current = null
    } else {
      ;(current ?? begin(null)).lines.push(line.slice(0, 500))
    }
  }
  return sections
}

/** Of timed lyrics, whose times are those of another recording: "[00:12.30]" before a line, "<00:12.80>" before a word. */
const LINE_TIMES = /^(\[\d{1,3}:\d{1,2}(?:[.:]\d{1,3})?\]\s*)+/
const WORD_TIMES = /<\d{1,3}:\d{1,2}(?:[.:]\d{1,3})?>\s*/g
const ABOUT = /^\[(ti|ar|al|au|by|re|ve|length|offset|tool|#):[^\]]*\]$/i

/** The words of a line of timed lyrics, and any other line as it is; null for what says something about the file. */
function withoutTimes(line: string): string | null {
  if (ABOUT.test(line)) return null
  return line.replace(LINE_TIMES, '').replaceAll(WORD_TIMES, '').trim()
}

/** The sheet as lyrics again, with headings. */
export function formatLyrics(sections: readonly { name: string; lines: readonly { words: string }[] }[]): string {
  return sections
    .filter(section => section.lines.length > 0)
    .map(section => [`[${section.name}]`, ...section.lines.map(line => line.words || '…')].join('\n'))
    .join('\n\n')
}

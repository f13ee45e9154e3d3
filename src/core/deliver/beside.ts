/** What goes beside the sound: the words as text, as timed lyrics, the places of the song as a table. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { barAtFrame, frameOfBar, framesPerBeat } from '../beat/grid'
import { wordsSung } from '../mix/words-sung'
import type { Layer, Song } from '../song/schema'
import { placedLines } from '../song/select'

/** The words of each section that has any. */
function saidIn(sections: Song['sections']): { name: string; words: string }[] {
  return sections
    .map(({ name, lines }) => ({
      name,
      words: lines
        .map(line => line.words)
        .filter(Boolean)
        .join('\n'),
    }))
    .filter(({ words }) => words)
}

/** The sheet as text: its sections with their lines. */
export function lyricsText({ title, sections }: Pick<Song, 'title' | 'sections'>): string {
  return `${[title, ...saidIn(sections).map(({ name, words }) => `[${name}]\n${words}`)].join('\n\n')}\n`
}

/** The words alone, as tags hold them. */
export function plainLyrics({ sections }: Pick<Song, 'sections'>): string {
  return saidIn(sections)
    .map(({ words }) => words)
    .join('\n\n')
}

/**
 * Timed lyrics: each line where it is sung, each word of it behind its own time. Times are those of a file that begins with the song.
 * @param layer Whose singing counts; where it does not sing, words are spread over their line.
 * @see the LRC format, with word times in angle brackets, as its readers agree on it.
 */
export function lrcText(song: Song, layer: Layer | null, { artist = '' } = {}): string {
  const head = [`[ti:${plain(song.title)}]`, ...(artist ? [`[ar:${plain(artist)}]`] : []), `[length:${clock(song.beat.frames).slice(0, -3)}]`]
  const lines = placedLines(song).flatMap(placed => {
    if (!placed.line.words.trim()) return []
    const words = layer ? wordsSung(song, layer, placed) : []
    if (words.length === 0) return [`[${clock(placed.startFrame)}]${plain(placed.line.words)}`]
    return [`[${clock(words[0].startFrame)}]${words.map(({ word, startFrame }) => `<${clock(startFrame)}>${plain(word)}`).join(' ')}`]
  })
  return `${[...head, ...lines].join('\n')}\n`
}

/** Square and angle brackets are the format's own. */
function plain(text: string): string {
  return text
    .replace(/[[\]<>\r\n]/g, ' ')
    .replace(/\s+/g, ' ')
    .trim()
}

/** "01:23.45"; nothing lies before the beginning. */
function clock(frame: number): string {
  const hundredths = Math.max(0, Math.round((100 * frame) / SAMPLE_RATE_HZ))
  const two = (value: number) => String(value).padStart(2, '0')
  return `${two(Math.floor(hundredths / 6_000))}:${two(Math.floor(hundredths / 100) % 60)}.${two(hundredths % 100)}`
}

/** Sections and lines with their bars, seconds and the tempo there, as a table by RFC 4180. */
export function markersCsv(song: Song): string {
  const { grid } = song.beat
  const rows = song.sections.flatMap(section => {
    const frame = frameOfBar(grid, section.startBar)
    const lines = placedLines(song)
      .filter(placed => placed.section.id === section.id)
      .map(({ line, number, startFrame }) => ['line', line.words || `line ${number}`, startFrame] as const)
    return [['section', section.name, frame] as const, ...lines]
  })
  const table = rows.map(([kind, name, frame]) => {
    const bar = barAtFrame(grid, frame)
    const barFrames = frameOfBar(grid, Math.floor(bar) + 1) - frameOfBar(grid, Math.floor(bar))
    const bpm = (60 * SAMPLE_RATE_HZ * grid.beatsPerBar) / barFrames
    return [kind, name, String(Math.floor(bar)), (frame / SAMPLE_RATE_HZ).toFixed(3), bpm.toFixed(2)]
  })
  const mean = ((60 * SAMPLE_RATE_HZ) / framesPerBeat(grid)).toFixed(2)
  return [['kind', 'name', 'bar', 'seconds', 'bpm'], ['tempo', 'mean', '', '', mean], ...table].map(row => `${row.map(cell).join(',')}\r\n`).join('')
}

/** Quoted where it must be; what a table program would take for a formula is not one any more. */
function cell(text: string): string {
  const harmless = /^[=+\-@\t]/.test(text) && !/^-?\d/.test(text) ? `'${text}` : text
  return /[",\r\n]/.test(harmless) ? `"${harmless.replace(/"/g, '""')}"` : harmless
}

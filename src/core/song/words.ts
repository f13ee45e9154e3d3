/** Where the words of a line lie: by the phrases and onsets of a take if one was listened to, else spread evenly. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { beatAtFrame, frameOfBeat, framesPerBeat, type Grid } from '../beat/grid'
import type { FrameRange, PlacedLine } from './select'

export interface PlacedWord extends FrameRange {
  word: string
}

/** What a take sings in a line, in song frames and in order. */
export interface Sung {
  phrases: readonly FrameRange[]
  onsetFrames: readonly number[]
}

/** Share of the line that its words fill, until a take was listened to. */
const SUNG_SHARE = 0.86
/** A line may be begun this much before its first bar. */
const EARLY_FRAMES = 24_000
/** A word is no further than this from where its share of the syllables puts it before an onset is not its. */
const TOLERANCE_FRAMES = 9_600
/** A word that begins at no onset at all. */
const NO_ONSET_COST = 1.5

/** In order; none for a line without words. */
export function placeWords(placed: PlacedLine, sung: Sung | null = null): PlacedWord[] {
  const words = placed.line.words.split(/\s+/).filter(Boolean)
  if (words.length === 0) return []
  const phrases = sung?.phrases.flatMap(phrase => partInLine(phrase, placed)) ?? []
  return sung && phrases.length > 0 ? placeBySinging(words, phrases, sung.onsetFrames) : placeEvenly(words, placed)
}

/** What of a phrase belongs to a line: it may begin early, but the next line's early beginning is not its. */
function partInLine(phrase: FrameRange, line: FrameRange): FrameRange[] {
  const part = { startFrame: Math.max(phrase.startFrame, line.startFrame - EARLY_FRAMES), endFrame: Math.min(phrase.endFrame, line.endFrame) }
  const frames = part.endFrame - part.startFrame
  const most = phrase.endFrame - phrase.startFrame
  const tail = phrase.startFrame < line.startFrame - EARLY_FRAMES
  return frames > 0.5 * most || (frames > SAMPLE_RATE_HZ && !tail) ? [part] : []
}

function placeEvenly(words: readonly string[], { startFrame, endFrame }: FrameRange): PlacedWord[] {
  const each = ((endFrame - startFrame) * SUNG_SHARE) / words.length
  return words.map((word, i) => ({ word, startFrame: Math.round(startFrame + i * each), endFrame: Math.round(startFrame + (i + 1) * each) }))
}

/** Syllables are spread over what is sung, pauses left out; then each word goes to an onset near there, in order (dynamic programming). */
function placeBySinging(words: readonly string[], phrases: readonly FrameRange[], onsetFrames: readonly number[]): PlacedWord[] {
  const syllables = words.map(countSyllables)
  const total = syllables.reduce((sum, count) => sum + count, 0)
  const sungFrames = phrases.reduce((sum, phrase) => sum + phrase.endFrame - phrase.startFrame, 0)
  let before = 0
  const expected = syllables.map(count => {
    const frame = frameInPhrases(phrases, (before / total) * sungFrames)
    before += count
    return frame
  })
  const starts = phrases.map(phrase => phrase.startFrame)
  const marks = [...new Set([...starts, ...onsetFrames.filter(frame => phrases.some(phrase => frame >= phrase.startFrame && frame < phrase.endFrame))])].sort(
    (a, b) => a - b,
  )
  const began = assignInOrder(expected, marks, starts)
  return words.map((word, i) => {
    const phrase = phrases.findLast(entry => entry.startFrame <= began[i]) ?? phrases[0]
    const next = began[i + 1] ?? Infinity
    return { word, startFrame: began[i], endFrame: Math.max(began[i] + 1, Math.min(next, phrase.endFrame)) }
  })
}

/** The frame after so much singing from the first phrase on. */
function frameInPhrases(phrases: readonly FrameRange[], sungFrames: number): number {
  let left = sungFrames
  for (const phrase of phrases) {
    const frames = phrase.endFrame - phrase.startFrame
    if (left < frames) return Math.round(phrase.startFrame + left)
    left -= frames
  }
  return phrases[phrases.length - 1].endFrame
}

/** For every expected time a mark, rising; where no mark is near, the expected time itself, kept in order. */
function assignInOrder(expected: readonly number[], marks: readonly number[], starts: readonly number[]): number[] {
  const cost = (i: number, m: number) => Math.abs(marks[m] - expected[i]) / TOLERANCE_FRAMES - (starts.includes(marks[m]) ? 0.3 : 0)
  // best[i][m]: the first i words placed using none but the first m marks.
  const best = Array.from({ length: expected.length + 1 }, () => new Float64Array(marks.length + 1))
  for (let i = 1; i <= expected.length; i++) {
    for (let m = 0; m <= marks.length; m++) {
      const unmarked = best[i - 1][m] + NO_ONSET_COST
      best[i][m] = m === 0 ? unmarked : Math.min(unmarked, best[i][m - 1], best[i - 1][m - 1] + cost(i - 1, m - 1))
    }
  }
  const began: (number | null)[] = Array.from({ length: expected.length }, () => null)
  let m = marks.length
  for (let i = expected.length; i > 0; i--) {
    while (m > 0 && best[i][m] === best[i][m - 1]) m--
    if (m > 0 && best[i][m] === best[i - 1][m - 1] + cost(i - 1, m - 1)) began[i - 1] = marks[--m]
  }
  // Words without a mark keep their share between their neighbours.
  return began.map((frame, i) => {
    if (frame !== null) return frame
    const last = began.slice(0, i).findLast(entry => entry !== null) ?? -Infinity
    const next = began.slice(i + 1).find(entry => entry !== null) ?? Infinity
    return Math.min(Math.max(expected[i], last + 2_400), next - 2_400)
  })
}

/** Groups of vowels, a silent e at the end left out; at least one. */
function countSyllables(word: string): number {
  const letters = word
    .toLowerCase()
    .normalize('NFD')
    .replace(/[^a-z]/g, '')
  const groups = letters.replace(/(?<=[^aeiouyl])e$|(?<=[aeiouy])(?:e)d?$/, '').match(/[aeiouy]+/g)
  return Math.max(1, groups?.length ?? 1)
}

/** What to sing again for one word: whole beats round it, a second of them at least, inside its line. */
export function beatsRound(word: FrameRange, line: FrameRange, grid: Grid): FrameRange {
  const first = Math.floor(beatAtFrame(grid, word.startFrame) + 1e-6)
  const last = Math.max(first + Math.ceil(SAMPLE_RATE_HZ / framesPerBeat(grid)), Math.ceil(beatAtFrame(grid, word.endFrame) - 1e-6))
  return { startFrame: Math.max(line.startFrame, frameOfBeat(grid, first)), endFrame: Math.min(line.endFrame, frameOfBeat(grid, last)) }
}

/** The stretch that gains and moves are for: the line, the phrase or the word that is looked at, or one that was drawn freely. */
import { useMemo } from 'react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { median } from '../../../core/audio/statistics'
import { stretchOfPhrase } from '../../../core/edits/even-out'
import { laterAt } from '../../../core/edits/stretch-time'
import type { FrameRange } from '../../../core/song/select'
import { lateMilliseconds } from '../../../core/voice/line-facts'
import { bareWord } from './mend-words'
import { keyOfNote, useTidy, type Reach } from './tidy-store'
import type { Line } from './use-line'

export interface Stretch extends FrameRange {
  reach: Reach
  name: string
  /** Frames at which its neighbours begin and end: they stay. */
  holds: number[]
  /** After the beat, as it was sung, and with what was moved; null where too little begins in it to tell. */
  late: { sungMilliseconds: number; nowMilliseconds: number } | null
}

/** An onset this near to where a word begins is the word's. */
const OF_WORD_FRAMES = 0.08 * SAMPLE_RATE_HZ
/** Fewer do not say whether a phrase is late. */
const LEAST_ONSETS = 3

export function useStretch(line: Line): Stretch {
  const { reach, free, note: chosen } = useTidy()
  return useMemo(() => {
    const note = line.notes.find(entry => keyOfNote(entry) === chosen) ?? line.notes[0]
    const at = note ? (note.startFrame + note.endFrame) / 2 : line.range.startFrame
    return withLateness(line, findStretch(line, reach, free, at))
  }, [line, reach, free, chosen])
}

type Bare = Omit<Stretch, 'late'>

function findStretch(line: Line, reach: Reach, free: FrameRange | null, at: number): Bare {
  const { words, phrases } = line
  const i = phrases.findIndex(phrase => at >= phrase.startFrame && at < phrase.endFrame)
  if (reach === 'free' && free) return { ...free, reach, name: 'what is drawn', holds: [] }
  if (reach === 'word') {
    const k = words.findLastIndex(word => word.startFrame <= at)
    const [before, word, after] = [words[k - 1], words[k], words[k + 1]]
    if (word) {
      const holds = [before?.startFrame, phrases.findLast(phrase => phrase.endFrame <= word.startFrame)?.endFrame, after?.startFrame]
      return { ...range(word), reach, name: `‘${bareWord(word)}’`, holds: holds.filter(frame => frame !== undefined) }
    }
  }
  if (reach === 'word' || reach === 'phrase') {
    const phrase = phrases[i]
    if (phrase) {
      const name = phrases.length > 1 ? `phrase ${i + 1} of ${phrases.length}` : 'the phrase'
      const holds = [phrases[i - 1]?.endFrame, phrases[i + 1]?.startFrame].filter(frame => frame !== undefined)
      return { ...stretchOfPhrase(phrases, i), reach: 'phrase', name, holds }
    }
  }
  return { ...wholeOf(line), reach: 'line', name: line.title, holds: [] }
}

function range({ startFrame, endFrame }: FrameRange): FrameRange {
  return { startFrame, endFrame }
}

/** From the first that is sung to the last. */
function wholeOf({ phrases, range: all }: Line): FrameRange {
  if (phrases.length === 0) return range(all)
  return { startFrame: stretchOfPhrase(phrases, 0).startFrame, endFrame: stretchOfPhrase(phrases, phrases.length - 1).endFrame }
}

function withLateness(line: Line, stretch: Bare): Stretch {
  const { grid } = line.song.beat
  const within = (frame: number) => frame >= stretch.startFrame - OF_WORD_FRAMES && frame < stretch.endFrame
  const [first] = line.onsetFrames.filter(frame => Math.abs(frame - stretch.startFrame) < OF_WORD_FRAMES)
  const onsets = stretch.reach === 'word' ? (first === undefined ? [] : [first]) : line.onsetFrames.filter(within)
  if (onsets.length < (stretch.reach === 'word' ? 1 : LEAST_ONSETS)) return { ...stretch, late: null }
  const late = (frames: readonly number[]) => median(frames.map(frame => lateMilliseconds(grid, frame)))
  const moved = onsets.map(frame => (1_000 * laterAt(line.song, line.layer.id, frame)) / SAMPLE_RATE_HZ)
  const sungMilliseconds = late(onsets)
  return { ...stretch, late: { sungMilliseconds, nowMilliseconds: sungMilliseconds + median(moved) } }
}

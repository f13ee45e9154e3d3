/** What the practice singer sings: notes with syllables, made from a sheet's lines, its grid and its key. */
import { framesToSeconds } from '../audio/frames'
import { framesPerBeat } from '../beat/grid'
import { scaleSemitones, TONICS, type Key } from '../beat/key-names'
import type { Song } from '../song/schema'
import { placedLines } from '../song/select'
import { syllablesOf, type Syllable } from './phonemes'

export interface ScoreNote {
  /** When the vowel begins. */
  startSeconds: number
  endSeconds: number
  midi: number
  syllable: Syllable
}

/** One line, sung on one breath. */
export interface ScoreLine {
  startSeconds: number
  notes: ScoreNote[]
}

/** Degrees of the scale from the tonic, for lines one and two, three and four of a verse and of a hook. */
const VERSE_MOTIFS = [
  [0, 0, 2, 2, 1, 0, 1, 2, 0],
  [2, 2, 1, 0, -1, 0, 1, 0],
  [0, 2, 3, 2, 4, 3, 2, 1, 2],
  [2, 1, 0, 1, -1, 0, 0],
]
const HOOK_MOTIFS = [
  [4, 4, 4, 3, 2, 3, 4, 2],
  [4, 5, 4, 3, 2, 1, 2],
  [2, 3, 4, 4, 5, 4, 3, 2],
  [4, 3, 2, 1, 2, 1, 0, 0],
]
const DEFAULT_KEY: Key = { tonic: 'A', mode: 'minor' }

/**
 * @param degreeShift Scale degrees above the melody: 2 for a third above, -7 for an octave below, 0 for the lead.
 * Sections whose name begins with "hook" or "chorus" get the hook's melody. Lines without words are sung on "la".
 */
export function scoreOfSheet(song: Pick<Song, 'beat' | 'sections'>, degreeShift = 0): ScoreLine[] {
  const { grid, key, tuningCents } = song.beat
  const beatSeconds = framesToSeconds(framesPerBeat(grid))
  return placedLines(song as Song).map(placed => {
    const motifs = /^(hook|chorus|refrain)/i.test(placed.section.name) ? HOOK_MOTIFS : VERSE_MOTIFS
    const motif = motifs[(placed.number - 1) % motifs.length]
    const syllables = syllablesOf(placed.line.words)
    const startSeconds = framesToSeconds(placed.startFrame)
    // The line leaves its last beat free, so that there is time to breathe; syllables sit on eighths.
    const eighths = Math.max(syllables.length, Math.floor((placed.line.beatCount - 1) * 2))
    const slot = (i: number) => Math.round((i * eighths) / syllables.length)
    const notes = syllables.map((syllable, i): ScoreNote => {
      const degree = motif[Math.floor((i * motif.length) / syllables.length)] + degreeShift
      const eighthSeconds = ((placed.line.beatCount - 1) * beatSeconds) / eighths
      const end = i === syllables.length - 1 ? eighths : slot(i + 1)
      return {
        startSeconds: startSeconds + slot(i) * eighthSeconds,
        endSeconds: startSeconds + end * eighthSeconds,
        midi: midiOfDegree(key ?? DEFAULT_KEY, degree) + tuningCents / 100,
        syllable,
      }
    })
    return { startSeconds, notes }
  })
}

/** The scale's degree 0 lies between E3 and Eb4, where most voices speak and sing. */
function midiOfDegree(key: Key, degree: number): number {
  const tonic = TONICS.indexOf(key.tonic)
  const base = 52 + ((tonic - 4 + 12) % 12)
  const scale = scaleSemitones(key.mode)
  const octave = Math.floor(degree / 7)
  return base + 12 * octave + scale[degree - 7 * octave]
}

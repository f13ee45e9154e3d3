/** Commands on facts of the beat: its tempo and bars, key, chords and sections, found by listening or set by hand. */
import { produce } from 'immer'
import { secondsToFrames } from '../audio/frames'
import type { BeatAnalysis } from '../beat/analyse'
import { sameGrid, type Grid } from '../beat/grid'
import type { Key, ModeColour } from '../beat/key-names'
import type { TempoReading } from '../beat/tempo'
import { isRearranged } from './arrangement'
import type { BeatChord, Section, SectionId, Song } from './schema'
import { isInBlocks, moveChords, setGrid } from './sections'
import { sheetByGrid } from './sheet-by-grid'

type Source = Song['beat']['gridSource']

/** Command: the key, its colour and the beat's own tuning. A key that is typed has no colour unless it is given. */
export function setKey(
  song: Song,
  { key, colour = null, tuningCents, source = 'typed' }: { key: Key | null; colour?: ModeColour | null; tuningCents?: number; source?: Source },
): Song {
  return produce(song, draft => {
    draft.beat.key = key
    draft.beat.colour = key && colour
    draft.beat.keySource = source
    if (tuningCents !== undefined) draft.beat.tuningCents = tuningCents
  })
}

/** Command: what was found in the beat, all of it or the first facts, is taken where nothing was typed and nothing was laid. */
export function applyAnalysis(song: Song, { analysis, makeId }: { analysis: Partial<BeatAnalysis>; makeId: () => string }): Song {
  const tempo = analysis.tempo?.readings[0]
  const key = analysis.key?.readings[0]
  let next = song
  if (tempo && song.beat.gridSource === 'unknown') next = setGrid(next, { grid: gridOfReading(tempo), makeId, source: 'found' })
  if (key && analysis.key && song.beat.keySource === 'unknown')
    next = setKey(next, { key: key.key, colour: key.colour, tuningCents: analysis.key.tuningCents, source: 'found' })
  // Chords and sections come later than the tempo they are counted by.
  if (tempo && !isRearranged(song) && next.beat.gridSource === 'found' && sameGrid(next.beat.grid, gridOfReading(tempo))) {
    const heard = { tempo: analysis.tempo!, chords: analysis.chords ?? [], sections: analysis.sections ?? [] }
    if (song.beat.chords.length === 0) next = layFoundChords(next, { heard })
    if (heard.sections.length > 1 && isInBlocks(song)) next = layFoundSections(next, { heard, makeId })
  }
  return next
}

/** A tempo reading as a grid. @param barOne Which of its bar ones; the likeliest unless another is given. */
export function gridOfReading({ tempoBpm, beatsPerBar, meter, barOnes, beats }: TempoReading, barOne = barOnes[0]): Grid {
  const barOneFrame = secondsToFrames(barOne.seconds)
  const grid: Grid = {
    tempoBpm: Math.round(tempoBpm * 1_000) / 1_000,
    barOneFrame,
    beatsPerBar,
    beatUnit: meter[1] === 8 ? 'dotted-quarter' : 'quarter',
    map: null,
  }
  if (!beats || beats.length < 2) return grid
  const frames = beats.map(secondsToFrames)
  const nearest = frames.reduce((best, frame, i) => (Math.abs(frame - barOneFrame) < Math.abs(frames[best] - barOneFrame) ? i : best), 0)
  return { ...grid, barOneFrame: frames[nearest], map: { firstBeat: nearest === 0 ? 0 : -nearest, frames } }
}

/** What was heard of a beat's shape, counted by the first reading of its tempo. */
export type HeardShape = Pick<BeatAnalysis, 'tempo' | 'chords' | 'sections'>

/** Command: the sections that were heard, in place of those there are; their lines go. They count as untouched until one is changed. */
export function layFoundSections(song: Song, { heard, makeId }: { heard: HeardShape; makeId: () => string }): Song {
  const proposed = heard.sections.map(({ name, startBar, barCount }): Section => ({ id: makeId() as SectionId, name, startBar, barCount, lines: [] }))
  return produce(song, draft => {
    draft.sections = sheetByGrid(proposed, gridOfReading(heard.tempo.readings[0]), song.beat.grid, 'time')
    draft.sectionsAreDefault = true
  })
}

/** Command: the chords that were heard, in place of those there are. */
export function layFoundChords(song: Song, { heard }: { heard: HeardShape }): Song {
  if (heard.chords.length === 0) return song
  const chords = heard.chords.flatMap(({ startBeat, beatCount, chord }): BeatChord[] => (chord ? [{ startBeat, beatCount, ...chord }] : []))
  return produce(song, draft => {
    draft.beat.chords = moveChords(chords, gridOfReading(heard.tempo.readings[0]), song.beat.grid)
  })
}

/** Command: another chord, or none, over some beats; what lay there is cut to fit beside it. */
export function setChord(
  song: Song,
  { startBeat, beatCount, chord }: { startBeat: number; beatCount: number; chord: Pick<BeatChord, 'root' | 'quality'> | null },
): Song {
  const endBeat = startBeat + beatCount
  return produce(song, draft => {
    const beside = song.beat.chords.flatMap(other => {
      const otherEnd = other.startBeat + other.beatCount
      if (otherEnd <= startBeat || other.startBeat >= endBeat) return [other]
      return [
        { ...other, beatCount: startBeat - other.startBeat },
        { ...other, startBeat: endBeat, beatCount: otherEnd - endBeat },
      ].filter(part => part.beatCount > 0)
    })
    draft.beat.chords = [...beside, ...(chord ? [{ startBeat, beatCount, root: chord.root, quality: chord.quality }] : [])].sort(
      (a, b) => a.startBeat - b.startBeat,
    )
  })
}

import { describe, expect, test } from '@jest/globals'
import type { BeatAnalysis } from '../beat/analyse'
import { withDoubledTempo } from '../beat/grid'
import { applyAnalysis, layFoundChords, layFoundSections, setChord, setKey } from './beat-facts'
import type { Song } from './schema'
import { defaultSections, renameSection, setGrid } from './sections'
import { makeId, smallSong } from './song.test-kit'

const song = smallSong()

describe('what was heard in the beat', () => {
  const analysis: BeatAnalysis = {
    tempo: {
      readings: [
        {
          tempoBpm: 92.59981,
          meter: [4, 4],
          beatsPerBar: 4,
          barOnes: [{ seconds: 0.373, confidence: 0.9 }],
          confidence: 0.9,
          meterConfidence: 1,
          swing: null,
          beats: null,
        },
      ],
    },
    key: { readings: [{ key: { tonic: 'F', mode: 'minor' }, colour: null, confidence: 0.7 }], tuningCents: 4, chroma: [] },
    chords: [],
    sections: [],
    level: { integratedLufs: -14, samplePeakDbfs: -1, truePeakDbtp: -0.8, clipped: [], channels: 'stereo', proposedGainDecibels: -4 },
  }
  const fresh: Song = {
    ...song,
    sections: defaultSections(song.beat.grid, song.beat.frames, makeId),
    sectionsAreDefault: true,
    beat: { ...song.beat, gridSource: 'unknown', keySource: 'unknown', key: null },
  }
  test('is taken while nothing is known, and default blocks of eight bars are laid over it', () => {
    const { beat, sections } = applyAnalysis(fresh, { analysis, makeId })
    expect(beat).toMatchObject({ grid: { tempoBpm: 92.6, barOneFrame: 17_904 }, gridSource: 'found', key: { tonic: 'F', mode: 'minor' }, tuningCents: 4 })
    expect(sections.slice(0, -1).every(section => section.barCount === 8)).toBe(true)
  })
  test('stays where it is in time when the other reading of the tempo is meant, and can be laid again by that', () => {
    const chord = { root: 5, quality: 'minor' } as const
    const heard: BeatAnalysis = {
      ...analysis,
      chords: [
        { startBeat: 0, beatCount: 8, chord, confidence: 1 },
        { startBeat: 8, beatCount: 8, chord: null, confidence: 1 },
      ],
      sections: [
        { startBar: 1, barCount: 4, letter: 'A', name: 'Intro' },
        { startBar: 5, barCount: 12, letter: 'B', name: 'Verse 1' },
      ],
    }
    const taken = applyAnalysis(fresh, { analysis: heard, makeId })
    expect(taken.sections.map(({ name, startBar, barCount }) => [name, startBar, barCount])).toEqual([
      ['Intro', 1, 4],
      ['Verse 1', 5, 12],
    ])
    const doubled = setGrid(taken, { grid: withDoubledTempo(taken.beat.grid), makeId })
    const shape = (s: Song) => [s.sections.map(({ name, startBar, barCount }) => [name, startBar, barCount]), s.beat.chords]
    expect(shape(doubled)).toEqual([
      [
        ['Intro', 1, 8],
        ['Verse 1', 9, 24],
      ],
      [{ startBeat: 0, beatCount: 16, ...chord }],
    ])
    const spoiled = setChord(renameSection(doubled, { sectionId: doubled.sections[0].id, name: 'Start' }), { startBeat: 0, beatCount: 4, chord: null })
    expect(shape(layFoundChords(layFoundSections(spoiled, { heard, makeId }), { heard }))).toEqual(shape(doubled))
  })
  test('never overrides what was typed, and nothing heard changes nothing', () => {
    const typed = setKey(setGrid(fresh, { grid: { ...fresh.beat.grid, tempoBpm: 93 }, makeId }), { key: { tonic: 'G', mode: 'major' } })
    expect(applyAnalysis(typed, { analysis, makeId })).toBe(typed)
    const silence = { ...analysis, tempo: { readings: [] }, key: { readings: [], tuningCents: 0, chroma: [] } }
    expect(applyAnalysis(fresh, { analysis: silence, makeId })).toBe(fresh)
    const sections = [
      { startBar: 1, barCount: 4, letter: 'A', name: 'Intro' },
      { startBar: 5, barCount: 12, letter: 'B', name: 'Verse 1' },
    ]
    const inParts = [{ tempo: analysis.tempo }, { ...analysis, sections }].reduce(
      (taken: Song, found) => applyAnalysis(taken, { analysis: found, makeId }),
      fresh,
    )
    expect(inParts.sections.map(({ name }) => name)).toEqual(['Intro', 'Verse 1'])
    expect(applyAnalysis(inParts, { analysis: { ...analysis, sections }, makeId })).toBe(inParts)
  })
})

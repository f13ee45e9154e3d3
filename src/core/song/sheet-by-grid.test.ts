import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import type { Grid } from '../beat/grid'
import { findProblem } from './check'
import type { Song } from './schema'
import { moveSectionStart, setGrid } from './sections'
import { placedLines } from './select'
import { makeId, smallSong, withTakes } from './song.test-kit'
import { staysUnder } from './sheet-by-grid'

const song = smallSong()
const tempo = (tempoBpm: number): Grid => ({ ...song.beat.grid, tempoBpm })
const keep = (s: Song, grid: Grid, stays?: 'time' | 'bars') => setGrid(s, { grid, makeId, ...(stays ? { stays } : {}) })
const lines = (s: Song) => placedLines(s).map(({ line, startFrame, endFrame }) => ({ id: line.id, startFrame, endFrame }))
const bars = (s: Song) => s.sections.map(({ name, startBar, barCount }) => [name, startBar, barCount])

describe('a corrected tempo', () => {
  test.each([60, 240, 51, 150, 119, 300, 30])('to %d and back leaves every line and section where it was', tempoBpm => {
    const there = keep(song, tempo(tempoBpm), 'time')
    expect(findProblem(there, null)).toBeNull()
    expect(bars(keep(there, tempo(120), 'time'))).toEqual(bars(song))
    expect(lines(keep(there, tempo(120), 'time'))).toEqual(lines(song))
    for (const [i, { startFrame, endFrame }] of lines(there).entries()) {
      expect(Math.abs(startFrame - lines(song)[i].startFrame)).toBeLessThanOrEqual(1)
      expect(Math.abs(endFrame - lines(song)[i].endFrame)).toBeLessThanOrEqual(1)
    }
  })
  test('by any way, and back, at any metre', () => {
    const grids = fc.record({
      tempoBpm: fc.integer({ min: 30, max: 300 }),
      beatsPerBar: fc.integer({ min: 1, max: 12 }),
      barOneFrame: fc.integer({ min: -96_000, max: 96_000 }),
    })
    fc.assert(
      fc.property(fc.array(grids, { minLength: 1, maxLength: 4 }), way => {
        const there = way.reduce((s, given) => keep(s, { ...song.beat.grid, ...given }, 'time'), song)
        expect(findProblem(there, null)).toBeNull()
        const back = keep(there, song.beat.grid, 'time')
        expect(bars(back)).toEqual(bars(song))
        // A frame of rounding for each way there.
        for (const [i, { startFrame }] of lines(back).entries()) expect(Math.abs(startFrame - lines(song)[i].startFrame)).toBeLessThanOrEqual(way.length)
      }),
      { numRuns: 200 },
    )
  })
  test('that leaves the bars keeps every bar and beat', () => {
    const faster = keep(song, tempo(121), 'bars')
    expect(faster.sections).toEqual(song.sections)
    const waltz = keep(song, { ...tempo(120), beatsPerBar: 3 }, 'bars')
    expect(bars(waltz)).toEqual(bars(song))
    expect(waltz.sections[1].lines[1]).toMatchObject({ startBeat: 6, beatCount: 6 })
  })
  test('what was put to other bars by hand stays there', () => {
    const there = keep(song, tempo(51), 'time')
    const hook = there.sections[2]
    const moved = moveSectionStart(there, { sectionId: hook.id, startBar: hook.startBar - 1 })
    expect(moved.sections[2].heldAt).toBeUndefined()
    expect(keep(moved, tempo(120), 'time').sections[2].startBar).toBeLessThan(13)
  })
})

describe('what stays', () => {
  const moved = (s: Song, grid: Grid) => staysUnder(s, grid)
  test('is not asked where the new bars hold all that the old ones held', () => {
    expect(moved(song, tempo(60))).toEqual({ stays: 'time' })
    expect(moved(song, tempo(240))).toEqual({ stays: 'time' })
    expect(moved(song, { ...tempo(120), barOneFrame: 96_000 })).toEqual({ stays: 'time' })
  })
  test('nor where nothing moves that could be heard', () => {
    expect(moved(song, { ...tempo(120), barOneFrame: 480 })).toEqual({ stays: 'bars' })
    expect(moved(song, tempo(120.01))).toEqual({ stays: 'bars' })
  })
  test('is asked where one of them must give way, with how far the sheet would move', () => {
    // Bar 17 lies sixteen bars of two seconds in; at 128 bpm they last 30 s.
    expect(moved(song, tempo(128))).toEqual({ movesFrames: 2 * 48_000 })
    expect(moved(song, { ...tempo(120), barOneFrame: 24_000 })).toEqual({ movesFrames: 24_000 })
    const verseAtSix = moveSectionStart(song, { sectionId: song.sections[1].id, startBar: 6 })
    expect(moved(verseAtSix, tempo(60))).toHaveProperty('movesFrames')
  })
  test('is the bars while no tempo was known, unless something was sung', () => {
    const unknown: Song = { ...song, beat: { ...song.beat, gridSource: 'unknown' } }
    expect(moved(unknown, tempo(90))).toEqual({ stays: 'bars' })
    expect(moved(withTakes(unknown, 'Lead', 1), tempo(90))).toEqual({ stays: 'time' })
  })
  test('sections that nobody touched follow their sound when the tempo changes, and their bars when only bar one does', () => {
    const untouched: Song = { ...song, sections: song.sections.map(section => ({ ...section, lines: [] })), sectionsAreDefault: true }
    expect(moved(untouched, tempo(150))).toEqual({ stays: 'time' })
    expect(moved(untouched, { ...tempo(120), barOneFrame: 24_000 })).toEqual({ stays: 'bars' })
  })
})

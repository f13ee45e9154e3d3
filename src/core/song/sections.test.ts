import { describe, expect, test } from '@jest/globals'
import { findProblem } from './check'
import { freeBars, joinSectionWithNext, moveSectionStart, nameFreeBars, rangeOfSectionStart, splitSection } from './sections'
import type { SectionId, Song } from './schema'
import { placedLines, sectionRange } from './select'
import { lineRange, makeId, smallSong } from './song.test-kit'
import { setTitle } from './title'

const song = smallSong()

describe('sheet and grid', () => {
  test('lyrics become sections and lines of two bars each, with intro and outro round them', () => {
    expect(song.sections.map(section => [section.name, section.startBar, section.barCount])).toEqual([
      ['Intro', 1, 4],
      ['Verse', 5, 8],
      ['Hook', 13, 4],
      ['Outro', 17, 16],
    ])
    expect(placedLines(song).map(({ startFrame, endFrame }) => ({ startFrame, endFrame }))).toEqual([0, 1, 2, 3, 4, 5].map(lineRange))
  })
  test('moving a section’s start takes from its neighbour; splitting and joining again gives the same bars', () => {
    const hook = song.sections[2]
    expect(moveSectionStart(song, { sectionId: hook.id, startBar: 11 }).sections.map(section => section.barCount)).toEqual([4, 6, 6, 16])
    const split = splitSection(song, { sectionId: song.sections[1].id, bar: 9, newSectionId: 'new' as SectionId })
    expect(placedLines(split).map(line => line.startFrame)).toEqual(placedLines(song).map(line => line.startFrame))
    expect(joinSectionWithNext(split, { sectionId: song.sections[1].id }).sections.map(section => section.barCount)).toEqual([4, 8, 4, 16])
    expect(() => moveSectionStart(song, { sectionId: hook.id, startBar: 5 })).toThrow(RangeError)
  })
})

describe('a section’s first bar', () => {
  const [, verse, hook] = song.sections
  const inTime = (s: Song) => placedLines(s).map(({ line, startFrame }) => [line.id, startFrame])
  test.each([9, 10, 11, 12, 14, 15])('moved to bar %d leaves every line where it is sung, under the section whose bars it is in', startBar => {
    const moved = moveSectionStart(song, { sectionId: hook.id, startBar })
    expect(inTime(moved)).toEqual(inTime(song))
    expect(findProblem(moved, null)).toBeNull()
    for (const { section, startFrame, endFrame } of placedLines(moved)) {
      const middle = (startFrame + endFrame) / 2
      const range = sectionRange(moved, section)
      expect(middle).toBeGreaterThanOrEqual(range.startFrame)
      expect(middle).toBeLessThan(range.endFrame)
    }
  })
  test('and no line reaches over the next section', () => {
    const moved = moveSectionStart(song, { sectionId: hook.id, startBar: 12 })
    const [before] = moved.sections.slice(1)
    for (const line of before.lines) expect(line.startBeat + line.beatCount).toBeLessThanOrEqual(before.barCount * 4)
  })
  test('takes its lines along if asked, as far as they fit', () => {
    const moved = moveSectionStart(song, { sectionId: verse.id, startBar: 3, linesAlong: true })
    expect(
      placedLines(moved)
        .slice(0, 4)
        .map(line => line.startFrame),
    ).toEqual([0, 1, 2, 3].map(i => lineRange(i).startFrame - 2 * 96_000))
    expect(rangeOfSectionStart(song, verse.id, true).max).toBe(5)
  })
  test('and never over a line of the section before it', () => {
    const { min } = rangeOfSectionStart(song, hook.id, true)
    // The verse's last line begins at bar 11.
    expect(min).toBe(12)
    const moved = moveSectionStart(song, { sectionId: hook.id, startBar: min, linesAlong: true })
    expect(placedLines(moved).map(({ line }) => line.id)).toEqual(placedLines(song).map(({ line }) => line.id))
    expect(findProblem(moved, null)).toBeNull()
    expect(() => moveSectionStart(song, { sectionId: hook.id, startBar: min - 1, linesAlong: true })).toThrow(RangeError)
  })
  test('with free bars before it stops at its first line', () => {
    const gap = { ...song, sections: song.sections.filter(section => section.name !== 'Intro') }
    expect(rangeOfSectionStart(gap, verse.id)).toEqual({ min: 1, max: 5 })
    expect(inTime(moveSectionStart(gap, { sectionId: verse.id, startBar: 2 }))).toEqual(inTime(song))
  })
  test('split in the middle of a line: it goes where more of it is, and ends where the next part begins', () => {
    const split = splitSection(song, { sectionId: verse.id, bar: 8, newSectionId: 'new' as SectionId })
    expect(split.sections[1].lines.map(line => [line.startBeat, line.beatCount])).toEqual([[0, 8]])
    expect(split.sections[2].lines[0].startBeat).toBe(-4)
    expect(inTime(split)).toEqual(inTime(song))
  })
})

test('bars between sections are found, and named as a section of their own', () => {
  const gap = { ...song, sections: song.sections.filter(section => section.name === 'Hook') }
  expect(freeBars(gap)).toEqual([
    { startBar: 1, barCount: 12 },
    { startBar: 17, barCount: 16 },
  ])
  const named = nameFreeBars(gap, { bar: 20, name: ' Bridge ', makeId })
  expect(named.sections.map(({ name, startBar, barCount }) => [name, startBar, barCount])).toEqual([
    ['Hook', 13, 4],
    ['Bridge', 17, 16],
  ])
  expect(() => nameFreeBars(named, { bar: 20, name: 'x', makeId })).toThrow(RangeError)
  expect(freeBars(song)).toEqual([])
})

test('a name is kept without the space round it; an empty one, or the same, changes nothing', () => {
  expect(setTitle(song, '  Last boat home ').title).toBe('Last boat home')
  expect(setTitle(song, '   ')).toBe(song)
  expect(setTitle(song, song.title)).toBe(song)
})

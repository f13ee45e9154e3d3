import { describe, expect, test } from '@jest/globals'
import { setGrid, joinSectionWithNext, moveSectionStart, splitSection } from './sections'
import type { SectionId } from './schema'
import { placedLines } from './select'
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
  test('a small correction of the tempo takes the lines along; halving it keeps them where they were in time', () => {
    const corrected = setGrid(song, { grid: { ...song.beat.grid, tempoBpm: 121 }, makeId })
    expect(corrected.sections.map(section => section.startBar)).toEqual([1, 5, 13, 17])
    const halved = setGrid(song, { grid: { ...song.beat.grid, tempoBpm: 60 }, makeId })
    expect(placedLines(halved).map(line => line.startFrame)).toEqual(placedLines(song).map(line => line.startFrame))
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

test('a name is kept without the space round it; an empty one, or the same, changes nothing', () => {
  expect(setTitle(song, '  Last boat home ').title).toBe('Last boat home')
  expect(setTitle(song, '   ')).toBe(song)
  expect(setTitle(song, song.title)).toBe(song)
})

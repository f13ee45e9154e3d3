import { describe, expect, test } from '@jest/globals'
import { markSingAgain } from '../comp/put-aside'
import { findProblem } from './check'
import { joinLineWithNext, roomOfLine, setLineBeats, setLineWords, splitLine } from './lines'
import type { LineId, Song } from './schema'
import { placedLines } from './select'
import { layerOf, lineRange, smallSong } from './song.test-kit'

const song = smallSong()
const at = (index: number) => placedLines(song)[index].line.id
const verse = (s: Song) => s.sections[1].lines.map(({ words, startBeat, beatCount }) => [words, startBeat, beatCount])

describe('a single line', () => {
  test('takes other words, and nothing else changes', () => {
    const next = setLineWords(song, { lineId: at(1), words: '  two or three ' })
    expect(verse(next)).toEqual([
      ['one', 0, 8],
      ['two or three', 8, 8],
      ['three', 16, 8],
      ['four', 24, 8],
    ])
  })
  test('begins later or earlier; the one before it lends what it needs and those after it stay', () => {
    expect(verse(setLineBeats(song, { lineId: at(1), startBeat: 9.5, beatCount: 6 })).slice(0, 3)).toEqual([
      ['one', 0, 8],
      ['two', 9.5, 6],
      ['three', 16, 8],
    ])
    expect(verse(setLineBeats(song, { lineId: at(1), startBeat: 6, beatCount: 10 })).slice(0, 2)).toEqual([
      ['one', 0, 6],
      ['two', 6, 10],
    ])
  })
  test('never lies over the line after it, nor before the one before it', () => {
    expect(() => setLineBeats(song, { lineId: at(1), startBeat: 8, beatCount: 9 })).toThrow(RangeError)
    expect(() => setLineBeats(song, { lineId: at(1), startBeat: 0, beatCount: 4 })).toThrow(RangeError)
    expect(() => setLineBeats(song, { lineId: at(1), startBeat: Number.NaN, beatCount: 4 })).toThrow(RangeError)
  })
  test('the first of a section may begin before its bar, as far as the section before it has no lines', () => {
    expect(roomOfLine(song, at(0))).toMatchObject({ leastStartBeat: 0, mostEndBeat: 8 })
    const early = setLineBeats(setLineBeats(song, { lineId: at(3), startBeat: 24, beatCount: 5 }), { lineId: at(4), startBeat: -2, beatCount: 10 })
    expect(placedLines(early)[4].startFrame).toBe(lineRange(4).startFrame - 2 * 24_000)
    expect(findProblem(early, null)).toBeNull()
  })
})

describe('lines split and joined', () => {
  const long = setLineWords(song, { lineId: at(1), words: 'over the water and home' })
  test('split at a word, each part is as long as its share of the words; joined again it is the line it was', () => {
    const split = splitLine(long, { lineId: at(1), atWord: 3, newLineId: 'new' as LineId })
    expect(verse(split).slice(1, 3)).toEqual([
      ['over the water', 8, 4.75],
      ['and home', 12.75, 3.25],
    ])
    expect(joinLineWithNext(split, { lineId: at(1) })).toEqual(long)
  })
  test('at no word, or where it is too short, it is refused', () => {
    for (const atWord of [0, 5, 1.5, Number.NaN]) expect(() => splitLine(long, { lineId: at(1), atWord, newLineId: 'x' as LineId })).toThrow(RangeError)
    const short = setLineBeats(long, { lineId: at(1), startBeat: 8, beatCount: 0.25 })
    expect(() => splitLine(short, { lineId: at(1), atWord: 2, newLineId: 'x' as LineId })).toThrow(RangeError)
  })
  test('without words it is halved; the last of a section has no next', () => {
    const mute = setLineWords(song, { lineId: at(1), words: '' })
    expect(verse(splitLine(mute, { lineId: at(1), atWord: 0, newLineId: 'x' as LineId })).slice(1, 3)).toEqual([
      ['', 8, 4],
      ['', 12, 4],
    ])
    expect(joinLineWithNext(song, { lineId: at(3) })).toBe(song)
  })
  test('the mark of a line that is taken in goes along, once', () => {
    const layerId = layerOf(song, 'Lead')
    const marked = markSingAgain(song, { layerId, lineId: at(2), note: 'late' })
    expect(joinLineWithNext(marked, { lineId: at(1) }).layers[0].singAgain).toEqual([{ lineId: at(1), note: 'late' }])
    const both = markSingAgain(marked, { layerId, lineId: at(1), note: 'flat' })
    expect(joinLineWithNext(both, { lineId: at(1) }).layers[0].singAgain).toEqual([{ lineId: at(1), note: 'flat' }])
  })
  test('a line that is gone is named', () => {
    expect(() => setLineWords(song, { lineId: 'gone' as LineId, words: 'x' })).toThrow('no line gone')
  })
})

import { describe, expect, test } from '@jest/globals'
import { frameOfBeat } from '../beat/grid'
import { formatLyrics, parseLyrics } from './lyrics'
import { layLyrics, layPhraseLines, layTappedLines } from './lay-lyrics'
import { findProblem } from './check'
import type { LineId, Song } from './schema'
import { placedLines } from './select'
import { lineRange, makeId, smallSong } from './song.test-kit'

const song = smallSong()

describe('lines', () => {
  const section = song.sections[1]
  const sectionBeat = (section.startBar - 1) * 4
  test('tapped lines begin at the nearest beats, keep the words that are there, and last until the next', () => {
    const taps = [0.2, 7.9, 12.1].map(beat => frameOfBeat(song.beat.grid, sectionBeat) + Math.round(beat * 24_000))
    const lines = layTappedLines(song, { sectionId: section.id, frames: [...taps, -1], makeId }).sections[1].lines
    expect(lines.slice(0, 3).map(line => [line.startBeat, line.beatCount])).toEqual([
      [0, 8],
      [8, 4],
      [12, 4],
    ])
    expect(lines.slice(0, section.lines.length).map(line => line.words)).toEqual(section.lines.map(line => line.words))
  })
  test('words are laid over one, two or four bars; a heading that names a part of the beat goes there', () => {
    const laid = layLyrics(song, { lyrics: parseLyrics(`[${song.sections[2].name}]\na\nb`), firstBar: 1, barsALine: 1, makeId })
    const found = laid.sections.find(entry => entry.name === song.sections[2].name)!
    expect([found.startBar, found.barCount]).toEqual([song.sections[2].startBar, song.sections[2].barCount])
    expect(found.lines.map(line => line.startBeat)).toEqual([0, 4])
  })
})

describe('bars that headings ask for', () => {
  const bare: Song = { ...song, sections: [] }
  const lay = (words: string, firstBar: number) => layLyrics(bare, { lyrics: parseLyrics(words), firstBar, makeId }).sections
  test('win over the field for the first section', () => {
    expect(lay('[Verse 1 | bar 5]\na\nb', 9).map(({ name, startBar }) => [name, startBar])).toEqual([
      ['Intro', 1],
      ['Verse 1', 5],
      ['Outro', 9],
    ])
  })
  test('and over the usual length of lines: eight lines in eight bars are a bar each', () => {
    const [verse, hook] = lay(`[Verse | bar 1]\n${'la\n'.repeat(8)}\n[Hook | bar 9]\nx`, 9)
    expect([verse.startBar, verse.barCount, hook.startBar]).toEqual([1, 8, 9])
    expect(verse.lines.map(line => [line.startBeat, line.beatCount])).toEqual(Array.from({ length: 8 }, (_, i) => [4 * i, 4]))
  })
  test('but not over time: a bar that has gone by is not gone back to', () => {
    expect(lay('[A | bar 9]\na\n\n[B | bar 3]\nb', 1).map(({ name, startBar }) => [name, startBar])).toEqual([
      ['Intro', 1],
      ['A', 9],
      ['B', 11],
      ['Outro', 13],
    ])
  })
})

test('what was sung in several passes becomes lines without words, one a phrase, where sections have none', () => {
  const bare: Song = { ...song, sections: song.sections.map(section => ({ ...section, lines: section.name === 'Hook' ? [] : section.lines })) }
  const [start] = [frameOfBeat(song.beat.grid, 48)]
  const beats = (from: number, to: number) => ({ startFrame: start + Math.round(from * 24_000), endFrame: start + Math.round(to * 24_000) })
  // The hook's two passes; what was sung in the verse has its line already.
  const phrases = [beats(0.1, 2.9), beats(3.9, 7), beats(-0.2, 3.1), beats(8, 8.3), beats(-20, -18), beats(4.1, 7.3), beats(8.5, 11.9)]
  const [, verse, hook] = layPhraseLines(bare, { phrases, makeId }).sections
  expect(verse.lines).toEqual(song.sections[1].lines)
  expect(hook.lines.map(line => [line.words, line.startBeat, line.beatCount])).toEqual([
    ['', -0.25, 3.5],
    ['', 3.75, 3.75],
    ['', 8, 4],
  ])
  expect(layPhraseLines(bare, { phrases: [], makeId })).toBe(bare)
})

test('tapped lines never reach over the end of their section, however few the taps', () => {
  const section = song.sections[1]
  const late = frameOfBeat(song.beat.grid, (section.startBar - 1) * 4 + 30)
  const tapped = layTappedLines(song, { sectionId: section.id, frames: [late], makeId }).sections[1]
  expect(tapped.lines.map(line => line.startBeat)).toEqual([30, 30.5, 31, 31.5])
  expect(tapped.lines.map(line => line.words)).toEqual(['one', 'two', 'three', 'four'])
})

describe('words laid anew', () => {
  const text = (s: Song) => formatLyrics(s.sections)
  const lay = (s: Song, words: string) => layLyrics(s, { lyrics: parseLyrics(words), firstBar: 1, makeId })
  const byWords = (s: Song) => new Map(placedLines(s).map(({ line, startFrame, endFrame }) => [line.words, { id: line.id, startFrame, endFrame }]))
  const taps = [0.2, 7.9, 12.1, 17].map(beat => frameOfBeat(song.beat.grid, 16) + Math.round(beat * 24_000))
  const tapped = layTappedLines(song, { sectionId: song.sections[1].id, frames: taps, makeId })

  test('the same words again change nothing but that the sheet is the singer’s', () => {
    expect(lay(tapped, text(tapped)).sections).toEqual(tapped.sections)
  })
  test('one changed word changes that line’s words, and no id, time or section', () => {
    const after = lay(tapped, text(tapped).replace('three', 'three or so'))
    expect(placedLines(after).map(({ line, startFrame, endFrame }) => [line.id, startFrame, endFrame])).toEqual(
      placedLines(tapped).map(({ line, startFrame, endFrame }) => [line.id, startFrame, endFrame]),
    )
    expect(after.sections.map(({ id, name, startBar, barCount }) => [id, name, startBar, barCount])).toEqual(
      tapped.sections.map(({ id, name, startBar, barCount }) => [id, name, startBar, barCount]),
    )
    expect(placedLines(after)[2].line.words).toBe('three or so')
  })
  test('a line taken out goes alone; one put in is laid where there is room, and the others stay', () => {
    const without = lay(tapped, text(tapped).replace('two\n', ''))
    const kept = byWords(tapped)
    kept.delete('two')
    expect(byWords(without)).toEqual(kept)
    const back = lay(without, text(without).replace('one\n', 'one\nsomething new\n'))
    for (const [words, place] of kept) expect(byWords(back).get(words)).toEqual(place)
    const fresh = byWords(back).get('something new')!
    expect(fresh.startFrame).toBeGreaterThanOrEqual(kept.get('one')!.endFrame)
    expect(fresh.endFrame).toBeLessThanOrEqual(kept.get('three')!.startFrame)
  })
  test('where there is no room a new line takes the later half of the one before it', () => {
    const after = byWords(lay(song, text(song).replace('two\n', 'two\nbetween\n')))
    expect(after.get('two')).toMatchObject({ startFrame: lineRange(1).startFrame, endFrame: (lineRange(1).startFrame + lineRange(1).endFrame) / 2 })
    expect(after.get('between')!.endFrame).toBe(lineRange(1).endFrame)
    expect(after.get('three')).toEqual(byWords(song).get('three'))
  })
  test('a new verse goes where bars are free; parts without words stay as far as they are', () => {
    const after = lay(song, `${text(song)}\n\n[Bridge]\nnew words here\nand here`)
    expect(after.sections.map(({ name, startBar, barCount }) => [name, startBar, barCount])).toEqual([
      ['Intro', 1, 4],
      ['Verse', 5, 8],
      ['Hook', 13, 4],
      ['Bridge', 17, 4],
      ['Outro', 21, 12],
    ])
    for (const [words, place] of byWords(song)) expect(byWords(after).get(words)).toEqual(place)
  })
  test('a heading put between lines divides the section there and moves nothing', () => {
    const after = lay(song, text(song).replace('three', '\n[Lift]\nthree'))
    expect(after.sections.map(({ name, startBar }) => [name, startBar])).toEqual([
      ['Intro', 1],
      ['Verse', 5],
      ['Lift', 9],
      ['Hook', 13],
      ['Outro', 17],
    ])
    expect(byWords(after)).toEqual(byWords(song))
  })
  test('lines without words are no new words', () => {
    const wordless: Song = {
      ...song,
      sections: song.sections.map(section => ({ ...section, lines: section.lines.map((line, i) => (i === 0 ? { ...line, words: '' } : line)) })),
    }
    expect(lay(wordless, text(wordless)).sections).toEqual(wordless.sections)
  })
  test.each([
    '[Verse | bar 999999]\na',
    `[${'x'.repeat(300)}]\na`,
    '[Hook]\nfive\nsix\n\n[Verse]\none\ntwo',
    '[Verse | bar 30]\none\ntwo\nthree\nfour\n[Hook]\nfive',
    'one\n\none\n\none\n\none',
    `${'la la\n'.repeat(60)}`,
    '[]\n[]\n[]\nfive',
    '[Hook | 0 bars]\nsix\n[Outro | bar 2]\none',
  ])('no text makes a song that could not be kept: %j', words => {
    expect(findProblem(lay(song, words), song)).toBeNull()
    expect(findProblem(lay(tapped, words), null)).toBeNull()
  })
  test('of words that come again the ones in their own section are meant', () => {
    const twice = lay(song, '[A]\nla la la\n\n[B]\nla la la\nla la la')
    const ids = (s: Song): LineId[] => placedLines(s).map(({ line }) => line.id)
    const after = lay(twice, '[A]\nla la la\nla la la\n\n[B]\nla la la\nla la la')
    expect(ids(after).filter(id => ids(twice).includes(id))).toEqual(ids(twice))
  })
})

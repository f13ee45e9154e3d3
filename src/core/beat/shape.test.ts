import { describe, expect, test } from '@jest/globals'
import { gaussian, makeRandom } from '../audio/random'
import type { BarView } from './bar-views'
import { nameSections } from './section-names'
import { shapeOf } from './shape'

const COLUMNS = [28, 5, 12, 12, 80]

/** Bars of several kinds as five views of their sound, each kind at a place of its own, with what differs from bar to bar. */
function playing(form: [kind: string, bars: number][], { spread = 0.25, seed = 5 } = {}): BarView[] {
  const random = makeRandom(seed)
  const kinds = new Map(
    [...new Set(form.map(([kind]) => kind))].map(kind => [kind, COLUMNS.map(columns => Array.from({ length: columns }, () => gaussian(random)))]),
  )
  return COLUMNS.map((columns, view) =>
    form.flatMap(([kind, bars]) =>
      Array.from({ length: bars }, () => Float64Array.from({ length: columns }, (_, column) => kinds.get(kind)![view][column] + spread * gaussian(random))),
    ),
  )
}

const levels = (form: [kind: string, bars: number][], of: Record<string, number>) => form.flatMap(([kind, bars]) => new Array<number>(bars).fill(of[kind]))

describe('the shape of a beat', () => {
  const form: [string, number][] = [
    ['calm', 4],
    ['verse', 8],
    ['hook', 8],
    ['verse', 8],
    ['hook', 8],
    ['ring', 2],
  ]
  const loudness = { calm: 4, verse: 8, hook: 9, ring: 3 }
  test('has a start wherever the sound changes, one letter for each kind, and likely names', () => {
    const sections = shapeOf(playing(form), levels(form, loudness))
    expect(sections.map(({ startBar, barCount }) => [startBar, barCount])).toEqual([
      [1, 4],
      [5, 8],
      [13, 8],
      [21, 8],
      [29, 8],
      [37, 2],
    ])
    expect(sections.map(({ letter }) => letter).join('')).toBe('ABCBCD')
    expect(sections.map(({ name }) => name)).toEqual(['Intro', 'Verse 1', 'Hook 1', 'Verse 2', 'Hook 2', 'Outro'])
  })
  test.each([1, 2, 3, 4])('is found though every bar differs (%i)', seed => {
    const sections = shapeOf(playing(form, { spread: 0.5, seed }), levels(form, loudness))
    expect(sections.map(({ startBar }) => startBar)).toEqual([1, 5, 13, 21, 29, 37])
    expect(sections.map(({ letter }) => letter).join('')).toBe('ABCBCD')
  })
  test('covers every bar once, in order, whatever the form', () => {
    const random = makeRandom(9)
    for (let round = 0; round < 20; round++) {
      const any = Array.from({ length: 1 + Math.floor(6 * random()) }, (): [string, number] => [
        'abcd'[Math.floor(4 * random())],
        1 + Math.floor(12 * random()),
      ])
      const sections = shapeOf(playing(any, { seed: round + 1 }), levels(any, { a: 5, b: 6, c: 7, d: 8 }))
      expect(sections[0].startBar).toBe(1)
      sections.slice(1).forEach((section, i) => expect(section.startBar).toBe(sections[i].startBar + sections[i].barCount))
      expect(sections.reduce((sum, { barCount }) => sum + barCount, 0)).toBe(any.reduce((sum, [, bars]) => sum + bars, 0))
      expect(new Set(sections.map(({ name }) => name)).size).toBe(sections.length)
    }
  })
  test.each([24, 360])('of a loop that never changes is one section, however long (%i bars)', bars => {
    const sections = shapeOf(playing([['loop', bars]]), new Array<number>(bars).fill(7))
    expect(sections.map(({ startBar, barCount, name }) => [startBar, barCount, name])).toEqual([[1, bars, 'Verse 1']])
  })
})

describe('names', () => {
  const named = (kinds: number[], energies: number[], lastBars = 8) =>
    nameSections(
      kinds,
      energies,
      kinds.map((_, i) => (i === kinds.length - 1 ? lastBars : 8)),
    )
  test('the hook is the loudest that does not begin the song, unless that is far above the rest', () => {
    expect(named([0, 1, 0, 1], [9.5, 8, 9.5, 8])).toEqual(['Verse 1', 'Hook 1', 'Verse 2', 'Hook 2'])
    expect(named([0, 1, 0, 1], [10.5, 8, 10.5, 8])).toEqual(['Hook 1', 'Verse 1', 'Hook 2', 'Verse 2'])
  })
  test('calm ends are intro and outro; the intro may come back before the beat rings out', () => {
    expect(named([0, 1, 2, 1, 0, 3], [4, 8, 9, 8, 4, 2], 2)).toEqual(['Intro', 'Verse 1', 'Hook 1', 'Verse 2', 'Outro 1', 'Outro 2'])
    expect(named([1, 2, 1], [8, 9, 8])).toEqual(['Verse 1', 'Hook 1', 'Verse 2'])
  })
  test('a calm section on both sides of the only hook is the verse', () => {
    expect(named([0, 1, 0, 2], [5, 9, 5, 3], 1)).toEqual(['Verse 1', 'Hook 1', 'Verse 2', 'Outro'])
  })
  test('what comes once, late, is a bridge; one or two sections have no ends', () => {
    expect(named([0, 1, 0, 1, 2, 1], [8, 9, 8, 9, 7, 9])).toEqual(['Verse 1', 'Hook 1', 'Verse 2', 'Hook 2', 'Bridge 1', 'Hook 3'])
    expect(named([0], [5])).toEqual(['Verse 1'])
    expect(named([0, 1], [3, 9])).toEqual(['Verse 1', 'Hook 1'])
  })
  test('no hook is a bar long', () => {
    expect(nameSections([0, 1, 0, 1, 0], [8, 11, 8, 11, 8], [8, 1, 8, 1, 8]).filter(name => name.startsWith('Hook'))).toEqual([])
  })
})

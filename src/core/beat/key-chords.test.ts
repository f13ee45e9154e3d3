import { expect, test } from '@jest/globals'
import type { ChordSpan } from './chords'
import type { ChordName } from './chord-names'
import { weighKeysByChords } from './key-chords'
import { TONICS } from './key-names'

const C = 0
const [D, E, F, G, A, B] = [2, 4, 5, 7, 9, 11]
const bars = (...chords: [number, ChordName['quality']][]): ChordSpan[] =>
  chords.map(([root, quality], i) => ({ startBeat: 4 * i, beatCount: 4, chord: { root, quality }, confidence: 1 }))
const bestOf = (chords: readonly ChordSpan[]) => {
  const weights = weighKeysByChords(chords)!
  const best = weights.indexOf(Math.max(...weights))
  return `${TONICS[best >> 1]} ${best % 2 === 0 ? 'major' : 'minor'}`
}

test.each<[string, ChordSpan[]]>([
  ['C major', bars([C, 'major'], [A, 'minor'], [F, 'major'], [G, 'seventh'])],
  ['A minor', bars([A, 'minor'], [A, 'minor'], [D, 'minor'], [E, 'major'])],
  ['E minor', bars([E, 'minor'], [A, 'minor'], [E, 'minor'], [D, 'major'])],
  ['D minor', bars([D, 'minor seventh'], [G, 'minor seventh'], [A, 'seventh'], [D, 'minor'])],
  ['G major', bars([G, 'major'], [D, 'major'], [E, 'minor'], [C, 'major seventh'])],
])('chords of %s say so, wherever the tonic lies', (key, chords) => {
  expect(bestOf(chords)).toBe(key)
  const [tonic, mode] = key.split(' ')
  for (let up = 1; up < 12; up++) {
    const moved = chords.map(span => ({ ...span, chord: { ...span.chord!, root: (span.chord!.root + up) % 12 } }))
    expect(bestOf(moved)).toBe(`${TONICS[(TONICS.indexOf(tonic as never) + up) % 12]} ${mode}`)
  }
})

test('stretches without a chord say nothing, and long chords say more than short ones', () => {
  const silent: ChordSpan = { startBeat: 16, beatCount: 400, chord: null, confidence: 1 }
  const chords = bars([C, 'major'], [F, 'major'], [G, 'major'], [B, 'diminished'])
  expect(weighKeysByChords([...chords, silent])).toEqual(weighKeysByChords(chords))
  expect(weighKeysByChords([silent])).toBeNull()
  expect(weighKeysByChords([])).toBeNull()
})

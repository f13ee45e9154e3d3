import { describe, expect, test } from '@jest/globals'
import { SAMPLE_RATE_HZ, type Mono, type Planar } from '../audio/frames'
import { gaussian, makeRandom } from '../audio/random'
import { pickTake } from '../comp/picks'
import { filtered, highPass, lowPass } from '../effects/biquad'
import { makeDemoSheet } from '../rehearsal/demo-song'
import { scoreOfSheet } from '../rehearsal/score'
import { sing, USUAL_FAULTS } from '../rehearsal/sing'
import type { AssetId, Song } from '../song/schema'
import { placedLines } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { copiesInLines, effectOf } from './copies-in-song'
import { findCopy, phasesOf } from './copies'

const score = scoreOfSheet(makeDemoSheet(0)).slice(0, 1)
const first = score[0].notes[0].startSeconds
const takeOf = (take: number): Mono =>
  sing({ score, frames: Math.ceil((first + 4) * SAMPLE_RATE_HZ), seed: 7, take, faults: USUAL_FAULTS }).slice(Math.round((first - 0.3) * SAMPLE_RATE_HZ))
const [one, other, third] = [1, 2, 3].map(takeOf)
const shifted = (sound: Mono, seconds: number) => sound.map((_, i) => sound[i - Math.round(seconds * SAMPLE_RATE_HZ)] ?? 0)
const random = makeRandom(9)
const copyOf = (a: Mono, b: Mono) => findCopy(phasesOf(a), phasesOf(b))

describe('a copy is found', () => {
  test.each<[string, Mono, number, boolean]>([
    ['as it is', one, 0, false],
    ['30 ms later', shifted(one, 0.03), 0.03, false],
    ['12 ms earlier, 6 dB lower', shifted(one, -0.012).map(sample => 0.5 * sample), -0.012, false],
    ['upside down', one.map(sample => -sample), 0, true],
    ['without its lows', filtered(one, highPass(400), highPass(400)), 0, false],
    ['without its highs', filtered(one, lowPass(2_500)), 0, false],
    ['in another room’s noise', one.map(sample => sample + 0.002 * gaussian(random)), 0, false],
  ])('%s', (_, copy, lagSeconds, isInverted) => {
    const found = copyOf(one, copy)!
    expect(Math.abs(found.lagSeconds - lagSeconds)).toBeLessThan(0.0005)
    expect(found.isInverted).toBe(isInverted)
    expect(found.likeness).toBeGreaterThan(0.25)
  })
})

test('two takes of one line are none, nor is silence', () => {
  expect(copyOf(one, other)).toBeNull()
  expect(copyOf(other, third)).toBeNull()
  expect(copyOf(one, new Float32Array(one.length))).toBeNull()
  expect(copyOf(new Float32Array(0), one)).toBeNull()
})

test('what is heard of it: louder, gone, or hollow', () => {
  const copy = { likeness: 1, isInverted: false, lagSeconds: 0 }
  expect([effectOf(copy), effectOf({ ...copy, isInverted: true }), effectOf({ ...copy, lagSeconds: 0.012 })]).toEqual(['louder', 'gone', 'hollow'])
})

test('in a song the layers that play one sound are named, line by line, and no others', async () => {
  const base = withTakes(smallSong(), 'Lead', 3)
  const range = lineRange(0)
  const [lead, left, right] = ['Lead', 'Double left', 'Double right'].map(name => layerOf(base, name))
  const placed: Song = { ...base, takes: base.takes.map(take => ({ ...take, originFrame: range.startFrame, ...range })) }
  const song = [lead, left, right].reduce((now, layerId, i) => pickTake(now, { layerId, takeId: placed.takes[i].id, ...range, insist: true, makeId }), placed)
  // The right double is the lead again, 15 ms late.
  const sounds: Record<string, Mono> = { 'asset-1': one, 'asset-2': other, 'asset-3': shifted(one, 0.015) }
  const read = (id: AssetId, from: number, to: number): Promise<Planar> =>
    Promise.resolve([Float32Array.from({ length: to - from }, (_, i) => sounds[id][from + i] ?? 0)])
  const lineIds = placedLines(song).map(({ line }) => line.id)
  const found = await copiesInLines(song, lineIds, read)
  expect(found.map(({ lineId, layerIds }) => [lineId, ...layerIds])).toEqual([[lineIds[0], lead, right]])
  expect(Math.abs(found[0].lagSeconds - 0.015)).toBeLessThan(0.0005)
  expect(await copiesInLines({ ...song, layers: song.layers.map(layer => (layer.id === right ? { ...layer, muted: true } : layer)) }, lineIds, read)).toEqual(
    [],
  )
})

import { describe, expect, test } from '@jest/globals'
import { gaussian, makeRandom } from '../audio/random'
import { sine } from '../audio/signals.test-kit'
import type { Planar } from '../audio/frames'
import { pickTake } from '../comp/picks'
import { USUAL_TIDY } from '../edits/tidy'
import { setTidy } from '../edits/policies'
import type { AssetId } from '../song/schema'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { noteHeard } from '../song/takes'
import { cutIntoChunks } from './chunk-window'
import { bare } from './mix.test-kit'
import { coverOfRest, dipFor } from './rest-cover'

/** Noise of so many decibels in a take that sings nothing, over a beat of such sound. */
async function cover(noiseDbfs: number, beat: Planar) {
  const random = makeRandom(3)
  const sounds: Record<string, Planar> = {
    beat,
    'asset-1': [Float32Array.from({ length: 12 * 48_000 }, () => 10 ** (noiseDbfs / 20) * gaussian(random))],
  }
  const { startFrame } = lineRange(0)
  const base = withTakes(smallSong(), 'Lead', 1, { originFrame: startFrame, startFrame, endFrame: startFrame + 12 * 48_000 })
  const lead = layerOf(base, 'Lead')
  const picked = bare(pickTake(base, { layerId: lead, takeId: base.takes[0].id, ...lineRange(0), makeId }))
  const heard = {
    frames: 12 * 48_000,
    phrases: [[9 * 48_000, 10 * 48_000]] as [number, number][],
    breaths: [],
    esses: [],
    pops: [],
    clicks: [],
    noises: [],
    finals: [],
    clipped: [],
    notes: [],
  }
  const song = setTidy(noteHeard(picked, { heard: new Map([[base.takes[0].id, heard]]) }), { layerIds: [lead], tidy: USUAL_TIDY.lead })
  const store = {
    framesOf: (id: AssetId) => Promise.resolve(sounds[id][0].length),
    readChunks: (id: AssetId, indices: readonly number[]) => Promise.resolve(indices.map(index => [...cutIntoChunks(sounds[id])][index])),
  }
  return coverOfRest(song, { layerId: lead, rest: { startFrame: startFrame + 24_000, endFrame: startFrame + 96_000 }, store })
}
const frames = 20 * 48_000
const noise = (decibels: number, seed = 5): Planar => {
  const random = makeRandom(seed)
  const plane = Float32Array.from({ length: frames }, () => 10 ** (decibels / 20) * gaussian(random))
  return [plane, plane]
}

describe('what a rest holds', () => {
  test('is told as it would be heard if it were left, in the band of hiss, beside the beat', async () => {
    const { noiseDbfs, beatDbfs } = await cover(-50, noise(-30))
    // White noise has 96 % of its power above 1 kHz.
    expect(Math.abs(noiseDbfs - beatDbfs + 20)).toBeLessThan(2.5)
  }, 30_000)
  test('is covered by a full beat, and not by a bass alone, nor by a hit now and then', async () => {
    expect(dipFor(await cover(-56, noise(-30)))).toBeNull()
    const bass = sine({ hz: 55, frames, amplitude: 0.4 })
    expect(dipFor(await cover(-56, [bass, bass]))).toBe(-12)
    const hits = noise(-24)[0].map((sample, i) => (i % 24_000 < 3_000 ? sample : 0))
    expect(dipFor(await cover(-56, [hits, hits]))).toBe(-12)
  }, 60_000)
})

test('a dip is deeper the further noise stands out, and what nobody hears is left', () => {
  expect(dipFor({ noiseDbfs: -50, beatDbfs: -38 })).toBe(-6)
  expect(dipFor({ noiseDbfs: -50, beatDbfs: -46 })).toBe(-10)
  expect(dipFor({ noiseDbfs: -50, beatDbfs: -Infinity })).toBe(-12)
  expect(dipFor({ noiseDbfs: -90, beatDbfs: -Infinity })).toBeNull()
  expect(dipFor({ noiseDbfs: -Infinity, beatDbfs: -Infinity })).toBeNull()
})

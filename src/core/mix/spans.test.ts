import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import type { Planar } from '../audio/frames'
import type { AssetId } from '../song/schema'
import { ChunkWindow, CHUNK_FRAMES, chunksNeeded, cutIntoChunks } from './chunk-window'
import { assetsOfSpans, missingInSpans } from './missing-sound'
import { addSpansInto, MISSED, packSpans, SOUNDED, type Span } from './spans'

const A = 'a' as AssetId
const B = 'b' as AssetId
const span = (from: number, to: number, more: Partial<Span> = {}): Span => ({
  assetId: A,
  originFrame: 0,
  startFrame: from,
  endFrame: to,
  gain: 1,
  fadeInFrames: 0,
  fadeOutFrames: 0,
  ...more,
})

/** A: every frame is its own number; B: ones. Both 40 000 frames of one channel. */
const FRAMES = 40_000
const SOUNDS = new Map<AssetId, Planar>([
  [A, [Float32Array.from({ length: FRAMES }, (_, i) => i)]],
  [B, [new Float32Array(FRAMES).fill(1)]],
])
function windowOf(without?: { assetId: AssetId; index: number }): ChunkWindow {
  const window = new ChunkWindow()
  for (const [id, planes] of SOUNDS)
    [...cutIntoChunks(planes)].forEach((chunk, index) => {
      if (id !== without?.assetId || index !== without.index) window.put(id, FRAMES, index, chunk)
    })
  return window
}
function play(spans: Span[], frame: number, count: number, window = windowOf()): { sums: Float32Array[]; outcome: number } {
  const sums = [new Float32Array(count), new Float32Array(count)]
  return { sums, outcome: addSpansInto(sums, new Float32Array(count), packSpans(spans), window, frame, 0, count) }
}

describe('spans', () => {
  test('play their asset’s frame, at their gain, where they lie and nowhere else, on both sides', () => {
    const { sums, outcome } = play([span(100, 200, { originFrame: -50, gain: 0.5 })], 90, 128)
    sums.forEach(sum => sum.forEach((sample, i) => expect(sample).toBe(i >= 10 && i < 110 ? 0.5 * (90 + i + 50) : 0)))
    expect(outcome).toBe(SOUNDED)
    expect(play([span(100, 200)], 200, 128).outcome).toBe(0)
  })

  test('written into a part of a block, they leave its other frames alone', () => {
    const sums = [new Float32Array(128).fill(7)]
    addSpansInto(sums, new Float32Array(128), packSpans([span(0, 1_000, { assetId: B })]), windowOf(), 500, 40, 60)
    sums[0].forEach((sample, i) => expect(sample).toBe(i >= 40 && i < 60 ? 8 : 7))
  })

  test.each([
    ['unlike sounds keep their power', false, (out: number, into: number) => out ** 2 + into ** 2],
    ['alike ones their amplitude', true, (out: number, into: number) => out + into],
  ])('where two cross, %s, frame by frame', (_, alike, law) => {
    const leaving = play([span(0, 1_000, { assetId: B, fadeOutFrames: 400, alikeOut: alike })], 0, 1_000).sums[0]
    const coming = play([span(600, 2_000, { assetId: B, fadeInFrames: 400, alikeIn: alike })], 0, 1_000).sums[0]
    for (let i = 600; i < 1_000; i++) {
      expect(law(leaving[i], coming[i])).toBeCloseTo(1, 5)
      expect(leaving[i]).toBeLessThanOrEqual(leaving[i - 1])
    }
    expect(leaving[599]).toBe(1)
  })

  test('of sound that is not at hand nothing sounds, and that is told; the other spans sound', () => {
    const { sums, outcome } = play(
      [span(0, CHUNK_FRAMES + 50), span(CHUNK_FRAMES, CHUNK_FRAMES + 100, { assetId: B })],
      CHUNK_FRAMES,
      64,
      windowOf({ assetId: A, index: 1 }),
    )
    expect(outcome).toBe(SOUNDED | MISSED)
    expect([...sums[0]]).toEqual(new Array(64).fill(1))
  })

  test('however many there are, a block is the sum of all that reach into it', () => {
    const list = fc.array(fc.tuple(fc.nat(3_000), fc.integer({ min: 1, max: 900 })), { maxLength: 40 })
    fc.assert(
      fc.property(list, fc.nat(4_000), (pairs, frame) => {
        // Spans end in the order in which they begin, as picks and pieces do.
        let end = 0
        const spans = pairs.sort(([a], [b]) => a - b).map(([from, length]) => span(from, (end = Math.max(end, from + length)), { assetId: B }))
        const { sums } = play(spans, frame, 128)
        for (let i = 0; i < 128; i++) {
          const expected = spans.filter(entry => frame + i >= entry.startFrame && frame + i < entry.endFrame).length
          if (sums[0][i] !== expected) return false
        }
        return true
      }),
      { numRuns: 200 },
    )
  })
})

describe('the window of chunks', () => {
  test('gives whatever stretch is asked for, silence outside the asset, and says whether all was there', () => {
    const window = windowOf()
    window.drop(A, 2)
    fc.assert(
      fc.property(fc.integer({ min: -2_000, max: FRAMES + 2_000 }), fc.integer({ min: 1, max: 15_000 }), (from, count) => {
        const target = new Float32Array(count + 2).fill(-1)
        const complete = window.read(A, 1, from, target, 1, count)
        const gone = (frame: number) => frame >= 2 * CHUNK_FRAMES && frame < 3 * CHUNK_FRAMES
        let allThere = true
        for (let i = 0; i < count; i++) {
          const frame = from + i
          if (gone(frame)) allThere = false
          const expected = frame < 0 || frame >= FRAMES || gone(frame) ? 0 : frame
          if (target[1 + i] !== expected) return false
        }
        return complete === allThere && target[0] === -1 && target[count + 1] === -1
      }),
      { numRuns: 300 },
    )
  })

  test('needs exactly the chunks in which a frame is read', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -30_000, max: 30_000 }),
        fc.nat(60_000),
        fc.integer({ min: 1, max: 40_000 }),
        fc.nat(60_000),
        (originFrame, start, length, from) => {
          const one = span(start, start + length, { originFrame })
          const to = from + 7_000
          const read = new Set<number>()
          for (let frame = Math.max(from, start); frame < Math.min(to, start + length); frame += 1)
            if (frame >= originFrame) read.add(Math.floor((frame - originFrame) / CHUNK_FRAMES))
          const needed = chunksNeeded([one], from, to).get(A) ?? new Set()
          return [...read].sort().join() === [...needed].sort().join()
        },
      ),
      { numRuns: 200 },
    )
  })

  test('a sound cut into chunks is whole again; the last is shorter', () => {
    const pieces = [...cutIntoChunks(SOUNDS.get(A)!)]
    expect(pieces.map(([plane]) => plane.length)).toEqual([12_000, 12_000, 12_000, 4_000])
    expect(pieces.flatMap(([plane]) => [...plane])).toEqual([...SOUNDS.get(A)![0]])
  })
})

describe('missing sound', () => {
  test('is named where the song would play it, once, in the order of time', () => {
    const spans = [span(1_000, 2_000, { originFrame: 500 }), span(5_000, 6_000, { assetId: B }), span(2_000, 2_500, { originFrame: 500 })]
    expect(missingInSpans(spans, [{ assetId: A, startFrame: 0, endFrame: Infinity }])).toEqual([{ assetId: A, startFrame: 1_000, endFrame: 2_500 }])
    expect(missingInSpans(spans, [{ assetId: A, startFrame: 700, endFrame: 900 }])).toEqual([{ assetId: A, startFrame: 1_200, endFrame: 1_400 }])
    expect(missingInSpans(spans, [{ assetId: B, startFrame: 5_900, endFrame: 9_000 }])).toEqual([{ assetId: B, startFrame: 5_900, endFrame: 6_000 }])
  })

  test('that nothing plays is not missed', () => {
    expect(missingInSpans([span(0, 100)], [{ assetId: A, startFrame: 100, endFrame: 200 }])).toEqual([])
    expect(missingInSpans([span(0, 100)], [{ assetId: B, startFrame: 0, endFrame: 200 }])).toEqual([])
  })

  test('each asset is looked for once', () => {
    expect(assetsOfSpans([span(0, 1), span(1, 2, { assetId: B }), span(2, 3)])).toEqual([A, B])
  })
})

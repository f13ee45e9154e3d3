import { expect, test } from '@jest/globals'
import type { AssetId, BeatPiece } from '../song/schema'
import { JOIN_FRAMES, spansOfBeat } from './beat-spans'

const BEAT = 'beat' as AssetId
const COLOURED = 'coloured' as AssetId
const BAR = 96_000
const HALF = JOIN_FRAMES / 2
const piece = (startBar: number, sourceBar: number, bars: number, muted = false): BeatPiece => ({
  startFrame: startBar * BAR,
  sourceFrame: sourceBar * BAR,
  frames: bars * BAR,
  muted,
})
const spans = (pieces: BeatPiece[], treatments: Parameters<typeof spansOfBeat>[0]['treatments'] = []) => spansOfBeat({ assetId: BEAT, pieces, treatments })
const shape = (list: ReturnType<typeof spans>) =>
  list.map(({ assetId, startFrame, endFrame, originFrame, fadeInFrames, fadeOutFrames }) => ({
    assetId,
    startFrame,
    endFrame,
    originFrame,
    fadeInFrames,
    fadeOutFrames,
  }))
const treatment = (startFrame: number, endFrame: number) => ({ assetId: COLOURED, sourceStartFrame: startFrame, sourceEndFrame: endFrame }) as never

test('a beat that nobody cut is one span without fades', () => {
  expect(shape(spans([piece(0, 0, 8)]))).toEqual([{ assetId: BEAT, startFrame: 0, endFrame: 8 * BAR, originFrame: 0, fadeInFrames: 0, fadeOutFrames: 0 }])
})

test('pieces that follow each other in the file run on without a fade', () => {
  for (const { fadeInFrames, fadeOutFrames } of spans([piece(0, 0, 4), piece(4, 4, 4)])) expect([fadeInFrames, fadeOutFrames]).toEqual([0, 0])
})

test('where the file leaps, both pieces sound through a crossfade that has the bar line in its middle', () => {
  const [before, after] = spans([piece(0, 0, 4), piece(4, 0, 4)])
  expect([before.endFrame, after.startFrame]).toEqual([4 * BAR + HALF, 4 * BAR - HALF])
  expect([before.fadeOutFrames, after.fadeInFrames, before.alikeOut, after.alikeIn]).toEqual([JOIN_FRAMES, JOIN_FRAMES, true, true])
  // Sounding four bars later means reading from four bars earlier.
  expect(after.originFrame).toBe(4 * BAR)
})

test('beside silence a piece fades inside itself: a silent bar is silent from its first frame to its last', () => {
  const [before, after] = spans([piece(0, 0, 4), piece(4, 4, 1, true), piece(5, 5, 3)])
  expect([before.endFrame, after.startFrame]).toEqual([4 * BAR, 5 * BAR])
  expect([before.fadeOutFrames, after.fadeInFrames]).toEqual([JOIN_FRAMES, JOIN_FRAMES])
})

test('a treated stretch plays in place of the file’s, and the plain parts lie round it to the frame', () => {
  expect(shape(spans([piece(0, 0, 8)], [treatment(2 * BAR, 3 * BAR)]))).toEqual([
    { assetId: BEAT, startFrame: 0, endFrame: 2 * BAR, originFrame: 0, fadeInFrames: 0, fadeOutFrames: 0 },
    { assetId: COLOURED, startFrame: 2 * BAR, endFrame: 3 * BAR, originFrame: 2 * BAR, fadeInFrames: 0, fadeOutFrames: 0 },
    { assetId: BEAT, startFrame: 3 * BAR, endFrame: 8 * BAR, originFrame: 0, fadeInFrames: 0, fadeOutFrames: 0 },
  ])
})

test('a treated stretch that is repeated is treated each time, and one that ends at a cut has its share of the fade', () => {
  const list = spans([piece(0, 0, 4), piece(4, 0, 4)], [treatment(0, BAR)])
  expect(list.filter(({ assetId }) => assetId === COLOURED).map(({ startFrame, endFrame }) => [startFrame, endFrame])).toEqual([
    [0, BAR],
    [4 * BAR, 5 * BAR],
  ])
  // The crossfade reaches before the file's beginning: there is only the plain file, which is silent there.
  const [leaving, coming] = [list.filter(({ endFrame }) => endFrame === 4 * BAR + HALF), list.filter(({ startFrame }) => startFrame === 4 * BAR - HALF)]
  expect([leaving.length, coming.length]).toEqual([1, 1])
  expect([leaving[0].fadeOutFrames, coming[0].fadeInFrames]).toEqual([JOIN_FRAMES, JOIN_FRAMES])
})

import { describe, expect, test } from '@jest/globals'
import { PeaksBuilder } from '../audio/peaks'
import { makeRandom } from '../audio/random'
import { cutPasses, findFirstSound, flawsOfPass, withMark, type PassMark, type PassMarks } from './recording'

describe('from a capture to takes', () => {
  const range = { startFrame: 480_000, endFrame: 672_000 }
  const placement = { captureContextFrame: 1_000, anchorContextFrame: 5_000, anchorSongFrame: 384_000, range, looping: false, roundTripFrames: 1_105 }
  test('a captured frame lies where it was sung: the round trip earlier', () => {
    const [take] = cutPasses(400_000, placement)
    // Song frame 480 000 sounded at context frame 101 000; what was sung to it arrived 1 105 later.
    expect(480_000 - take.originFrame).toBe(101_000 + 1_105 - 1_000)
    expect(take.startFrame).toBe(480_000 - 48_000)
  })
  test('a loop gives a take a pass, each with its handles, all of one capture', () => {
    const passes = cutPasses(100_000 + 3 * 192_000 + 40_000, { ...placement, looping: true })
    expect(passes).toHaveLength(4)
    expect(passes.map(pass => pass.originFrame - passes[0].originFrame)).toEqual([0, -192_000, -384_000, -576_000])
    for (const pass of passes.slice(0, 3)) expect(pass.endFrame).toBeGreaterThanOrEqual(range.endFrame)
  })
  test('with bars before it, each turn of the loop is longer by them, and more of what was sung before is kept', () => {
    const passes = cutPasses(2 * 288_000, { ...placement, looping: true, preRollFrame: range.startFrame - 96_000 })
    expect(passes.map(pass => pass.originFrame - passes[0].originFrame)).toEqual([0, -288_000])
    expect(passes[1].startFrame).toBe(range.startFrame - 96_000)
  })
  test('a flaw of the capture lies in the pass that it fell into, in song frames', () => {
    const [first, second] = cutPasses(700_000, { ...placement, looping: true })
    const flaw = { atFrame: 480_000 + 200_000 - first.originFrame, frames: 128, kind: 'missing' as const }
    expect(flawsOfPass([flaw], first)).toEqual([{ startFrame: 680_000, endFrame: 680_128, kind: 'missing' }])
    expect(flawsOfPass([flaw], second)).toEqual([{ startFrame: 488_000, endFrame: 488_128, kind: 'missing' }])
  })
  test.each([4_800, 20_000, 40_000])('a word of %d frames is a take too, with what was sung round it', frames => {
    const word = { ...placement, range: { startFrame: 480_000, endFrame: 480_000 + frames } }
    const [take] = cutPasses(400_000, word)
    expect(take).toMatchObject({ beside: false, startFrame: 480_000 - 48_000 })
    // Stopped before its middle it is not.
    const sung = (share: number) => cutPasses(101_000 + 1_105 - 1_000 + Math.round(share * frames), word)[0].beside
    expect([sung(0.4), sung(0.6)]).toEqual([true, false])
  })
  test('star and spare can both be said of a pass; the bin takes both back, and each is taken back by saying it again', () => {
    const said = (...marks: PassMark[]) => marks.reduce((all, mark) => withMark(all, 2, mark), {} as PassMarks)[2]
    expect(said('star', 'spare')).toEqual(['star', 'spare'])
    expect(said('star', 'spare', 'star')).toEqual(['spare'])
    expect(said('star', 'spare', 'bin')).toEqual(['bin'])
    expect(said('bin', 'star')).toEqual(['star'])
    expect(said('bin', 'bin')).toEqual([])
    expect(withMark({ 1: ['star'] }, 2, 'bin')).toEqual({ 1: ['star'], 2: ['bin'] })
  })
  test('what hardly touches the range is one pass beside it, whole, for the bin; nothing at all is none', () => {
    // Stopped in the bars before: the capture ends 1 105 frames short of the range.
    const [beside, ...others] = cutPasses(100_000, placement)
    expect(others).toEqual([])
    expect(beside).toMatchObject({ pass: 1, beside: true, endFrame: beside.startFrame + 100_000, originFrame: beside.startFrame })
    expect(cutPasses(0, placement)).toEqual([])
  })
  test('all that is sung on after the range lies in the last pass', () => {
    const [take] = cutPasses(800_000, placement)
    expect(take.endFrame).toBe(take.originFrame + 800_000)
    const passes = cutPasses(100_000 + 2 * 192_000 + 20_000, { ...placement, looping: true })
    expect(passes).toHaveLength(2)
    expect(passes[1].endFrame).toBe(passes[1].originFrame + 100_000 + 2 * 192_000 + 20_000)
  })
  test('words that began the recording before a count-in lie in the first pass, with what came just before them', () => {
    const [take] = cutPasses(400_000, placement, 9_600 + 33)
    expect(take.startFrame).toBe(take.originFrame + 33)
    expect(cutPasses(400_000, placement, 300_000)[0].startFrame).toBe(480_000 - 48_000)
  })
  test.each([
    [0.0005, 96_000, 96_000],
    [0.004, 96_000, 96_000],
    [0.0005, null, null],
  ])('the first sound over a room at %f is found where it begins', (room, begins, expected) => {
    const random = makeRandom(3)
    const sound = Float32Array.from({ length: 192_000 }, (_, i) => room * (2 * random() - 1) + (begins !== null && i >= begins ? 0.2 * Math.sin(i * 0.03) : 0))
    // A click is no voice.
    sound[20_000] = 0.9
    const builder = new PeaksBuilder()
    builder.push([sound])
    const found = findFirstSound(builder.finish())
    if (expected === null) expect(found).toBeNull()
    else expect(Math.abs(found! - expected)).toBeLessThanOrEqual(512)
  })
})

import { describe, expect, test } from '@jest/globals'
import { peakOf } from '../audio/decibels'
import { decibelsBetween } from '../audio/signals.test-kit'
import { pickTake } from '../comp/picks'
import type { Song } from '../song/schema'
import { layerOf, lineRange, makeId } from '../song/song.test-kit'
import { setBeatMix, setLayerMix } from './commands'
import { ChunkWindow } from './chunk-window'
import { bare, offline, sounds, sung, wholeWindow } from './mix.test-kit'
import type { View } from './heard'
import { planMix, type MixPlan } from './plan'
import { MixRenderer } from './renderer'

const beatOf = (plan: MixPlan) => plan.channels.find(channel => channel.id === 'beat')!

describe('the renderer', () => {
  test('rendered ahead chunk by chunk or all at hand, equal plans give equal samples', async () => {
    const plan = planMix(sung())
    const range = { startFrame: 0, endFrame: 12 * 48_000 }
    const [left] = await offline(plan, range)
    const renderer = new MixRenderer(plan, wholeWindow())
    renderer.seek(0)
    const live = new Float32Array(range.endFrame)
    for (let at = 0; at < live.length; at += 128) renderer.render(at, live.subarray(at, at + 128), new Float32Array(128))
    expect(decibelsBetween(live, left)).toBe(-Infinity)
    expect(renderer.missedBlocks).toBe(0)
  })

  test('a lone take in the middle, without recipe and space, is itself at -3 dB on both sides, in its place', async () => {
    let song = bare(sung())
    song = setBeatMix(setLayerMix(song, { layerId: song.layers[0].id, gainDecibels: 0, pan: 0 }), { muted: true })
    const { startFrame } = lineRange(0)
    const [left, right] = await offline(planMix(song), { startFrame: startFrame + 1_000, endFrame: startFrame + 49_000 })
    const sounding = sounds['asset-1'][0].subarray(startFrame + 1_000 - 336_000, startFrame + 49_000 - 336_000)
    expect(
      decibelsBetween(
        left,
        sounding.map(sample => sample * Math.SQRT1_2),
      ),
    ).toBeLessThan(-120)
    expect(decibelsBetween(left, right)).toBe(-Infinity)
  })

  test('where picks meet, both sound for 20 ms at equal power and neither moves', () => {
    const [first, second] = planMix(sung()).channels[0].spans
    const edge = lineRange(0).endFrame
    expect([first.endFrame, second.startFrame]).toEqual([edge + 480, edge - 480])
    expect([first.originFrame, second.originFrame]).toEqual([336_000, 336_000])
    expect([first.fadeOutFrames, second.fadeInFrames]).toEqual([960, 960])
  })

  test('another take picked while playing comes in without a click, and the old one is gone after 8 ms', () => {
    const before = sung()
    const lead = before.layers[0].id
    const planOf = (song: Song) => planMix(setBeatMix(bare(song), { muted: true }))
    const { startFrame } = lineRange(0)
    const renderer = new MixRenderer(planOf(before), wholeWindow())
    const at = startFrame + 12_800
    renderer.seek(at)
    const left = new Float32Array(6_400)
    for (let i = 0; i < left.length; i += 128) {
      if (i === 1_280) renderer.setPlan(planOf(pickTake(before, { layerId: lead, takeId: before.takes[1].id, ...lineRange(0), makeId })))
      renderer.render(at + i, left.subarray(i, i + 128), new Float32Array(128))
    }
    // A 440 Hz sine at this level moves at most 0.0122 a sample; a hard switch would jump by up to 0.4.
    let jump = 0
    for (let i = 1; i < left.length; i++) jump = Math.max(jump, Math.abs(left[i] - left[i - 1]))
    expect(jump).toBeLessThan(0.0135)
    const after = sounds['asset-2'][0].subarray(at + 2_560 - 336_000, at + 6_400 - 336_000).map(sample => sample * Math.SQRT1_2)
    expect(decibelsBetween(left.subarray(2_560), after)).toBeLessThan(-110)
  })

  test('in the Booth the comp is silent where it is sung anew and plays up to it; levels are the headphones’ own', () => {
    const before = sung()
    const lead = layerOf(before, 'Lead')
    const song = pickTake(before, { layerId: lead, takeId: before.takes[0].id, startFrame: lineRange(0).startFrame, endFrame: lineRange(2).endFrame, makeId })
    const view: Extract<View, { kind: 'booth' }> = {
      kind: 'booth',
      layerId: lead,
      hear: 'comp',
      recorded: lineRange(1),
      guide: 'off',
      decibels: { beat: -6, comp: -3, others: 0, guide: 0 },
    }
    const plan = planMix(song, view)
    const [channel, ...others] = plan.channels.filter(({ id }) => id !== 'beat')
    expect(channel.spans.map(({ startFrame, endFrame }) => [startFrame, endFrame])).toEqual([
      [lineRange(0).startFrame, lineRange(1).startFrame],
      [lineRange(1).endFrame, lineRange(2).endFrame],
    ])
    const usual = planMix(song)
    expect(20 * Math.log10(channel.gain / usual.channels[0].gain)).toBeCloseTo(-3, 6)
    expect(20 * Math.log10(beatOf(plan).gain / beatOf(usual).gain)).toBeCloseTo(-6, 6)
    expect(others.every(layer => layer.gain === 0)).toBe(true)
    expect(planMix(song, { ...view, hear: 'beat' }).channels.every(({ id, gain }) => id === 'beat' || gain === 0)).toBe(true)
    expect(planMix(song, { ...view, recorded: null }).channels[0].spans).toEqual(usual.channels[0].spans)
  })

  test('a loop turns inside a block at its exact frame', () => {
    const song = setBeatMix(sung(), { gainDecibels: 0 })
    const plan = { ...planMix(song, { kind: 'only', beat: true, layerIds: [] }) }
    const renderer = new MixRenderer(plan, wholeWindow())
    const [start, end] = [10_000, 10_000 + 1_000]
    renderer.seek(start)
    const left = new Float32Array(2_048)
    const wrap = (frame: number) => start + ((frame - start) % (end - start))
    for (let i = 0; i < left.length; i += 128) {
      const frame = wrap(start + i + 128)
      renderer.pull(frame, Math.min(128, end - frame), start, left.subarray(i, i + 128), new Float32Array(128), end - frame)
    }
    // Faded out over 4 ms before each turn and in after it.
    const fade = (i: number) => Math.min(1, (end - wrap(start + i)) / 192, i < end - start ? 1 : (wrap(start + i) - start) / 192)
    const expected = Float32Array.from({ length: left.length }, (_, i) => sounds.beat[0][wrap(start + i)] * fade(i))
    expect(decibelsBetween(left, expected)).toBeLessThan(-140)
  })

  test('sound that is not at hand is silence and is counted', () => {
    const renderer = new MixRenderer(planMix(sung()), new ChunkWindow())
    renderer.seek(0)
    const left = new Float32Array(128)
    renderer.render(0, left, new Float32Array(128))
    expect(peakOf(left)).toBe(0)
    expect(renderer.missedBlocks).toBeGreaterThan(0)
  })

  test('a mute silences one, a solo all others, the beat included', () => {
    const song = sung()
    const gains = (changed: Song) => [
      beatOf(planMix(changed)).gain > 0,
      ...planMix(changed)
        .channels.slice(0, 3)
        .map(channel => channel.gain > 0),
    ]
    expect(gains(setLayerMix(song, { layerId: song.layers[1].id, muted: true }))).toEqual([true, true, false, true])
    expect(gains(setLayerMix(song, { layerId: song.layers[1].id, soloed: true }))).toEqual([false, false, true, false])
    expect(gains(setBeatMix(song, { soloed: true }))).toEqual([true, false, false, false])
  })

  test('the tail after the last sound is kept, silence after it is not', async () => {
    const song = setBeatMix(sung(), { muted: true })
    const [left] = await offline(planMix(song))
    const end = lineRange(1).endFrame
    expect(left.length).toBeGreaterThan(end + 12_000)
    expect(left.length).toBeLessThan(end + 4 * 48_000)
    expect(peakOf(left.subarray(left.length - 2_400))).toBeLessThan(1e-4)
  })
})

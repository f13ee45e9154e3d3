import { beforeAll, describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { rmsOf } from '../audio/decibels'
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { pickTake } from '../comp/picks'
import { describeComp } from '../comp/comps'
import { integratedLufs } from '../loudness/loudness'
import { setBeatMix } from '../mix/commands'
import { bare, offline, sung } from '../mix/mix.test-kit'
import { planMix } from '../mix/plan'
import { SongSchema, type Song } from '../song/schema'
import { requireLayer, requireTake, type FrameRange } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { soundingAt, timeMapOf } from '../tune/time-map'
import { analyseVoice, type VoiceAnalysis } from '../voice/analyse-voice'
import { buzz } from '../voice/voice.test-kit'
import { setAsSung } from './commands'
import { layGains, phraseLevels, proposeEven, stretchOfPhrase, usualLufs, type EvenProposal } from './even-out'
import { gainOfStretch, gainsInSong, removeGain, setGainInStretch } from './stretch-level'
import { laterAt, moveStretch, movesInSong, setMove } from './stretch-time'

/** Two takes on the lead that meet at the end of its first line. */
const song = setBeatMix(bare(sung()), { muted: true })
const lead = layerOf(song, 'Lead')
const layerIn = (of: Song) => requireLayer(of, lead)
const [first, second] = [lineRange(0), lineRange(1)]
const both: FrameRange = { startFrame: first.startFrame, endFrame: second.endFrame }
const seconds = (from: number, to: number): FrameRange => ({
  startFrame: first.startFrame + from * SAMPLE_RATE_HZ,
  endFrame: first.startFrame + to * SAMPLE_RATE_HZ,
})
const louder = (of: Song, stretch: FrameRange, gainDecibels: number) =>
  setGainInStretch(of, { layerId: lead, stretch, gainDecibels, fadeFrames: 2_400, makeId })
const decibelsAt = (sound: Mono, frame: number) => 20 * Math.log10(rmsOf(sound.slice(frame - 480, frame + 480)))
const play = async (of: Song, range: FrameRange) => (await offline(planMix(of), range))[0]

describe('the level of a stretch', () => {
  test('is heard through a seam as one, and told as one', async () => {
    const stretch = { startFrame: first.endFrame - 48_000, endFrame: first.endFrame + 48_000 }
    const raised = louder(song, stretch, 4)
    expect(gainsInSong(raised, layerIn(raised), both)).toMatchObject([{ ...stretch, gainDecibels: 4 }])
    const range = { startFrame: stretch.startFrame - 24_000, endFrame: stretch.endFrame + 24_000 }
    const [after, before] = [await play(raised, range), await play(song, range)]
    // At the seam, beside it, and outside of the stretch.
    for (const [frame, gain] of [
      [72_000, 4],
      [73_500, 4],
      [30_000, 4],
      [12_000, 0],
      [132_000, 0],
    ])
      expect(decibelsAt(after, frame) - decibelsAt(before, frame)).toBeCloseTo(gain, 1)
  })
  test('typed again takes the place of the former, 0 dB takes it away, and other stretches stay', () => {
    const [word, line] = [seconds(1, 1.5), { startFrame: first.startFrame - 9_000, endFrame: first.endFrame }]
    const laid = louder(louder(louder(song, word, 3), line, -2), word, -5)
    expect(gainsInSong(laid, layerIn(laid), both).map(gain => gain.gainDecibels)).toEqual([-2, -5])
    // A line that begins before what is picked is the same line when it is typed again.
    expect(gainsInSong(louder(laid, line, 6), layerIn(louder(laid, line, 6)), both).map(gain => gain.gainDecibels)).toEqual([6, -5])
    expect(louder(louder(laid, word, 0), line, 0)).toEqual(song)
    const [gain] = gainsInSong(laid, layerIn(laid), both)
    expect(gainsInSong(removeGain(laid, gain), layerIn(removeGain(laid, gain)), both)).toHaveLength(1)
  })
  test('is none where nothing is played, or where it is to be as it was sung; a locked comp refuses', () => {
    const silent = { startFrame: second.endFrame + 48_000, endFrame: second.endFrame + 96_000 }
    expect(louder(song, silent, 6)).toBe(song)
    expect(gainOfStretch(song, layerIn(song), silent)).toBeNull()
    const [pick] = layerIn(song).comps[0].picks
    const asSung = setAsSung(song, { layerId: lead, pickId: pick.id, asSung: true })
    expect(louder(asSung, seconds(1, 2), 6)).toBe(asSung)
    const locked = describeComp(song, { layerId: lead, compId: layerIn(song).comps[0].id, locked: true })
    expect(() => louder(locked, seconds(1, 2), 6)).toThrow('locked')
  })
})

describe('the time of a stretch', () => {
  const move = (of: Song, stretch: FrameRange, milliseconds: number, holds: number[] = []) =>
    moveStretch(of, { layerId: lead, stretch, laterFrames: milliseconds * 48, holds, makeId })
  const at = (second: number) => first.startFrame + second * SAMPLE_RATE_HZ

  test('a phrase moves as a whole, its neighbours stay where they begin and end', () => {
    const moved = move(song, seconds(1, 2), -60, [at(0.8), at(2.3)])
    expect([1, 1.5, 1.99].map(second => laterAt(moved, lead, at(second)))).toEqual([-2_880, -2_880, -2_880])
    expect([0.5, 0.8, 2.3, 2.6].map(second => laterAt(moved, lead, at(second)))).toEqual([0, 0, 0, 0])
    expect(movesInSong(moved, layerIn(moved), both)).toMatchObject([{ ...seconds(1, 2), laterFrames: -2_880 }])
  })
  test('a word between two others begins earlier and is longer, and both neighbours begin where they did', () => {
    const moved = move(song, seconds(1, 1.4), -60, [at(0.7), at(1.4)])
    expect([0.7, 1, 1.4, 1.8].map(second => laterAt(moved, lead, at(second)))).toEqual([0, -2_880, 0, 0])
  })
  test('typed again takes the place of the former, 0 and taking it back leave nothing', () => {
    const stretch = seconds(1, 1.4)
    const holds = [at(0.7), at(1.4)]
    const moved = move(move(song, stretch, -60, holds), stretch, 25, holds)
    expect(movesInSong(moved, layerIn(moved), both).map(({ laterFrames }) => laterFrames)).toEqual([1_200])
    expect(move(moved, stretch, 0, holds)).toEqual(song)
    const further = setMove(moved, { ...movesInSong(moved, layerIn(moved), both)[0], laterFrames: -960 })
    expect([0.7, 1, 1.4].map(second => laterAt(further, lead, at(second)))).toEqual([0, -960, 0])
    expect(setMove(moved, { ...movesInSong(moved, layerIn(moved), both)[0], laterFrames: 0 })).toEqual(song)
  })
  test('one word of two that were moved goes back by itself', () => {
    const words = [seconds(1, 1.4), seconds(1.4, 1.9)]
    const one = move(song, words[0], 30, [at(0.7), at(1.4)])
    const two = move(one, words[1], -40, [at(1), at(2.2)])
    expect(movesInSong(two, layerIn(two), both).map(({ laterFrames }) => laterFrames)).toEqual([1_440, -1_920])
    const back = move(two, words[1], 0, [at(1), at(2.2)])
    expect(movesInSong(back, layerIn(back), both).map(({ laterFrames }) => laterFrames)).toEqual([1_440])
  })
  test('whatever is moved and taken back, the song opens, and taking all back gives it as it was', () => {
    const act = fc.record({ from: fc.integer({ min: 1, max: 30 }), length: fc.integer({ min: 1, max: 6 }), milliseconds: fc.integer({ min: -250, max: 250 }) })
    fc.assert(
      fc.property(fc.array(act, { minLength: 1, maxLength: 6 }), acts => {
        const moved = acts.reduce((changed, { from, length, milliseconds }) => {
          const stretch = seconds(from / 10, (from + length) / 10)
          return move(changed, stretch, milliseconds, [at((from - 2) / 10), at((from + length) / 10)])
        }, song)
        expect(SongSchema.safeParse(moved).success).toBe(true)
        const { times } = requireTake(moved, song.takes[0].id).edits
        // What was sung later never sounds earlier.
        const map = timeMapOf(times)
        for (let frame = 0; frame < 400_000; frame += 2_000) expect(soundingAt(map, frame + 2_000)).toBeGreaterThan(soundingAt(map, frame))
        let back = moved
        for (let move = movesInSong(back, layerIn(back), both)[0]; move; move = movesInSong(back, layerIn(back), both)[0])
          back = setMove(back, { ...move, laterFrames: 0 })
        expect(back).toEqual(song)
      }),
      { numRuns: 60 },
    )
  })
})

describe('phrases brought to one level', () => {
  /** Six phrases of a second and a shout, of which two are soft and one is loud. */
  const OFF = [0, -6, 0, 5, 0, -2.5]
  const tone = buzz(() => 220).sound.subarray(48_000, 96_000)
  const take = new Float32Array(16 * SAMPLE_RATE_HZ)
  OFF.forEach((decibels, i) =>
    tone.forEach((sample, k) => (take[(0.5 + 2 * i) * SAMPLE_RATE_HZ + k] += edged(k, tone.length) * 10 ** (decibels / 20) * sample)),
  )
  tone.subarray(0, 9_600).forEach((sample, k) => (take[14 * SAMPLE_RATE_HZ + k] = 3 * edged(k, 9_600) * sample))
  let analysis: VoiceAnalysis
  beforeAll(() => {
    analysis = analyseVoice(take)
  })
  const base = withTakes(smallSong(), 'Lead', 1, { originFrame: 384_000, startFrame: 384_000, endFrame: 384_000 + take.length })
  const picked = pickTake(base, { layerId: layerOf(base, 'Lead'), takeId: base.takes[0].id, startFrame: 384_000, endFrame: 384_000 + take.length, makeId })
  const layerId = layerOf(base, 'Lead')
  const all = { startFrame: 0, endFrame: 10_000_000 }
  const levels = (of: Song) => phraseLevels(of, requireLayer(of, layerId), () => analysis)
  const propose = (of: Song, limitDecibels = 6, range: FrameRange = all) =>
    proposeEven(of, requireLayer(of, layerId), { levels: levels(of), range, limitDecibels })

  test('are as loud as the standard measures each by itself', () => {
    const [one] = levels(picked)
    expect(levels(picked)).toHaveLength(7)
    expect(one.lufs).toBeCloseTo(integratedLufs([tone]), 0)
    expect(levels(picked)[1].lufs - one.lufs).toBeCloseTo(-6, 1)
    expect(usualLufs(levels(picked))).toBeCloseTo(one.lufs, 1)
  })
  test('are proposed what brings them to within 1 dB of the usual, within the limit; the shout is left', () => {
    const gainsIn = ({ gains }: EvenProposal) => gains.map(({ gainDecibels }) => gainDecibels)
    expect(gainsIn(propose(picked))).toEqual([5, -4, 1.5])
    expect(propose(picked)).toMatchObject({ phrases: 7, beyondLimit: 0 })
    expect(gainsIn(propose(picked, 3))).toEqual([3, -3, 1.5])
    expect(propose(picked, 3).beyondLimit).toBe(2)
    expect(gainsIn(propose(picked, 6, { startFrame: 384_000 + 6 * 48_000, endFrame: 384_000 + 9 * 48_000 }))).toEqual([-4])
  })
  test('that the singer raised beyond the limit are not lowered because they are still soft', () => {
    const [, soft] = levels(picked)
    const softer = setGainInStretch(picked, { layerId, stretch: stretchOfPhrase(levels(picked), 1), gainDecibels: 2, fadeFrames: 2_400, makeId })
    expect(levels(softer)[1].lufs - soft.lufs).toBeCloseTo(2, 1)
    expect(propose(softer, 1).gains.map(({ gainDecibels }) => gainDecibels)).toEqual([-1, 1])
    expect(propose(softer, 1).beyondLimit).toBe(3)
  })
  test('once it is laid, nothing more is proposed, and each sounds so', () => {
    const laid = layGains(picked, { gains: propose(picked).gains, makeId })
    expect(propose(laid).gains).toEqual([])
    const away = levels(laid)
      .slice(0, 6)
      .map(({ lufs }) => Math.abs(lufs - usualLufs(levels(laid))!))
    expect(Math.max(...away)).toBeLessThan(1.1)
    // A lower limit later takes nothing back by itself.
    expect(propose(laid, 2).gains).toEqual([])
  })
})

function edged(frame: number, frames: number): number {
  return Math.min(1, frame / 480, (frames - frame) / 480)
}

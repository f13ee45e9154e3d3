import { describe, expect, test } from '@jest/globals'
import { makeRandom } from '../audio/random'
import { decibelsBetween, sine } from '../audio/signals.test-kit'
import { bandPass, filtered } from '../effects/biquad'
import { planPart, planStems, type Part } from '../deliver/parts'
import { lineRange } from '../song/song.test-kit'
import type { Song } from '../song/schema'
import { clarityOf } from './clarity'
import { setBeatMix, setBeatRoom } from './commands'
import { bare, offline, sung, wholeWindow } from './mix.test-kit'
import { planMix } from './plan'
import { MixRenderer } from './renderer'

const [FIRST, SECOND] = [lineRange(0), lineRange(1)]
const song = setBeatMix(bare(sung()), { gainDecibels: 0 })
const withRoom = (settings: Parameters<typeof setBeatRoom>[1], of = song) => setBeatRoom(of, settings)
/** From two seconds before the voice to two after it. */
const ROUND = { startFrame: FIRST.startFrame - 96_000, endFrame: SECOND.endFrame + 96_000 }
/** The beat alone, as the voices let it be. */
const beatOf = (of: Song) => offline(planPart(of, { kind: 'beat' }), ROUND).then(planes => planes[0])
const part = (plane: Float32Array, from: number, to: number) => plane.subarray(from - ROUND.startFrame, to - ROUND.startFrame)
const rms = (sound: Float32Array) => Math.sqrt(sound.reduce((sum, x) => sum + x * x, 0) / sound.length)
const between = (a: Float32Array, b: Float32Array) => 20 * Math.log10(rms(a) / rms(b))
const round = (hz: number) => (sound: Float32Array) => filtered(sound, bandPass(hz, 30), bandPass(hz, 30))

describe('a beat that makes room', () => {
  test('gives way in its band and in all of it while the voice sounds, by so much, and not before', async () => {
    const [plain, room] = [await beatOf(song), await beatOf(withRoom({ frequencyHz: 1_500, bandQ: 1, dipDecibels: 6, levelDecibels: 2 }))]
    const sungIn = [FIRST.startFrame + 48_000, FIRST.endFrame - 4_800] as const
    const inBand = round(1_500)
    expect(between(inBand(part(room, ...sungIn)), inBand(part(plain, ...sungIn)))).toBeCloseTo(-8, 0)
    const below = round(100)
    expect(between(below(part(room, ...sungIn)), below(part(plain, ...sungIn)))).toBeCloseTo(-2, 0)
    const before = [ROUND.startFrame, FIRST.startFrame - 480] as const
    expect(decibelsBetween(part(room, ...before), part(plain, ...before))).toBe(-Infinity)
  })

  test('comes back when the voice rests', async () => {
    const [plain, room] = [await beatOf(song), await beatOf(withRoom({ levelDecibels: 6, releaseSeconds: 0.2 }))]
    const end = SECOND.endFrame
    // A time constant after the end e^-1 of the six decibels is left, after ten of them as good as nothing.
    expect(between(part(room, end + 9_400, end + 9_800), part(plain, end + 9_400, end + 9_800))).toBeCloseTo(-6 / Math.E, 0)
    expect(Math.abs(between(part(room, end + 95_000, end + 96_000), part(plain, end + 95_000, end + 96_000)))).toBeLessThan(0.05)
  })

  test('of nothing is the beat to the bit', async () => {
    expect(decibelsBetween(await beatOf(withRoom({ frequencyHz: 3_000, releaseSeconds: 1 })), await beatOf(song))).toBe(-Infinity)
  })

  test('its stems and the beat still sum to the mix', async () => {
    const room = withRoom({ dipDecibels: 9, levelDecibels: 4 })
    const roomy = { ...room, output: { ...room.output, ceilingDbfs: 0 } }
    const parts: Part[] = [{ kind: 'beat' }, ...planStems(roomy, 'layer')]
    const planes = await Promise.all(parts.map(async of => (await offline(planPart(roomy, of), ROUND))[0]))
    const sum = planes[0].map((_, i) => planes.reduce((all, plane) => all + plane[i], 0))
    expect(decibelsBetween(sum, (await offline(planMix(roomy), ROUND))[0])).toBeLessThan(-120)
  })

  test('takes on another amount while it plays without a step', () => {
    const renderer = new MixRenderer(planMix(song), wholeWindow())
    let at = FIRST.startFrame + 48_000
    renderer.seek(at)
    const play = () => {
      const sound = new Float32Array(12_800)
      for (let i = 0; i < sound.length; i += 128, at += 128) renderer.render(at, sound.subarray(i, i + 128), new Float32Array(128))
      return sound
    }
    const steepest = (sound: Float32Array) => sound.reduce((most, x, i) => (i === 0 ? most : Math.max(most, Math.abs(x - sound[i - 1]))), 0)
    const before = steepest(play())
    for (const settings of [{ dipDecibels: 12, levelDecibels: 9 }, { frequencyHz: 400 }, { dipDecibels: 0, levelDecibels: 0 }]) {
      renderer.setPlan(planMix(withRoom(settings)))
      expect(steepest(play())).toBeLessThan(1.5 * before)
    }
  })
})

describe('clarity', () => {
  const random = makeRandom(3)
  const noise = Float32Array.from({ length: 96_000 }, () => 0.1 * (2 * random() - 1))
  const scaled = (decibels: number) => noise.map(x => x * 10 ** (decibels / 20))
  test.each([
    [-20, 0],
    [-15, 0],
    [0, 0.5],
    [7.5, 0.75],
    [20, 1],
  ])('a voice like the beat, %d dB over it in every band, is understood by %d', (over, share) => {
    expect(clarityOf([scaled(over)], [noise])).toBeCloseTo(share, 1)
  })
  test('a dip where it counts makes it clearer, one far away does not', () => {
    const voice = scaled(0)
    const dipped = (hz: number) => {
      const band = filtered(noise, bandPass(hz, 1))
      return clarityOf([voice], [noise.map((x, i) => x - 0.75 * band[i])])
    }
    const plain = clarityOf([voice], [noise])
    expect(dipped(1_800) - plain).toBeGreaterThan(0.05)
    expect(Math.abs(dipped(60) - plain)).toBeLessThan(0.02)
  })
  test('without a beat all of it is understood; without a voice there is nothing to understand', () => {
    expect(clarityOf([noise], [new Float32Array(96_000)])).toBeCloseTo(1, 2)
    expect(clarityOf([new Float32Array(96_000)], [sine({ hz: 100, frames: 96_000 })])).toBeNaN()
  })
})

import type { MixPlan } from '../mix/plan'
import { describe, expect, test } from '@jest/globals'
import FFT from 'fft.js'
import { decibelsToGain, peakOf } from '../audio/decibels'
import type { Mono, Planar } from '../audio/frames'
import { makeRandom } from '../audio/random'
import { pickTake } from '../comp/picks'
import { setBeatMix, setLayerMix } from '../mix/commands'
import { planPart } from './parts'
import { cutIntoChunks } from '../mix/chunk-window'
import { joinPlanes, renderOffline, type AssetStore } from '../mix/render-offline'
import type { Song } from '../song/schema'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { renderDelivery, type DeliveryReport } from './delivery'
import type { WavFormat } from './encoders'
import { decodeSamples, readWavHeader } from '../files/wav'

const FRAMES = 8 * 48_000

/** As bright and as loud as beats get: noise and cut-off squares up to 20 kHz, in bursts, with their tops between the samples. */
function loud(seed: number): Mono {
  const random = makeRandom(seed)
  const size = 2 ** Math.ceil(Math.log2(FRAMES))
  const fft = new FFT(size)
  const raw = Array.from(
    { length: size },
    (_, i) =>
      (i % 24_000 < 9_000 ? 1 : 0.2) * (1.2 * Math.sign(Math.sin(i * 0.041)) + 1.5 * (2 * random() - 1) + 0.8 * Math.sin((Math.PI / 4) * i + Math.PI / 8)),
  )
  const spectrum = fft.createComplexArray()
  fft.realTransform(spectrum, raw)
  fft.completeSpectrum(spectrum)
  const from = Math.floor((20_000 / 48_000) * size)
  for (let bin = from; bin <= size - from; bin++) spectrum[2 * bin] = spectrum[2 * bin + 1] = 0
  const sound = fft.createComplexArray()
  fft.inverseTransform(sound, spectrum)
  return Float32Array.from({ length: FRAMES }, (_, i) => sound[2 * i])
}
const sounds: Record<string, Planar> = { beat: [loud(1), loud(2)], 'asset-1': [new Float32Array(FRAMES).map((_, i) => 0.3 * Math.sin(i * 0.05))] }
const chunks = Object.fromEntries(Object.entries(sounds).map(([id, planes]) => [id, [...cutIntoChunks(planes)]]))
const store: AssetStore = {
  framesOf: id => Promise.resolve(sounds[id][0].length),
  readChunks: (id, indices) => Promise.resolve(indices.map(index => chunks[id][index])),
}

const bare = smallSong()
const song: Song = {
  ...setBeatMix(bare, { gainDecibels: 0 }),
  beat: { ...setBeatMix(bare, { gainDecibels: 0 }).beat, frames: FRAMES, pieces: [{ startFrame: 0, sourceFrame: 0, frames: FRAMES, muted: false }] },
}
const sung = (() => {
  const taken = withTakes(song, 'Lead', 1, {
    originFrame: lineRange(0).startFrame,
    startFrame: lineRange(0).startFrame,
    endFrame: lineRange(0).startFrame + FRAMES,
  })
  return pickTake(taken, { layerId: layerOf(taken, 'Lead'), takeId: taken.takes[0].id, ...lineRange(0), makeId })
})()

async function deliver(
  current: Song,
  part: 'mix' | 'vocals' | 'beat',
  sampleRateHz: 44_100 | 48_000 = 48_000,
  bits: WavFormat['bits'] = 24,
): Promise<{ planes: Planar; report: DeliveryReport } | null> {
  const result = await renderDelivery({ plan: planPart(current, { kind: part }), store, format: { kind: 'wav', bits, sampleRateHz } })
  if (result.kind !== 'delivered') return null
  const bytes = Buffer.concat(result.parts)
  const parsed = readWavHeader(bytes)
  if (!parsed.ok) throw new Error(parsed.reason)
  return {
    planes: decodeSamples(bytes.subarray(parsed.header.dataOffset, parsed.header.dataOffset + parsed.header.dataBytes), parsed.header.encoding, 2),
    report: result.report,
  }
}

/** The largest value of the band-limited sound through the samples, by a spectrum eight times as long: nothing of the meter under test is in it. */
function peakBetweenSamples(plane: Float32Array): number {
  const size = 16_384
  const times = 8
  const small = new FFT(size)
  const large = new FFT(size * times)
  let peak = 0
  for (let from = 0; from + size <= plane.length; from += size / 2) {
    const spectrum = small.createComplexArray()
    small.realTransform(spectrum, Array.from(plane.subarray(from, from + size)))
    const padded = large.createComplexArray().fill(0)
    for (let i = 0; i < size; i++) padded[i] = spectrum[i] * times
    for (let bin = 1; bin < size / 2; bin++) {
      padded[2 * (size * times - bin)] = padded[2 * bin]
      padded[2 * (size * times - bin) + 1] = -padded[2 * bin + 1]
    }
    const sound = large.createComplexArray()
    large.inverseTransform(sound, padded)
    // The ends of the piece, which the transform takes for neighbours, are left to the pieces beside it.
    for (let i = (size * times) / 4; i < (3 * size * times) / 4; i++) peak = Math.max(peak, Math.abs(sound[2 * i]))
  }
  return peak
}

describe('the ceiling', () => {
  test.each([
    [48_000, -1],
    [44_100, -1],
    [48_000, -6],
    [44_100, -3],
  ] as const)('holds for true peaks at the rate that is written: %i Hz at %i dBTP, and the report says them', async (rate, ceilingDbfs) => {
    const delivered = (await deliver({ ...song, output: { ...song.output, ceilingDbfs } }, 'beat', rate))!
    const measured = 20 * Math.log10(Math.max(...delivered.planes.map(peakBetweenSamples)))
    expect(measured).toBeLessThan(ceilingDbfs + 0.15)
    expect(measured).toBeGreaterThan(ceilingDbfs - 1)
    expect(delivered.report.loudness.truePeakDbtp).toBeCloseTo(measured, 0)
    expect(delivered.report.ceilingTouched).toBe(true)
  })
  test('leaves what stays below it as it is, at both rates', async () => {
    const soft = setBeatMix(song, { gainDecibels: -30 })
    for (const rate of [48_000, 44_100] as const) {
      const { report } = (await deliver(soft, 'beat', rate))!
      expect(report.ceilingTouched).toBe(false)
      expect(report.seconds).toBeCloseTo(8.05, 1)
    }
    const { planes } = (await deliver(soft, 'beat'))!
    const gain = decibelsToGain(-30)
    for (let i = 0; i < FRAMES; i += 997) expect(planes[0][i]).toBeCloseTo(gain * sounds.beat[0][i], 5)
  })
})

describe('what is delivered', () => {
  const lead = layerOf(sung, 'Lead')
  const muteAll = (s: Song) => s.layers.reduce((current, layer) => setLayerMix(current, { layerId: layer.id, muted: true }), setBeatMix(s, { muted: true }))
  test('nothing is no file: everything muted, no takes, a muted beat', async () => {
    for (const part of ['mix', 'vocals', 'beat'] as const) expect(await deliver(muteAll(sung), part)).toBeNull()
    expect(await deliver(song, 'vocals')).toBeNull()
    expect(await deliver(setBeatMix(sung, { muted: true }), 'beat')).toBeNull()
  })
  test('of 32 bits it is the render to the bit; of 24 and 16 it is that with a dither of one step and a half', async () => {
    const exact = (await deliver(sung, 'vocals', 48_000, 32))!.planes
    const pieces: Planar[] = []
    await renderOffline({ plan: planPart(sung, { kind: 'vocals' }), store, sink: planes => void pieces.push(planes) })
    expect(exact).toEqual(joinPlanes(pieces))
    for (const bits of [24, 16] as const) {
      const { planes } = (await deliver(sung, 'vocals', 48_000, bits))!
      const errors = planes.map((plane, c) => plane.map((sample, i) => sample - exact[c][i]))
      const step = 2 ** (1 - bits)
      expect(Math.max(...errors.map(peakOf)) / step).toBeLessThan(1.51)
      // What is rounded away has no mean: silence stays centred.
      expect(Math.abs(errors[0].reduce((sum, error) => sum + error, 0) / errors[0].length) / step).toBeLessThan(0.02)
    }
  })

  const gainOf = (plan: MixPlan, id: string) => plan.channels.find(channel => channel.id === id)!.gain

  test('a solo holds in the mix and among the voices; the beat alone is the beat whatever is soloed', async () => {
    const soloed = setLayerMix(sung, { layerId: lead, soloed: true })
    expect((await deliver(soloed, 'beat'))!.planes[0].subarray(0, 48_000)).toEqual((await deliver(sung, 'beat'))!.planes[0].subarray(0, 48_000))
    expect(gainOf(planPart(soloed, { kind: 'mix' }), 'beat')).toBe(0)
    expect(gainOf(planPart(setBeatMix(sung, { soloed: true }), { kind: 'vocals' }), lead)).toBeGreaterThan(0)
    expect(gainOf(planPart(setLayerMix(sung, { layerId: sung.layers[1].id, soloed: true }), { kind: 'vocals' }), lead)).toBe(0)
  })
})

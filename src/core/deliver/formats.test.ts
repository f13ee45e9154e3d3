/** What a delivery is written as, opened again by decoders that are not ours. */
import { describe, expect, test } from '@jest/globals'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeRandom } from '../audio/random'
import type { Planar } from '../audio/frames'
import { decibelsBetween } from '../audio/signals.test-kit'
import { decodedByFfmpeg, hasDecoders, measuredByFfmpeg, packetsByFfprobe, probedByFfmpeg } from '../files/other-decoders.test-kit'
import { integratedLufs } from '../loudness/loudness'
import { TruePeakMeter } from '../loudness/true-peak'
import { endingOf, makeEncoder, usualFormat, type DeliveryFormat, type DeliveryTags } from './encoders'
import { joinPlanes } from '../mix/render-offline'
import { aimAt, held } from './loudness-aim'

const folder = mkdtempSync(join(tmpdir(), 'formats-'))
/** A voice-like sound: a gliding tone with overtones, and breath. */
function sound(frames: number, seed = 1): Planar {
  const random = makeRandom(seed)
  let phase = 0
  const left = Float32Array.from({ length: frames }, (_, i) => {
    phase += (2 * Math.PI * (220 + 40 * Math.sin(i / 9_000))) / 48_000
    const swell = 0.6 + 0.4 * Math.sin(i / 20_000)
    return swell * (0.25 * Math.sin(phase) + 0.12 * Math.sin(2 * phase) + 0.06 * Math.sin(5 * phase)) + 0.01 * (2 * random() - 1)
  })
  return [left, left.map((x, i) => 0.7 * x + 0.02 * Math.sin(i / 7))]
}

async function written(format: DeliveryFormat, planes: Planar, tags: DeliveryTags = {}): Promise<string> {
  const encoder = await makeEncoder(format, tags)
  for (let at = 0; at < planes[0].length; at += 10_007) await encoder.push(planes.map(plane => plane.subarray(at, at + 10_007)))
  const path = join(folder, `${Math.floor(performance.now() * 1_000)}.${endingOf(format)}`)
  writeFileSync(path, Buffer.concat(await encoder.finish()))
  return path
}

const rms = (plane: Float32Array) => Math.sqrt(plane.reduce((sum, x) => sum + x * x, 0) / plane.length)

const TAGS = {
  title: 'Slow Ferry — ö',
  artist: 'The Quay',
  album: 'Lights',
  lyrics: 'Harbour radio\nhums in the rain',
  year: 2026,
  tempoBpm: 92.6,
  key: 'F minor',
}

const described = hasDecoders ? describe : describe.skip

described('FLAC', () => {
  test.each([44_100, 48_000] as const)('at %d Hz gives back every sample to 24 bits, in fewer bytes, with its tags', async sampleRateHz => {
    const planes = sound(123_457)
    const path = await written({ kind: 'flac', sampleRateHz }, planes, TAGS)
    const back = decodedByFfmpeg(path)
    expect(back[0]).toHaveLength(123_457)
    for (const side of [0, 1]) expect(decibelsBetween(back[side], planes[side])).toBeLessThan(20 * Math.log10(2 ** -23 * 1.01))
    expect(probedByFfmpeg(path).format.tags).toMatchObject({ TITLE: TAGS.title, ARTIST: TAGS.artist, ALBUM: TAGS.album })
    // The reference decoder finds nothing wrong with it.
    expect(() => execFileSync('flac', ['-t', '-s', path])).not.toThrow()
  })
})

described('MP3', () => {
  test.each([
    [128, {}, 44_100, 100_000],
    [192, {}, 48_000, 241_234],
    [320, {}, 44_100, 99_999],
    [320, {}, 48_000, 1_152 * 40 - 576],
    [128, { varies: true }, 48_000, 99_999],
    [192, { varies: true }, 44_100, 241_234],
    [256, { varies: true }, 48_000, 1_152 * 40],
  ] as const)('of %d kbps (%j) at %d Hz plays its %d frames in their place, no more and no fewer', async (kbps, more, sampleRateHz, frames) => {
    const planes = sound(frames)
    const path = await written({ kind: 'mp3', kbps, sampleRateHz, ...more }, planes, TAGS)
    const back = decodedByFfmpeg(path)
    expect(back[0]).toHaveLength(frames)
    // Alike in place: a shift by a single sample would leave more than this of a tone of 220 Hz with its overtones.
    const apart = back[0].map((x, i) => x - planes[0][i])
    expect(20 * Math.log10(rms(apart.subarray(2_000, -2_000)) / rms(planes[0]))).toBeLessThan(kbps === 128 ? -20 : -24)
    expect(Math.abs(20 * Math.log10(rms(back[0]) / rms(planes[0])))).toBeLessThan(0.1)
    expect(probedByFfmpeg(path).format.tags).toMatchObject({ title: TAGS.title, artist: TAGS.artist, album: TAGS.album })
  })
})

described('MP3 whose rate varies', () => {
  test('takes fewer bytes where there is less to hear, and tells players where in it a time lies', async () => {
    const [loud] = sound(20 * 48_000)
    const thin = loud.map((x, i) => (i < loud.length / 2 ? x : 0.001 * Math.sin(i / 40)))
    const path = await written({ kind: 'mp3', kbps: 192, varies: true, sampleRateHz: 48_000 }, [thin, thin.map(x => -x)])
    const bytes = readFileSync(path)
    const at = bytes.indexOf('Xing')
    const table = bytes.subarray(at + 16, at + 116)
    expect(table[50] / 256).toBeGreaterThan(0.6)
    // By the packets themselves, as ffmpeg finds them.
    const packets = packetsByFfprobe(path)
    const half = packets.find(({ seconds }) => seconds >= 10)!
    expect(Math.abs(table[50] / 256 - half.at / bytes.length)).toBeLessThan(0.01)
    expect(decodedByFfmpeg(path)[0]).toHaveLength(20 * 48_000)
  })
})

described('AAC', () => {
  test.each([
    [128, 44_100, 100_000],
    [256, 48_000, 241_234],
  ] as const)('of %d kbps at %d Hz lies in its place, and its container tells its %d frames', async (kbps, sampleRateHz, frames) => {
    const planes = sound(frames)
    const path = await written({ kind: 'aac', kbps, sampleRateHz }, planes, TAGS)
    const back = decodedByFfmpeg(path)
    // What comes after the last frame is up to the player; ffmpeg plays the packet to its end.
    expect(back[0].length - frames).toBeGreaterThanOrEqual(0)
    expect(back[0].length - frames).toBeLessThan(1_024)
    // The container counts in its own fine steps.
    expect(Math.abs(probedByFfmpeg(path).streams[0].duration_ts! - frames)).toBeLessThanOrEqual(1)
    const apart = planes[0].map((x, i) => x - back[0][i])
    expect(20 * Math.log10(rms(apart.subarray(2_000, -2_000)) / rms(planes[0]))).toBeLessThan(-20)
    expect(Math.abs(20 * Math.log10(rms(back[0]) / rms(planes[0])))).toBeLessThan(0.1)
    expect(probedByFfmpeg(path).format.tags).toMatchObject({ title: TAGS.title, artist: TAGS.artist, album: TAGS.album, comment: '93 bpm, F minor' })
  })
})

described('WAV', () => {
  test.each([44_100, 88_200, 96_000] as const)('at %d Hz says what it is, with the samples untouched by it', async sampleRateHz => {
    const planes = sound(33_333)
    const path = await written({ kind: 'wav', bits: 24, sampleRateHz }, planes, TAGS)
    const back = decodedByFfmpeg(path)
    expect(back[0]).toHaveLength(33_333)
    expect(decibelsBetween(back[1], planes[1])).toBeLessThan(-120)
    const probed = probedByFfmpeg(path)
    expect(probed.streams[0].sample_rate).toBe(String(sampleRateHz))
    expect(probed.format.tags).toMatchObject({ title: TAGS.title, artist: TAGS.artist, album: TAGS.album, date: '2026', comment: '93 bpm, F minor' })
  })
})

described('tempo, key and cover', () => {
  const png = Buffer.from('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==', 'base64')
  const cover = { data: new Uint8Array(png), mediaType: 'image/png' as const }
  test.each(['mp3', 'flac', 'aac'] as const)('stand where %s has them', async kind => {
    const path = await written(usualFormat(kind), sound(50_000), { ...TAGS, cover })
    const { format, streams } = probedByFfmpeg(path)
    expect(streams.map(({ codec_name }) => codec_name)).toContain('png')
    if (kind === 'mp3') expect(format.tags).toMatchObject({ TBPM: '93', TKEY: 'Fm' })
    if (kind === 'flac') expect(format.tags).toMatchObject({ BPM: '93', INITIALKEY: 'F minor' })
  })
})

described('a loudness that is aimed at', () => {
  const loudest = (pieces: readonly Planar[]) => {
    const meters = [new TruePeakMeter(), new TruePeakMeter()]
    for (const planes of pieces) planes.forEach((plane, side) => meters[side].push(plane))
    return 20 * Math.log10(Math.max(...meters.map(({ peak }) => peak)))
  }
  test.each([-23, -14, -9])('of %d LUFS is reached within a tenth, under its true peak, as long as before', async lufs => {
    const planes = sound(6 * 48_000)
    const pieces = [0, 1, 2].map(i => planes.map(plane => plane.subarray(i * 96_000, (i + 1) * 96_000)))
    const aim = { lufs, truePeakDbtp: -1 }
    const aimed = aimAt(pieces, aim)!
    const out = [...held(pieces, { ...aimed, ...aim })]
    const joined = [0, 1].map(side => joinPlanes(out)[side])
    expect(joined[0]).toHaveLength(6 * 48_000)
    expect(integratedLufs(joined)).toBeCloseTo(lufs, 1)
    expect(aimed.lufs).toBeCloseTo(integratedLufs(joined), 2)
    expect(loudest(out)).toBeLessThan(-1 + 0.1)
    if (lufs <= -23) expect(aimed.heldDecibels).toBe(0)
    const { lufs: told, truePeakDbtp } = measuredByFfmpeg(await written({ kind: 'wav', bits: 32, sampleRateHz: 48_000 }, joined))
    expect(Math.abs(told - lufs)).toBeLessThanOrEqual(0.1)
    expect(truePeakDbtp).toBeLessThanOrEqual(-0.8)
  })

  test('silence has none', () => {
    expect(aimAt([[new Float32Array(48_000), new Float32Array(48_000)]], { lufs: -14, truePeakDbtp: -1 })).toBeNull()
  })
})

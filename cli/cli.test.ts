import { expect, test } from '@jest/globals'
import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { encodeSamples, encodeWavHeader, readWavHeader } from '../src/core/files/wav'
import { AssetReader } from '../src/core/files/asset'
import { writeSongFile } from '../src/core/files/song-file'
import type { Mono } from '../src/core/audio/frames'
import { cutIntoChunks } from '../src/core/mix/chunk-window'
import { makeSong } from '../src/core/song/make-song'
import type { AssetId, SongId } from '../src/core/song/schema'
import { makeId } from '../src/core/song/song.test-kit'
import { decodedByFfmpeg, hasDecoders } from '../src/core/files/other-decoders.test-kit'
import { trackPitch } from '../src/core/voice/pitch'
import { buzz } from '../src/core/voice/voice.test-kit'

const folder = mkdtempSync(join(tmpdir(), 'plush-cli-'))
const plush = (...words: string[]) => spawnSync(process.execPath, ['scripts/plush.mjs', ...words], { encoding: 'utf8' })

test('a file that cannot be read has an error beside the others’ facts', () => {
  const good = join(folder, 'hum.wav')
  const bad = join(folder, 'letter.mp3')
  const plane = Float32Array.from({ length: 22_050 * 3 }, (_, i) => 0.3 * Math.sin(i / 20))
  writeFileSync(
    good,
    Buffer.concat([encodeWavHeader({ frames: plane.length, channels: 1, sampleRateHz: 22_050, encoding: 'pcm16' }), encodeSamples([plane], 'pcm16')]),
  )
  writeFileSync(bad, 'words '.repeat(1_000))
  const { status, stdout } = plush('analyse', good, bad)
  const [first, second] = JSON.parse(stdout) as Record<string, unknown>[]
  expect(status).toBe(0)
  expect(first).toMatchObject({ file: good, seconds: 3, tempo: null, beats: [], loudness: { truePeakDbtp: expect.any(Number) } })
  expect(second).toEqual({ file: bad, error: 'not a sound file that can be read' })
  expect(plush('analyse', bad).status).toBe(1)
})

test('a file that a decoder never ends or breaks on has an error of its own, and the others their facts', () => {
  const good = join(folder, 'hum.wav')
  // A WebM header that promises a cluster without end, and noise behind an AAC header.
  const endless = join(folder, 'endless.webm')
  writeFileSync(
    endless,
    Buffer.concat([
      Buffer.from('1a45dfa3934286810142f7810142f2810442f381084282847765626d', 'hex'),
      Buffer.from('18538067ffffffffffffffff', 'hex'),
      Buffer.alloc(40_000, 0xec),
    ]),
  )
  const broken = join(folder, 'broken.aac')
  writeFileSync(
    broken,
    Buffer.concat(Array.from({ length: 60 }, (_, i) => Buffer.concat([Buffer.from('fff14c8013fffc', 'hex'), Buffer.alloc(140, (i * 37) % 256)]))),
  )
  const { status, stdout } = plush('analyse', endless, good, broken, good)
  const results = JSON.parse(stdout) as Record<string, unknown>[]
  expect(status).toBe(0)
  expect(results.map(result => 'error' in result)).toEqual([true, false, true, false])
  for (const { error } of [results[0], results[2]]) expect(error).toMatch(/[a-z]{4}/)
}, 60_000)

test('decode writes what the importer makes: 48 kHz float', () => {
  const out = join(folder, 'decoded.wav')
  expect(plush('decode', join(folder, 'hum.wav'), '--out', out).status).toBe(0)
  expect(readWavHeader(readFileSync(out))).toMatchObject({
    ok: true,
    header: { sampleRateHz: 48_000, encoding: 'float32', channels: 1, dataBytes: 3 * 48_000 * 4 },
  })
})

test('what is wrong is said in one line on standard error, with exit code 1', () => {
  const missing = plush('render', join(folder, 'none.zip'), '--out', join(folder, 'x.wav'))
  expect([missing.status, missing.stdout]).toEqual([1, ''])
  expect(missing.stderr).toMatch(/^plush: .*none\.zip cannot be read/)
  expect(plush('render', 'a.zip').stderr).toBe('plush: either --out or --stems is needed\n')
  expect(plush('render', 'a.zip', '--stems', folder, '--only', 'lead').stderr).toBe('plush: --only goes with --out; --stems are all layers\n')
})

test('effects are listed with units and ranges, and a sound put through one lies where it lay', () => {
  const list = JSON.parse(plush('effect', '--list').stdout) as {
    kind: string
    settings: { name: string; unit: string; min: number; max: number; usual: number; multipleOf: number | null }[]
  }[]
  expect(list.find(({ kind }) => kind === 'compressor')!.settings).toContainEqual({
    name: 'ratio',
    unit: 'factor',
    min: 1,
    max: 20,
    usual: 3,
    multipleOf: null,
  })
  const out = join(folder, 'bent.wav')
  const settings = JSON.stringify({ driveDecibels: 0, amountFraction: 1 })
  const soft = join(folder, 'soft.wav')
  const plane = Float32Array.from({ length: 9_600 }, (_, i) => 0.001 * Math.sin(i / 20))
  writeFileSync(
    soft,
    Buffer.concat([encodeWavHeader({ frames: plane.length, channels: 1, sampleRateHz: 48_000, encoding: 'float32' }), encodeSamples([plane], 'float32')]),
  )
  expect(plush('effect', 'saturation', soft, '--settings', settings, '--out', out, '--tail', '0.1').status).toBe(0)
  const read = readWavHeader(readFileSync(out))
  expect(read).toMatchObject({ ok: true, header: { channels: 2, dataBytes: (9_600 + 4_800) * 8 } })
  const data = readFileSync(out)
  const samples = new Float32Array(data.buffer.slice(data.byteOffset + data.length - (9_600 + 4_800) * 8, data.byteOffset + data.length))
  for (let i = 1_000; i < 8_000; i += 77) expect(Math.abs(samples[2 * i] - plane[i])).toBeLessThan(2e-6)
  expect(plush('effect', 'gate', soft, '--settings', '{"rangeDecibels":99}', '--out', out).stderr).toMatch(/^plush: rangeDecibels: /)
})

test('a part is written from a lead, a made voice sings it, and a voice is brought to the lead', () => {
  const write = (name: string, plane: Float32Array<ArrayBuffer>) => {
    const path = join(folder, name)
    const header = encodeWavHeader({ frames: plane.length, channels: 1, sampleRateHz: 48_000, encoding: 'float32' })
    writeFileSync(path, Buffer.concat([header, encodeSamples([plane], 'float32')]))
    return path
  }
  const read = (path: string, frames: number) => {
    const bytes = readFileSync(path)
    const body = bytes.subarray(bytes.length - 4 * frames)
    return Float32Array.from({ length: frames }, (_, i) => body.readFloatLE(4 * i))
  }
  // C4, then D4.
  const plane = buzz(t => (t < 2 ? 261.63 : 293.66)).sound.map(sample => 0.08 * sample)
  const [lead, mid, out] = [write('lead.wav', plane), join(folder, 'part.mid'), join(folder, 'out.wav')]
  const part = plush('part', lead, '--key', 'C major', '--part', 'third-above', '--out', mid, '--json')
  expect((JSON.parse(part.stdout) as { midi: number }[]).map(({ midi }) => midi)).toEqual([64, 65])
  expect(plush('made', lead, '--notes', mid, '--out', out).status).toBe(0)
  const { f0Hz } = trackPitch(read(out, plane.length))
  expect(1_200 * Math.abs(Math.log2(f0Hz[250] / 329.63))).toBeLessThan(8)
  expect(1_200 * Math.abs(Math.log2(f0Hz[550] / 349.23))).toBeLessThan(8)
  // Itself is where it is; 60 ms late it is 60 ms off, and comes to where the lead is.
  expect(plush('align', lead, lead, '--out', out).status).toBe(0)
  expect(read(out, plane.length)).toEqual(plane)
  const late = write(
    'late.wav',
    plane.map((_, i) => plane[i - 2_880] ?? 0),
  )
  const offs = JSON.parse(plush('align', lead, late, '--out', out).stdout) as { before: { medianMs: number }; after: { medianMs: number } }
  expect(Math.abs(offs.before.medianMs - 60)).toBeLessThan(2)
  expect(offs.after.medianMs).toBeLessThan(2)
  expect(plush('part', lead, '--key', 'C major', '--part', 'fourth', '--json').stderr).toMatch(/there is no part "fourth"/)
  expect(plush('made', lead, '--notes', lead, '--out', out).stderr).toMatch(/no Standard MIDI File/)
  expect(plush('align', lead, late, '--out', out, '--tightness', '2').status).toBe(1)
}, 120_000)

test('a take is tuned to a key or to written notes, and says what was moved; tidied, it says what was mended', () => {
  const take = join(folder, 'take.wav')
  const plane = buzz(() => 268).sound.map(sample => 0.08 * sample)
  plane[30_000] += 0.5
  plane[180_000] += 0.5
  writeFileSync(
    take,
    Buffer.concat([encodeWavHeader({ frames: plane.length, channels: 1, sampleRateHz: 48_000, encoding: 'float32' }), encodeSamples([plane], 'float32')]),
  )
  const out = join(folder, 'out.wav')
  const read = () => {
    const bytes = readFileSync(out)
    const body = bytes.subarray(bytes.length - 4 * plane.length)
    return Float32Array.from({ length: plane.length }, (_, i) => body.readFloatLE(4 * i))
  }
  const hzIn = (sound: Float32Array<ArrayBuffer>) => trackPitch(sound).f0Hz[400]
  // 268 Hz lies 42 cents above C4, whose rung in C major it goes to; D4 is written.
  const toKey = plush('tune', take, '--out', out, '--key', 'C major', '--speed', '0')
  expect(toKey.status).toBe(0)
  const notes = (JSON.parse(toKey.stdout) as { notes: { target: number; before: number; after: number }[] }).notes
  expect(notes.some(({ target, before, after }) => target === 6_000 && Math.abs(before - 6_042) < 4 && Math.abs(after - 6_000) < 4)).toBe(true)
  expect(Math.abs(hzIn(read()) - 261.63)).toBeLessThan(0.6)
  writeFileSync(join(folder, 'notes.json'), JSON.stringify([{ start: 0.5, end: 3.5, midi: 62 }]))
  expect(plush('tune', take, '--out', out, '--notes', join(folder, 'notes.json'), '--speed', '0').status).toBe(0)
  expect(Math.abs(hzIn(read()) - 293.66)).toBeLessThan(0.7)
  for (const wrong of [[], ['--key', 'H minor'], ['--key', 'C', '--notes', 'x'], ['--key', 'C', '--amount', '7'], ['--notes', join(folder, 'hum.wav')]])
    expect(plush('tune', take, '--out', out, ...wrong).status).toBe(1)

  const tidied = plush('tidy', take, '--role', 'lead', '--out', out)
  const { mends } = JSON.parse(tidied.stdout) as { mends: { kind: string; start: number }[] }
  expect(mends.filter(({ kind }) => kind === 'click').map(({ start }) => Math.round(1_000 * start))).toEqual([625, 3_750])
  expect(Math.abs(read()[180_000])).toBeLessThan(1e-3)
  expect(plush('tidy', take, '--role', 'choir', '--list').status).toBe(1)
}, 120_000)

const tested = hasDecoders ? test : test.skip
tested(
  'a song is rendered as what its file is called: FLAC and MP3 play as many frames as the WAV',
  async () => {
    const song = join(folder, 'song.zip')
    writeFileSync(song, await songFileOf(buzz(() => 196).sound))
    const frames = ['wav', 'flac', 'mp3'].map(ending => {
      const path = join(folder, `mix.${ending}`)
      const told = plush('render', song, '--out', path, '--rate', '44100')
      expect(told.stderr).toBe('')
      return decodedByFfmpeg(path)[0].length
    })
    // It hums until 3.5 s; a mix ends where it has died away.
    expect(frames[0]).toBeGreaterThan(3.5 * 44_100)
    expect(frames[0]).toBeLessThan(4 * 44_100)
    expect(frames).toEqual([frames[0], frames[0], frames[0]])
  },
  120_000,
)

/** Of a song that is its beat alone. */
async function songFileOf(beat: Mono): Promise<Uint8Array> {
  const id = 'beat' as AssetId
  const song = makeSong({ songId: 'song' as SongId, title: 'Hum', assetId: id, fileName: 'hum.wav', frames: beat.length, makeId })
  const reader = await AssetReader.create(1)
  const chunks = [...cutIntoChunks([beat])]
  for (const chunk of chunks) reader.push(chunk)
  const pieces: Uint8Array[] = []
  await writeSongFile({ song, assets: [{ id, facts: reader.finish() }], chunksOf: () => chunks, emit: bytes => void pieces.push(bytes.slice()) })
  return Buffer.concat(pieces)
}

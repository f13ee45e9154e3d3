import { describe, expect, test } from '@jest/globals'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { strToU8, zipSync } from 'fflate'
import { makeRandom } from '../audio/random'
import { decibelsBetween, sine } from '../audio/signals.test-kit'
import type { Planar } from '../audio/frames'
import { cutIntoChunks } from '../mix/chunk-window'
import { joinPlanes } from '../mix/render-offline'
import { parseKey } from './tags'
import type { AssetId } from '../song/schema'
import { smallSong, withTakes } from '../song/song.test-kit'
import { AssetReader } from './asset'
import { bytesOf } from './byte-source'
import { openSound } from './decode'
import { importSound, StuckError } from './import-sound'
import { formatLyrics, parseLyrics } from '../song/lyrics'
import { hasDecoders } from './other-decoders.test-kit'
import { deliveryFileName, nameByPattern, safeName, titleFromFileName, uniqueFileName } from './names'
import { packFlac } from './pack-flac'
import { DamagedSoundError, readSongFile, writeSongFile } from './song-file'
import type { OpenSoundResult } from './sound-stream'
import { decodeSamples, encodeSamples, encodeWavHeader, exactEncoding, readWavHeader, type WrittenEncoding } from './wav'

const wav = (planes: Planar, sampleRateHz: number, encoding: WrittenEncoding) =>
  Buffer.concat([encodeWavHeader({ frames: planes[0].length, channels: planes.length, sampleRateHz, encoding }), encodeSamples(planes, encoding)])
async function load(bytes: Uint8Array, acceptCutShort = false) {
  const pieces: Planar[] = []
  const result = await importSound(await openSound(bytesOf(bytes)), planes => void pieces.push(planes), { acceptCutShort })
  return { result, planes: pieces.length > 0 ? joinPlanes(pieces) : [] }
}

describe('WAV', () => {
  test.each(['pcm16', 'pcm24', 'float32'] as const)('%s comes back as it went, to half a step', encoding => {
    const plane = sine({ hz: 441, frames: 5_000, amplitude: 0.9 })
    const bytes = wav([plane, plane], 48_000, encoding)
    const parsed = readWavHeader(bytes)
    expect(parsed).toMatchObject({ ok: true, header: { channels: 2, sampleRateHz: 48_000, encoding } })
    const [left] = decodeSamples(bytes.subarray(44), encoding, 2)
    expect(decibelsBetween(left, plane)).toBeLessThan(encoding === 'pcm16' ? -96 : encoding === 'pcm24' ? -144 : -200)
  })
  test('the smallest exact format is found', () => {
    expect(exactEncoding([Float32Array.of(0, 0.5, -1)])).toBe('pcm16')
    expect(exactEncoding([Float32Array.of(1 / 8_388_608)])).toBe('pcm24')
    expect(exactEncoding([Float32Array.of(0.1)])).toBe('float32')
    expect(exactEncoding([Float32Array.of(1)])).toBe('float32')
  })
})

describe('importing', () => {
  const plane = sine({ hz: 440, frames: 44_100, sampleRateHz: 44_100, amplitude: 0.5 })

  test('a 44.1 kHz file becomes 48 kHz, in chunks, as long as it was', async () => {
    const { result, planes } = await load(wav([plane], 44_100, 'pcm24'))
    expect(result).toMatchObject({ kind: 'imported', sound: { frames: 48_000, channels: 1, sampleRateHz: 44_100 } })
    expect(decibelsBetween(planes[0].subarray(2_000, 46_000), sine({ hz: 440, frames: 48_000, amplitude: 0.5 }).subarray(2_000, 46_000))).toBeLessThan(-90)
  })
  test('a cut file is refused with what is there, and taken if one says so', async () => {
    const cut = wav([plane], 44_100, 'pcm16').subarray(0, 44 + 44_100)
    expect((await load(cut)).result).toMatchObject({ kind: 'refused', reason: 'cut-short', foundSeconds: 0.5, promisedSeconds: 1 })
    expect((await load(cut, true)).result).toMatchObject({ kind: 'imported', sound: { frames: 24_000 } })
  })
  test.each([
    ['nothing', new Uint8Array(0), 'empty'],
    ['a header without samples', wav([new Float32Array(0)], 44_100, 'pcm16'), 'empty'],
    ['text', strToU8('These are words, not sound. '.repeat(400)), 'not-sound'],
    [
      'random bytes',
      (() => {
        const random = makeRandom(3)
        return Uint8Array.from({ length: 60_000 }, () => random() * 256)
      })(),
      'not-sound',
    ],
    ['an MP4 file that holds no sound', strToU8('\0\0\0 ftypM4A '.padEnd(2_000, 'x')), 'empty'],
  ])('%s is refused', async (_, bytes, reason) => {
    expect((await load(bytes)).result).toMatchObject({ kind: 'refused', reason })
  })
  test('more than 20 minutes are refused before they are read', async () => {
    const header = encodeWavHeader({ frames: 21 * 60 * 8_000, channels: 1, sampleRateHz: 8_000, encoding: 'pcm16' })
    expect((await load(Buffer.concat([header, new Uint8Array(8_000)]))).result).toMatchObject({ kind: 'refused', reason: 'too-long' })
  })

  test('values that are no numbers, or beyond any level, are silence, and counted', async () => {
    const odd = Float32Array.from(plane)
    for (const [i, value] of [Number.NaN, Infinity, -Infinity, 1e30, -5_000].entries()) odd[1_000 * (i + 1)] = value
    const { result, planes } = await load(wav([odd], 48_000, 'float32'))
    expect(result).toMatchObject({ kind: 'imported', sound: { silencedSamples: 5 } })
    expect(planes[0].every(sample => Math.abs(sample) <= 1)).toBe(true)
    expect([1_000, 2_000, 3_000, 4_000, 5_000].map(at => planes[0][at])).toEqual([0, 0, 0, 0, 0])
    expect((await load(wav([plane], 48_000, 'float32'))).result).toMatchObject({ sound: { silencedSamples: 0 } })
  })
  test('what the sink throws is told as what it is; a decoder that gives up, or is stuck, is told apart', async () => {
    const opened = await openSound(bytesOf(wav([plane], 44_100, 'pcm16')))
    const full = Object.assign(new Error('no room'), { name: 'QuotaExceededError' })
    await expect(importSound(opened, () => Promise.reject(full))).rejects.toBe(full)
    await expect(
      importSound(opened, () => {
        throw new TypeError('our own')
      }),
    ).rejects.toThrow('our own')
    const breaking = (error: Error): OpenSoundResult => ({
      ok: true,
      sound: {
        format: 'mp3',
        sampleRateHz: 48_000,
        channels: 1,
        promisedFrames: null,
        async *chunks() {
          yield { planes: [new Float32Array(100)], fraction: 0.1 }
          throw error
        },
      },
    })
    expect(await importSound(breaking(new RangeError('memory access out of bounds')), () => {})).toMatchObject({ kind: 'refused', reason: 'not-sound' })
    await expect(importSound(breaking(new StuckError()), () => {})).rejects.toThrow(StuckError)
  })

  const encoders: [string, string[]][] = [
    ['mp3', ['-c:a', 'libmp3lame', '-b:a', '192k']],
    ['flac', []],
    ['ogg', ['-c:a', 'libvorbis', '-q:a', '6']],
  ]
  ;(hasDecoders ? test.each(encoders) : test.skip.each(encoders))('%s comes out in time with ffmpeg’s decode, click for click', async (ending, options) => {
    const folder = mkdtempSync(join(tmpdir(), 'plush-'))
    const clicks = new Float32Array(3 * 44_100)
    for (const at of [10_000, 54_321, 100_000]) clicks[at] = 0.9
    const [source, coded, decoded] = ['in.wav', `out.${ending}`, 'ff.wav'].map(name => join(folder, name))
    execFileSync('ffmpeg', ['-v', 'error', '-f', 's16le', '-ar', '44100', '-ac', '1', '-i', '-', source], { input: encodeSamples([clicks], 'pcm16') })
    execFileSync('ffmpeg', ['-v', 'error', '-i', source, ...options, coded])
    execFileSync('ffmpeg', ['-v', 'error', '-i', coded, '-f', 'f32le', '-c:a', 'pcm_f32le', '-ac', '1', '-ar', '44100', decoded])
    const reference = await load(wav(decodeSamples(readFileSync(decoded), 'float32', 1), 44_100, 'float32'))
    const ours = await load(readFileSync(coded))
    expect(Math.abs(ours.planes[0].length - reference.planes[0].length)).toBeLessThan(60)
    for (const at of [10_000, 54_321, 100_000]) {
      const near = Math.round((at * 48_000) / 44_100)
      const peakAt = (signal: Float32Array) =>
        [...signal.subarray(near - 2_000, near + 2_000)].reduce((best, sample, i, all) => (Math.abs(sample) > Math.abs(all[best]) ? i : best), 0)
      expect(Math.abs(peakAt(ours.planes[0]) - peakAt(reference.planes[0]))).toBeLessThanOrEqual(1)
    }
  })
})

/** A take of each sound. */
function sungWith(...assetIds: string[]) {
  const song = withTakes(smallSong(), 'Lead', assetIds.length)
  return { ...song, takes: song.takes.map((take, i) => ({ ...take, assetId: assetIds[i] as AssetId })) }
}

describe('the song file', () => {
  const song = {
    ...sungWith('sung', 'fine', 'real'),
    beat: { ...smallSong().beat, frames: 30_000, sourceFrames: 30_000, pieces: [{ startFrame: 0, sourceFrame: 0, frames: 30_000, muted: false }] },
  }
  const sounds = new Map<string, Planar>([
    ['beat', [sine({ hz: 100, frames: 30_000, amplitude: 0.3 }), sine({ hz: 200, frames: 30_000 })]],
    ['sung', [Float32Array.from({ length: 13_000 }, (_, i) => ((i * 7) % 1_000) / 32_768)]],
    // To both ends of 24 bits, and what no whole number is.
    ['fine', [Float32Array.from({ length: 40_000 }, (_, i) => (((i * 7_919) % 16_777_216) - 8_388_608) / 8_388_608)]],
    ['real', [sine({ hz: 300, frames: 12_000, amplitude: 0.3 })]],
  ])

  async function write(): Promise<Uint8Array> {
    const pieces: Uint8Array[] = []
    const assets = []
    for (const [id, planes] of sounds) {
      const reader = await AssetReader.create(planes.length)
      for (const chunk of cutIntoChunks(planes)) reader.push(chunk)
      assets.push({ id: id as AssetId, facts: reader.finish() })
    }
    await writeSongFile({ song, assets, chunksOf: id => cutIntoChunks(sounds.get(id)!), emit: bytes => void pieces.push(bytes) })
    return Buffer.concat(pieces)
  }

  test('gives the same song and the same samples back, and equal songs are equal files', async () => {
    const bytes = await write()
    const read = await readSongFile(bytesOf(bytes))
    if (read.kind !== 'read') throw new Error(read.reason)
    expect(read.song).toEqual(song)
    for (const asset of read.assets) {
      const chunks: Planar[] = []
      for await (const chunk of read.chunksOf(asset)) chunks.push(chunk)
      const planes = joinPlanes(chunks)
      expect(planes.map((plane, c) => decibelsBetween(plane, sounds.get(asset.id)![c]))).toEqual(planes.map(() => -Infinity))
    }
    expect(Buffer.compare(await write(), bytes)).toBe(0)
    // Whole numbers are packed, and other decoders read them; what is none stays as it is.
    expect(read.assets.map(({ file }) => file)).toEqual(['sounds/beat.wav', 'sounds/sung.flac', 'sounds/fine.flac', 'sounds/real.wav'])
    expect(bytes.length).toBeLessThan(wavBytes())
  })

  const wavBytes = () => [...sounds.values()].reduce((sum, planes) => sum + planes.length * planes[0].length * 3, 0) + 30_000 * 2

  test.each([1, 17, 4_097, 12_289, 50_001])('packs a sound of %d frames, silent, steady or lively, and gives back every one of them', async frames => {
    for (const at of [() => 0, () => 0.25, (i: number) => ((i * 7) % 1_000) / 32_768, (i: number) => (i < 3_000 ? ((i * 13) % 500) / 8_388_608 : 0)]) {
      const plane = Float32Array.from({ length: frames }, (_, i) => at(i))
      const opened = await openSound(bytesOf(await packFlac(cutIntoChunks([plane, plane]))))
      if (!opened.ok) throw new Error(opened.reason)
      const pieces: Planar[] = []
      for await (const { planes } of opened.sound.chunks()) pieces.push(planes.map(piece => piece.slice()))
      const [left, right] = joinPlanes(pieces)
      expect([left.length, decibelsBetween(left, plane), decibelsBetween(right, plane)]).toEqual([frames, -Infinity, -Infinity])
    }
  })

  test('of the release before, with plain sounds alone, is read as before', async () => {
    const plain = new Map([...sounds].filter(([id]) => id === 'beat' || id === 'real'))
    const pieces: Uint8Array[] = []
    const assets = []
    for (const [id, planes] of plain) {
      const reader = await AssetReader.create(planes.length)
      for (const chunk of cutIntoChunks(planes)) reader.push(chunk)
      assets.push({ id: id as AssetId, facts: reader.finish() })
    }
    const old = { ...song, takes: song.takes.filter(take => take.assetId === 'real') }
    await writeSongFile({ song: old, assets, chunksOf: id => cutIntoChunks(plain.get(id)!), emit: bytes => void pieces.push(bytes) })
    const whole = Buffer.concat(pieces)
    expect(whole.includes('"formatVersion": 1')).toBe(true)
    expect((await readSongFile(bytesOf(whole))).kind).toBe('read')
  })

  const envelope = (changes: object = {}) => strToU8(JSON.stringify({ format: 'plush-layer-song', formatVersion: 1, song, assets: [], ...changes }))
  test.each<[string, () => Promise<Uint8Array> | Uint8Array, string]>([
    ['cut in the middle', async () => (await write()).subarray(0, 20_000), 'not-zip'],
    ['text', () => strToU8('PK but no zip'), 'not-zip'],
    ['a path out of its folder', () => zipSync({ 'song.json': envelope(), '../../etc/evil.wav': new Uint8Array(4) }), 'unsafe-name'],
    ['an absolute path', () => zipSync({ 'song.json': envelope(), '/sounds/a.wav': new Uint8Array(4) }), 'unsafe-name'],
    ['no document', () => zipSync({ 'sounds/a.wav': new Uint8Array(4) }), 'no-document'],
    ['another program’s JSON', () => zipSync({ 'song.json': strToU8('{"tracks":[]}') }), 'not-a-song'],
    ['wrong types', () => zipSync({ 'song.json': envelope({ song: { ...song, layers: 'none' } }) }), 'damaged-document'],
    ['a later format', () => zipSync({ 'song.json': envelope({ formatVersion: 9 }) }), 'newer'],
    ['sounds left out', () => zipSync({ 'song.json': envelope() }), 'missing-sound'],
    ['a declared size far beyond the file', async () => declareSize(await write(), 0xf0000000), 'too-large'],
    [
      'a sound of another length than promised',
      () =>
        zipSync({
          'song.json': envelope({ assets: [{ id: 'beat', file: 'sounds/beat.wav', frames: 30_000, channels: 2, contentHash: '0'.repeat(16) }] }),
          'sounds/beat.wav': new Uint8Array(50),
        }),
      'damaged-sound',
    ],
  ])('%s is refused with its reason', async (_, make, reason) => {
    expect(await readSongFile(bytesOf(await make()))).toMatchObject({ kind: 'refused', reason })
  })
})

test('a song file damaged anywhere is read, or refused with a reason, or says which sound is damaged', async () => {
  const steps = (plane: Float32Array) => plane.map(x => Math.round(x * 32_768) / 32_768)
  const planes = { beat: [sine({ hz: 100, frames: 9_000 })], sung: [steps(sine({ hz: 200, frames: 5_000, amplitude: 0.1 }))] }
  const song = {
    ...withTakes(smallSong(), 'Lead', 1, { assetId: 'sung' as AssetId }),
    beat: { ...smallSong().beat, frames: 9_000, sourceFrames: 9_000, pieces: [{ startFrame: 0, sourceFrame: 0, frames: 9_000, muted: false }] },
  }
  const assets = await Promise.all(
    Object.entries(planes).map(async ([id, sound]) => {
      const reader = await AssetReader.create(1)
      reader.push(sound)
      return { id: id as AssetId, facts: reader.finish() }
    }),
  )
  const pieces: Uint8Array[] = []
  await writeSongFile({ song, assets, chunksOf: id => [planes[id as keyof typeof planes]], emit: bytes => void pieces.push(bytes.slice()) })
  const whole = Buffer.concat(pieces)
  const random = makeRandom(7)
  const at = (length: number) => Math.floor(random() * length)
  const outcomes = new Map<string, number>()
  for (let round = 0; round < 250; round++) {
    let bytes = Uint8Array.from(whole)
    const kind = round % 4
    if (kind === 0) for (let i = 0; i <= at(6); i++) bytes[at(bytes.length)] ^= 1 << at(8)
    else if (kind === 1) bytes = bytes.slice(0, at(bytes.length))
    else if (kind === 2) bytes.fill([0, 255][at(2)], at(bytes.length), at(bytes.length) + at(4_000))
    else bytes = Uint8Array.from([...bytes.subarray(0, at(bytes.length)), ...bytes.subarray(at(bytes.length))])
    const read = await readSongFile(bytesOf(bytes))
    let outcome: string = read.kind
    try {
      if (read.kind === 'read')
        for (const asset of read.assets)
          for await (const chunk of read.chunksOf(asset)) for (const plane of chunk) expect(plane.every(Number.isFinite)).toBe(true)
    } catch (error) {
      expect(error).toBeInstanceOf(DamagedSoundError)
      outcome = 'damaged sound'
    }
    outcomes.set(outcome, (outcomes.get(outcome) ?? 0) + 1)
  }
  expect([...outcomes.keys()].sort()).toEqual(['damaged sound', 'read', 'refused'])
}, 60_000)

/** Overwrites the unpacked size that the zip's last directory entry declares. */
function declareSize(bytes: Uint8Array, size: number): Uint8Array {
  const forged = bytes.slice()
  const view = new DataView(forged.buffer)
  for (let at = forged.length - 46; at >= 0; at--) {
    if (view.getUint32(at, true) !== 0x02014b50) continue
    view.setUint32(at + 24, size, true)
    break
  }
  return forged
}

describe('words and names', () => {
  test('blank lines and headings begin sections; a heading can say its bar', () => {
    expect(parseLyrics('[Hook 1 | bar 17 | 8 bars]\n one \ntwo\n\nthree\r\nfour')).toEqual([
      { name: 'Hook 1', lines: ['one', 'two'], bar: 17, bars: 8 },
      { name: 'Verse 1', lines: ['three', 'four'], bar: null, bars: null },
    ])
    expect(parseLyrics(' \n\n')).toEqual([])
    expect(formatLyrics(smallSong().sections)).toBe('[Verse]\none\ntwo\nthree\nfour\n\n[Hook]\nfive\nsix')
  })
  test('by a pattern a name holds what is asked for and always the part; what is empty leaves nothing behind; nothing a file system refuses gets in', () => {
    const pieces = { title: 'Slow Ferry', artist: '', part: 'vocals dry', tempo: '92.6 bpm', key: 'F minor', date: '2026-11-30', version: 'v2' }
    const named = (pattern: string, more: Partial<typeof pieces> = {}) => nameByPattern(pattern, { ...pieces, ...more }, 'mp3')
    expect(named('{title} - {part}')).toBe('Slow Ferry - vocals dry.mp3')
    expect(named('{artist} - {title} ({part}, {tempo})')).toBe('Slow Ferry (vocals dry, 92.6 bpm).mp3')
    expect(named('{artist}_{title}_{key}_{part}', { artist: 'The Quay' })).toBe('The Quay_Slow Ferry_F minor_vocals dry.mp3')
    expect(named('Homework 3')).toBe('Homework 3 - vocals dry.mp3')
    expect(named('{title} [{artist}] {part}')).toBe('Slow Ferry vocals dry.mp3')
    expect(named('{nonsense}{part}')).toBe('vocals dry.mp3')
    for (const title of ['../../etc/passwd', 'CON', '...', 'a\u0000b', '\u202eevil', '🛳️'.repeat(200), 'x'.repeat(300), '|<>:"?*\\']) {
      const name = named('{title} - {part}', { title })
      expect(name).not.toMatch(/[\u0000-\u001f<>:"/\\|?*]/)
      expect(new TextEncoder().encode(name).length).toBeLessThan(200)
      expect(name.endsWith('.mp3')).toBe(true)
    }
  })
  test('file names are safe everywhere', () => {
    expect(deliveryFileName('A/B: "C"?', 'vocals', 'wav')).toBe('A B C - vocals.wav')
    expect(deliveryFileName('..', 'mix', 'wav')).toBe('Untitled - mix.wav')
    expect(safeName(`${'a'.repeat(79)}. more`)).toBe('a'.repeat(79))
    expect(titleFromFileName('night_ferry_92bpm.final.mp3')).toBe('night ferry 92bpm.final')
  })
})

test.each([
  ['Fm', 'F minor'],
  ['Bb', 'Bb major'],
  ['c# min', 'C# minor'],
  ['G♭ major', 'F# major'],
  ['8A', null],
  ['', null],
])('a key tag %j is read as %j', (text, expected) => {
  const key = parseKey(text)
  expect(key && `${key.tonic} ${key.mode}`).toBe(expected)
})

test.each(['\u{1F3A4}', '\u{1F469}\u{200D}\u{1F3A4}', 'e\u0301\u0323', '\u{1D11E}'])(
  'a long name never ends in half a character (%s) and fits a file system',
  character => {
    const name = safeName(character.repeat(200))
    expect(name.length % character.normalize('NFC').length).toBe(0)
    expect(encodeURIComponent(name)).not.toBe('')
    expect(new TextEncoder().encode(name).length).toBeLessThanOrEqual(180)
  },
)

test('two files of one name get different ones, whatever the case', () => {
  expect(uniqueFileName('Ferry - mix.wav', ['ferry - MIX.wav', 'Ferry - mix 2.wav'])).toBe('Ferry - mix 3.wav')
  expect(uniqueFileName('Ferry - mix.wav', ['Ferry - beat.wav'])).toBe('Ferry - mix.wav')
  expect(uniqueFileName('no ending', ['no ending'])).toBe('no ending 2')
})

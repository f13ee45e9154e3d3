/** What the stories share: files to drop, files to open again, and the steps that every singer takes. */
import { expect, type Download, type Page } from '@playwright/test'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { unzipSync, strFromU8 } from 'fflate'
import type { Planar } from '../src/core/audio/frames'
import { bytesOf } from '../src/core/files/byte-source'
import { openSound } from '../src/core/files/decode'
import { joinPlanes } from '../src/core/mix/render-offline'
import { decodeSamples, encodeSamples, encodeWavHeader, readWavHeader } from '../src/core/files/wav'
import { makeDemoBeat } from '../src/core/rehearsal/demo-beat'
import { scoreOfSheet } from '../src/core/rehearsal/score'
import { sing } from '../src/core/rehearsal/sing'
import type { Song } from '../src/core/song/schema'

export const WORDS = '[Verse 1 | bar 5]\nHarbour radio hums in the rain\nticket stub folded in half'

let wholeBeat: Planar | null = null

/** The demo beat, made once. */
export function demoBeat(): Planar {
  return (wholeBeat ??= makeDemoBeat())
}

/** The first seconds of the demo beat as a 16-bit WAV. */
export function beatFile(seconds: number): { name: string; mimeType: string; buffer: Buffer } {
  const planes = demoBeat().map(plane => plane.subarray(0, seconds * 48_000)) as Planar
  return { name: 'harbour_beat.wav', mimeType: 'audio/wav', buffer: wavFile(planes) }
}

let storedBeat: string | null = null

/** 40 s of the demo beat, 15 bars, on the disk: from there the browser takes it in no time. */
export function beatPath(): string {
  if (storedBeat) return storedBeat
  const { name, buffer } = beatFile(40)
  storedBeat = join(mkdtempSync(join(tmpdir(), 'plush-beat-')), name)
  writeFileSync(storedBeat, buffer)
  return storedBeat
}

export function wavFile(planes: Planar, sampleRateHz = 48_000): Buffer {
  return Buffer.concat([
    encodeWavHeader({ frames: planes[0]!.length, channels: planes.length, sampleRateHz, encoding: 'pcm16' }),
    encodeSamples(planes, 'pcm16'),
  ])
}

export async function openWav(download: Download): Promise<{ planes: Planar; sampleRateHz: number; encoding: string }> {
  const bytes = readFileSync(await download.path())
  const parsed = readWavHeader(bytes)
  if (!parsed.ok) throw new Error(`not a WAV: ${parsed.reason}`)
  const { dataOffset, dataBytes, channels, encoding, sampleRateHz } = parsed.header
  return { planes: decodeSamples(bytes.subarray(dataOffset, dataOffset + dataBytes), encoding, channels), sampleRateHz, encoding }
}

/** A downloaded song file's document and sounds, opened without the app. */
export async function openSongFile(download: Download): Promise<{ song: Song; sounds: Record<string, Float32Array> }> {
  const files = unzipSync(readFileSync(await download.path()))
  const { song } = JSON.parse(strFromU8(files['song.json']!)) as { song: Song }
  const sounds: Record<string, Float32Array> = {}
  for (const [name, bytes] of Object.entries(files)) {
    if (!name.startsWith('sounds/')) continue
    const opened = await openSound(bytesOf(bytes))
    if (!opened.ok) throw new Error(name)
    const pieces: Planar[] = []
    for await (const { planes } of opened.sound.chunks()) pieces.push(planes.map(plane => plane.slice()))
    sounds[name.replace(/^sounds\/|\.\w+$/g, '')] = joinPlanes(pieces)[0]!
  }
  return { song, sounds }
}

/** Drops a beat on the Shelf, waits until its tempo is known, sets its key, lays out the template and two lines. */
export async function startSong(page: Page, address = '/'): Promise<void> {
  await page.goto(address)
  await page.getByLabel('Choose a beat or a song file').setInputFiles(beatPath())
  await expect(page.getByRole('heading', { level: 1, name: /^92\.\d+ bpm/ })).toBeVisible({ timeout: 60_000 })
  // So short, it says F minor or A flat major; it was written in F minor.
  await page.getByLabel('Tonic').selectOption('F')
  await page.getByLabel('Mode', { exact: true }).selectOption('minor')
  await page.getByRole('button', { name: 'Go and sing' }).click()
  await room(page, 'Beat')
  await page.getByRole('button', { name: 'Words', exact: true }).click()
  await page.getByLabel('Lyrics').fill(WORDS)
  await page.getByRole('button', { name: 'Lay them over the bars' }).click()
  await expect(page.locator('[data-line]')).toHaveCount(2)
}

export function room(page: Page, name: string) {
  return page.getByRole('link', { name, exact: true }).click()
}

/** The position as bar.beat.sixteenth, in sixteenths from bar one. */
export async function position(page: Page): Promise<number> {
  const [bar, beat, sixteenth] = (await page.getByRole('timer').innerText()).split('.').map(Number)
  return (bar! - 1) * 16 + (beat! - 1) * 4 + (sixteenth! - 1)
}

export async function openDemo(page: Page): Promise<void> {
  await page.goto('/')
  await page.getByRole('button', { name: 'Open the demo song' }).first().click()
  await expect(page.getByRole('heading', { level: 1, name: 'Harbour radio hums in the rain' })).toBeVisible({ timeout: 60_000 })
}

/** Everything in view was listened to. */
export async function listened(page: Page): Promise<void> {
  await expect(page.getByText('listening …')).toHaveCount(0, { timeout: 120_000 })
}

/** Renders all three parts and gives them in the order mix, vocals, beat. */
export async function deliverAll(page: Page) {
  await room(page, 'Deliver')
  await page.getByRole('button', { name: 'Render 3 files' }).click()
  await expect(page.locator('[data-delivery]').getByRole('link', { name: 'Save' })).toHaveCount(3, { timeout: 120_000 })
  return { mix: await saveDelivery(page, 'mix'), vocals: await saveDelivery(page, 'vocals'), beat: await saveDelivery(page, 'beat') }
}

/** All voices together, and the beat. */
export async function deliverVocalsAndBeat(page: Page): Promise<[vocals: Float32Array, beat: Float32Array]> {
  await room(page, 'Deliver')
  await page.getByRole('button', { name: 'Final mix', exact: true }).click()
  await page.getByRole('button', { name: 'Render 2 files' }).click()
  return [(await saveDelivery(page, 'vocals')).planes[0]!, (await saveDelivery(page, 'beat')).planes[0]!]
}

/** @param part As the file is called. */
export async function saveDelivery(page: Page, part: string) {
  const link = page.locator(`[data-delivery$="- ${part}.wav"]`).getByRole('link', { name: 'Save' })
  await expect(link).toBeVisible({ timeout: 240_000 })
  // Several may be saved at once: each waits for its own.
  const own = page.waitForEvent('download', download => download.suggestedFilename().endsWith(`- ${part}.wav`))
  const [download] = await Promise.all([own, link.click()])
  return openWav(download)
}

export async function downloadSongFile(page: Page): Promise<Download> {
  await room(page, 'Deliver')
  await page.getByRole('button', { name: 'Make a song file' }).click()
  const link = page.locator('[data-delivery$=".zip"]').getByRole('link', { name: 'Save' })
  await expect(link).toBeVisible({ timeout: 60_000 })
  const [download] = await Promise.all([page.waitForEvent('download'), link.click()])
  return download
}

/** The shift of `found` against `expected`, in frames, at which they correlate best, and how well (0..1). */
export function bestLag(expected: Float32Array, found: Float32Array, maxLag: number): { lag: number; correlation: number } {
  let best = { lag: 0, correlation: -1 }
  let energy = 0
  for (const sample of expected) energy += sample * sample
  for (let lag = -maxLag; lag <= maxLag; lag++) {
    let sum = 0
    let other = 0
    for (let i = Math.max(0, -lag); i < expected.length && i + lag < found.length; i++) {
      sum += expected[i]! * found[i + lag]!
      other += found[i + lag]! ** 2
    }
    const correlation = sum / Math.sqrt(energy * other + 1e-20)
    if (correlation > best.correlation) best = { lag, correlation }
  }
  return best
}

/** The best correlation (0..1) of a short piece with any place of a sound that is at least as long. */
export function bestPlace(piece: Float32Array, sound: Float32Array): number {
  const energy = piece.reduce((sum, x) => sum + x * x, 0)
  let other = sound.subarray(0, piece.length).reduce((sum, x) => sum + x * x, 0)
  let best = -1
  for (let at = 0; at + piece.length <= sound.length; at++) {
    let sum = 0
    for (let i = 0; i < piece.length; i++) sum += piece[i]! * sound[at + i]!
    best = Math.max(best, sum / Math.sqrt(energy * Math.max(0, other) + 1e-12))
    other += (sound[at + piece.length] ?? 0) ** 2 - sound[at]! ** 2
  }
  return best
}

export function decibelsApart(a: Float32Array, b: Float32Array): number {
  let worst = 0
  for (let i = 0; i < Math.max(a.length, b.length); i++) worst = Math.max(worst, Math.abs((a[i] ?? 0) - (b[i] ?? 0)))
  return 20 * Math.log10(worst)
}

/** The song as the browser has stored it. */
export async function storedSong(page: Page): Promise<Song> {
  return page.evaluate(async () => {
    const database = await new Promise<IDBDatabase>((resolve, reject) => {
      const request = indexedDB.open('plush-layer')
      request.onsuccess = () => resolve(request.result)
      request.onerror = () => reject(request.error as Error)
    })
    const id = location.pathname.split('/')[2]!
    return new Promise<Song>(resolve => {
      const request = database.transaction('songs').objectStore('songs').get(id)
      request.onsuccess = () => {
        database.close()
        resolve((request.result as { song: Song }).song)
      }
    })
  })
}

/** The samples of a stored sound, its left channel. */
export async function storedSound(page: Page, assetId: string): Promise<Float32Array> {
  const base64 = await page.evaluate(async id => {
    const database = await new Promise<IDBDatabase>((resolve, reject) => {
      const request = indexedDB.open('plush-layer')
      request.onsuccess = () => resolve(request.result)
      request.onerror = () => reject(request.error as Error)
    })
    const rowsOf = <Row>(table: string) =>
      new Promise<Row[]>(resolve => {
        const request = database
          .transaction(table)
          .objectStore(table)
          .getAll(IDBKeyRange.bound([id, 0], [id, Infinity]))
        request.onsuccess = () => resolve(request.result as Row[])
      })
    const planes = (await rowsOf<{ planes: Float32Array[] }>('chunks')).map(row => row.planes[0]!)
    for (const { channels, sound } of await rowsOf<{ channels: number; sound: Blob }>('packs')) {
      const floats = new Float32Array(await sound.arrayBuffer())
      for (let at = 0; at < floats.length; at += channels * 12_000) planes.push(floats.subarray(at, at + Math.min(12_000, (floats.length - at) / channels)))
    }
    database.close()
    const reader = new FileReader()
    return new Promise<string>(resolve => {
      reader.onload = () => resolve((reader.result as string).split(',')[1] ?? '')
      reader.readAsDataURL(new Blob(planes as Float32Array<ArrayBuffer>[]))
    })
  }, assetId)
  const bytes = Buffer.from(base64, 'base64')
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength))
}

/** Those of all takes, by their ids. */
export async function storedSounds(page: Page, { takes }: Song): Promise<Record<string, Float32Array>> {
  const sounds: Record<string, Float32Array> = {}
  for (const { assetId } of takes) sounds[assetId] = await storedSound(page, assetId)
  return sounds
}

/** What the practice singer was given to sing over a stretch of a song; frame 0 is the stretch's first. */
export function givenVoice(song: Song, range: { startFrame: number; endFrame: number }, take: number): Float32Array {
  const start = range.startFrame / 48_000
  const score = scoreOfSheet(song)
    .filter(line => line.startSeconds < range.endFrame / 48_000 && line.notes.at(-1)!.endSeconds > start)
    .map(line => ({
      startSeconds: line.startSeconds - start,
      notes: line.notes.map(note => ({ ...note, startSeconds: note.startSeconds - start, endSeconds: note.endSeconds - start })),
    }))
  return sing({ score, frames: range.endFrame - range.startFrame, seed: 7, take })
}

/** How many frames later than it was given the voice lies in a take, by the loudest second and a half in the range. */
export function placeError(
  take: Song['takes'][number],
  sound: Float32Array,
  range: { startFrame: number; endFrame: number },
  given: Float32Array,
  givenFrame: number,
): { lag: number; correlation: number } {
  const from = range.startFrame + 12_000
  const frames = Math.min(72_000, range.endFrame - range.startFrame - 24_000)
  const expected = given.subarray(from - givenFrame, from - givenFrame + frames)
  const at = from - take.originFrame
  const { lag, correlation } = bestLag(expected, sound.subarray(at - 480, at + frames + 480), 960)
  return { lag: lag - 480, correlation }
}

/** What the Stack room works on, below the quilt. */
export async function stackSheet(
  page: Page,
  name: 'What I want' | 'Doubles' | 'With the lead' | 'What to sing' | 'Where each stands' | 'Layers',
): Promise<void> {
  await room(page, 'Stack')
  await page.getByRole('group', { name: 'What to work on' }).getByRole('button', { name, exact: true }).click()
}

/**
 * Renders a file for each layer that sounds, and the beat; they are saved with `saveDelivery`.
 * @param solo Only this layer sounds, from then on.
 */
export async function renderEachLayer(page: Page, solo?: string): Promise<void> {
  if (solo) {
    await room(page, 'Mix')
    await page.getByRole('button', { name: `Solo ${solo}` }).click()
  }
  await room(page, 'Deliver')
  for (const name of ['Final mix', 'Vocals alone', 'Each layer']) await page.getByRole('button', { name, exact: true }).click()
  await page.getByRole('button', { name: /^Render \d files$/ }).click()
}

/** A section or a line, by how its words begin: the first of them. */
export async function selectOnSheet(page: Page, name: RegExp): Promise<void> {
  await page.getByRole('button', { name }).first().click()
}

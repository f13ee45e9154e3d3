/** Beats that come in: files of every kind and of odd kinds, what they say of themselves, several at once; listening to them. */
import { expect, test, type Page } from '@playwright/test'
import { readFileSync } from 'node:fs'
import type * as Live from '../src/app/song/live'
import type * as Decode from '../src/core/files/decode'
import type * as ImportSound from '../src/core/files/import-sound'
import { DEVELOPMENT_PORT } from '../playwright.config'
import { mixToMono } from '../src/core/audio/frames'
import { DEMO_GRID } from '../src/core/rehearsal/demo-beat'
import { beatFile, beatPath, demoBeat, room, storedSong, storedSound, wavFile } from './support'

const BAR_SECONDS = 240 / 92.6

test('M4A, AAC, Opus, WebM, AIFF and a video come in sample-aligned', async ({ page }) => {
  await page.goto(`http://localhost:${DEVELOPMENT_PORT}/`)
  for (const kind of ['m4a', 'aac', 'opus', 'webm', 'aiff', 'mp4']) {
    const bytes = [...readFileSync(`e2e/fixtures/bursts.${kind}`)]
    const onsets = await page.evaluate(async fileBytes => {
      const { importSound } = (await import(/* @vite-ignore */ '/src/core/files/import-sound.ts' as string)) as typeof ImportSound
      const { openSound } = (await import(/* @vite-ignore */ '/src/core/files/decode.ts' as string)) as typeof Decode
      const data = new Uint8Array(fileBytes)
      const sound: number[] = []
      const opened = await openSound({ size: data.length, read: (start, end) => Promise.resolve(data.subarray(start, end)) })
      const result = await importSound(opened, planes => void sound.push(...planes[0]!))
      if (result.kind !== 'imported') return [JSON.stringify(result)]
      const found: number[] = []
      for (let i = 0; i < sound.length; i++) if (Math.abs(sound[i]!) > 0.15 && (found.length === 0 || i / 48_000 - found.at(-1)! > 0.4)) found.push(i / 48_000)
      return found
    }, bytes)
    // Three tone bursts; a raw AAC stream has no place to say how much its encoder was late (1024 frames).
    const late = kind === 'aac' ? 1_024 / 48_000 : 0
    expect(onsets, kind).toHaveLength(3)
    for (const [i, seconds] of [0.5, 1.25, 2.2].entries()) expect(Math.abs(Number(onsets[i]) - seconds - late), kind).toBeLessThan(0.002)
  }
})

test('what the file says of itself is shown beside what was heard, and taken only when asked', async ({ page }) => {
  await page.goto('/')
  const plain = wavFile(demoBeat().map(plane => plane.slice(0, 24 * 48_000)))
  await page
    .getByLabel('Choose a beat or a song file')
    .setInputFiles({ name: 'take_away_7.wav', mimeType: 'audio/wav', buffer: withTag(plain, 'INAM', 'Last boat home') })
  await expect(page.getByText(/the file itself says “Last boat home”/i)).toBeVisible({ timeout: 60_000 })
  await expect(page.getByLabel('Song title')).toHaveValue('take away 7')
  await page.getByRole('button', { name: 'Take that as the name' }).click()
  await expect(page.getByLabel('Song title')).toHaveValue('Last boat home')
  await expect(page.getByText(/the file itself says/i)).toHaveCount(0)
  await page.keyboard.press('Control+z')
  await expect(page.getByLabel('Song title')).toHaveValue('take away 7')
})

test('of several files the first is the beat; the singer is asked about the rest', async ({ page }) => {
  await page.goto('/')
  const files = [
    beatFile(20),
    { ...beatFile(15), name: 'other_beat.wav' },
    { name: 'notes.txt', mimeType: 'text/plain', buffer: Buffer.from('bring the blue cable') },
  ]
  await page.getByLabel('Choose a beat or a song file').setInputFiles(files)
  await expect(page.getByText('“harbour_beat.wav” is a song now.')).toBeVisible({ timeout: 60_000 })
  await expect(page.getByText('2 more files came along with it:')).toBeVisible()
  await page.getByRole('button', { name: 'Leave it' }).last().click()
  await page.getByRole('button', { name: 'Begin another song with it' }).click()
  await expect(page.getByRole('article')).toHaveCount(2)
  await page.getByRole('button', { name: 'Open it' }).click()
  await expect(page.getByText('harbour_beat.wav · 0:20')).toBeVisible()
})

test('silence and noise are told apart from beats, and listening can be stopped', async ({ page }) => {
  await page.goto('/')
  const drop = (name: string, plane: Float32Array<ArrayBuffer>) =>
    page.getByLabel('Choose a beat or a song file').setInputFiles({ name, mimeType: 'audio/wav', buffer: wavFile([plane]) })
  await drop('silence.wav', new Float32Array(10 * 48_000))
  await expect(page.getByText('No tempo was found in this beat.')).toBeVisible({ timeout: 60_000 })
  await expect(page.getByText('No key was heard')).toBeVisible()
  await expect(page.getByText(/silent, highest peak silent/)).toBeVisible()
  await page.goto('/')
  let state = 1
  await drop(
    'noise.wav',
    Float32Array.from({ length: 20 * 48_000 }, () => ((state = (state * 48_271) % 2_147_483_647) / 2_147_483_647 - 0.5) * 0.6),
  )
  await expect(page.getByText('No tempo was found in this beat.')).toBeVisible({ timeout: 60_000 })
  await page.goto('/')
  // Long enough to be stopped in time on any machine.
  const passage = demoBeat()[0]!.subarray(DEMO_GRID.barOneFrame, DEMO_GRID.barOneFrame + Math.round(32 * BAR_SECONDS * 48_000))
  await drop(
    'long_beat.wav',
    Float32Array.from({ length: 240 * 48_000 }, (_, i) => passage[i % passage.length]!),
  )
  await page.getByRole('button', { name: 'Stop listening' }).click({ timeout: 60_000 })
  await expect(page.getByText('Listening was stopped.')).toBeVisible()
  await page.getByRole('button', { name: 'Listen again' }).click()
  // It goes on while one is in another room, which knows the tempo as soon as it is heard.
  await room(page, 'Booth')
  await expect(page).toHaveURL(/booth$/)
  await expect.poll(() => heardBeats(page), { timeout: 60_000 }).toBe(3)
  await expect(page.getByText(/ · 92\.\d+ bpm/)).toBeVisible()
  await room(page, 'Beat')
  await expect(page.getByRole('heading', { level: 1, name: /^92\.\d+ bpm/ })).toBeVisible({ timeout: 60_000 })
})

test('bars do not move under a voice that is being recorded: what is heard meanwhile is taken after it', async ({ page }) => {
  await page.goto(`http://localhost:${DEVELOPMENT_PORT}/`)
  const recording = (now: boolean) =>
    page.evaluate(async value => {
      const path = '/src/app/song/live.ts'
      const { useLive } = (await import(/* @vite-ignore */ path)) as typeof Live
      useLive.setState({ recording: value })
    }, now)
  await recording(true)
  await page.getByLabel('Choose a beat or a song file').setInputFiles(beatPath())
  await expect.poll(() => heardBeats(page), { timeout: 90_000 }).toBe(1)
  // The room shows what was heard; the song keeps the bars it is sung to.
  await expect(page.getByText(/^Heard as A/)).toBeVisible({ timeout: 30_000 })
  expect((await storedSong(page)).beat.gridSource).toBe('unknown')
  await recording(false)
  await expect(page.getByRole('heading', { level: 1, name: /^92\.\d+ bpm/ })).toBeVisible()
  await expect.poll(async () => (await storedSong(page)).beat.gridSource).toBe('found')
})

test('a file at 96 kHz lies where it should; twelve minutes in one channel are heard to the end', async ({ page }) => {
  test.setTimeout(300_000)
  const rate = 96_000
  const bursts = Float32Array.from({ length: 6 * rate }, (_, i) =>
    i % rate >= rate / 4 && i % rate < 0.3 * rate ? 0.5 * Math.sin((2 * Math.PI * 1_000 * (i % rate)) / rate) : 0,
  )
  await page.goto('/')
  await page.getByLabel('Choose a beat or a song file').setInputFiles({ name: 'bursts.wav', mimeType: 'audio/wav', buffer: wavFile([bursts], rate) })
  await expect(page.getByText('bursts.wav · 0:06')).toBeVisible({ timeout: 60_000 })
  const short = await storedSound(page, (await storedSong(page)).beat.assetId)
  expect(short.length).toBe(6 * 48_000)
  for (let second = 0; second < 6; second++)
    expect(Math.abs(short.findIndex((sample, i) => i >= second * 48_000 && Math.abs(sample) > 0.05) - (second + 0.25) * 48_000)).toBeLessThanOrEqual(3)

  // Thirty-two bars of the demo beat at half its rate, over and over.
  const passage = mixToMono(demoBeat()).subarray(DEMO_GRID.barOneFrame, DEMO_GRID.barOneFrame + Math.round(32 * BAR_SECONDS * 48_000))
  const half = Float32Array.from({ length: passage.length >> 1 }, (_, i) => (passage[2 * i]! + passage[2 * i + 1]!) / 2)
  const long = Float32Array.from({ length: 720 * 24_000 }, (_, i) => half[i % half.length]!)
  await page.goto('/')
  const arrived = await watchArrival(page)
  await page.getByLabel('Choose a beat or a song file').setInputFiles({ name: 'long.wav', mimeType: 'audio/wav', buffer: wavFile([long], 24_000) })
  await expect(page.getByText('long.wav · 12:00')).toBeVisible({ timeout: 60_000 })
  // Its ribbon grew while it came in, from the left to the right end.
  const shares = await arrived()
  expect(shares.length).toBeGreaterThan(5)
  expect(shares).toEqual([...shares].sort((a, b) => a - b))
  expect(shares[0]).toBeLessThan(0.5)
  expect(shares.at(-1)).toBeGreaterThan(0.98)
  await expect(page.getByRole('heading', { level: 1, name: /^92\.(59|6|61)\d* bpm/ })).toBeVisible({ timeout: 120_000 })
  await expect(page.getByLabel('Listening to the beat')).toHaveCount(0, { timeout: 60_000 })
  await expect(page.getByText('One channel.')).toBeVisible()
  const { beat, sections } = await storedSong(page)
  expect(beat.frames).toBe(720 * 48_000)
  // Sections and chords reach the end, which is bar 277.
  const last = sections.at(-1)!
  expect(last.startBar + last.barCount).toBeGreaterThanOrEqual(277)
  expect(beat.chords.at(-1)!.startBeat).toBeGreaterThan(4 * 260)
})

/** Watches the ribbon of the file that comes in: how much of its width was drawn, each share once, in the order they were seen. */
async function watchArrival(page: Page): Promise<() => Promise<number[]>> {
  const shares = await page.evaluateHandle(() => {
    const seen: number[] = []
    const timer = setInterval(() => {
      const canvas = document.querySelector<HTMLCanvasElement>('canvas[aria-label="The beat, as far as it has arrived"]')
      if (!canvas?.width) return
      // A little above the middle, where any sound is drawn and the line of silence is not.
      const row = canvas.getContext('2d')!.getImageData(0, Math.round(canvas.height * 0.45), canvas.width, 1).data
      let last = 0
      for (let x = 0; x < canvas.width; x++) if (row[4 * x + 3]! > 0) last = x + 1
      const share = last / canvas.width
      if (share > 0 && share !== seen.at(-1)) seen.push(share)
    }, 10)
    return { seen, timer }
  })
  return () =>
    shares.evaluate(({ seen, timer }) => {
      clearInterval(timer)
      return seen
    })
}

/** How many beats were listened to until the end. */
function heardBeats(page: Page): Promise<number> {
  return page.evaluate(async () => {
    const database = await new Promise<IDBDatabase>((resolve, reject) => {
      const request = indexedDB.open('plush-layer')
      request.onsuccess = () => resolve(request.result)
      request.onerror = () => reject(request.error as Error)
    })
    const keys = await new Promise<IDBValidKey[]>(resolve => {
      const request = database.transaction('analyses').objectStore('analyses').getAllKeys()
      request.onsuccess = () => resolve(request.result)
    })
    database.close()
    return keys.filter(key => String(key).includes(':beat:')).length
  })
}

/** A WAV file with one entry of its information list. */
function withTag(wav: Buffer, id: string, text: string): Buffer {
  const value = Buffer.from(text.length % 2 === 0 ? `${text}\0\0` : `${text}\0`)
  const list = Buffer.concat([Buffer.from('LIST'), uint32(4 + 8 + value.length), Buffer.from(`INFO${id}`), uint32(value.length), value])
  const tagged = Buffer.concat([wav, list])
  tagged.writeUInt32LE(tagged.length - 8, 4)
  return tagged
}

function uint32(value: number): Buffer {
  const bytes = Buffer.alloc(4)
  bytes.writeUInt32LE(value)
  return bytes
}

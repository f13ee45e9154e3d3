/** Recording in Chromium: from key press to rolling, what waits for the disk under load, memory while a take goes on (MINUTES=30 for a long one). */
import { chromium, type BrowserContext, type Page } from '@playwright/test'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { CHROMIUM } from '../e2e/chromium'
import { room, startSong, wavFile } from '../e2e/support'
import { CAPTURE } from '../src/engine/shared-state'
import { memoryOfChromium } from './memory'
import { serve } from './serve'
import { longestBacklog, noteWorklets } from './worklets'

const MINUTES = Number(process.env.MINUTES ?? 2)
const SAMPLE_SECONDS = 5

export async function measureBooth(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'plush-bench-'))
  const microphone = join(folder, 'microphone.wav')
  writeFileSync(
    microphone,
    wavFile([Float32Array.from({ length: 48_000 * 4 }, (_, i) => 0.2 * Math.sin((2 * Math.PI * (200 + (i % 48_000) / 200) * i) / 48_000))]),
  )
  // With a profile on disk, as singers have: without one the browser keeps its storage in memory, which grows with every take.
  const browser = await chromium.launchPersistentContext(join(folder, 'profile'), {
    ...CHROMIUM,
    viewport: { width: 1280, height: 800 },
    args: [...CHROMIUM.args, `--use-file-for-fake-audio-capture=${microphone}`],
  })
  await noteWorklets(browser)
  await measureBeginning(browser)
  await measureTake(browser)
  await browser.close()
}

async function measureBeginning(browser: BrowserContext): Promise<void> {
  const { port, close } = await serve()
  const page = await enterBooth(browser, port)
  const waits: number[] = []
  for (let run = 0; run < 5; run++) {
    waits.push(await pressToRolling(page))
    await page.waitForTimeout(1_500)
    await page.keyboard.press('r')
    await page.getByRole('button', { name: 'Record', exact: true }).waitFor()
    await page.waitForTimeout(500)
  }
  waits.sort((a, b) => a - b)
  console.log(`from the key to the transport rolling: ${waits[2]!.toFixed(0)} ms (median of 5, most ${waits[4]!.toFixed(0)} ms)`)
  await page.close()
  close()
}

async function measureTake(browser: BrowserContext): Promise<void> {
  const { port, close } = await serve()
  const page = await enterBooth(browser, port)
  await page.getByLabel('When it stops').selectOption('run-on')
  await pressToRolling(page)
  const { firstMegabytes, lastMegabytes, backlogMilliseconds } = await watch(page, MINUTES * 60)
  console.log(
    `a take of ${MINUTES} min: ${firstMegabytes.toFixed(0)} MB of the browser after 10 s, ${lastMegabytes.toFixed(0)} MB at the end; at most ${backlogMilliseconds.toFixed(0)} ms waited for the disk`,
  )
  // Both cores are kept busy by other workers of the page, for as long as is watched.
  await page.evaluate(() => {
    const busy = new Blob(['const end = Date.now() + 20_000; while (Date.now() < end) Math.sqrt(Math.random())'])
    for (let i = 0; i < 2; i++) new Worker(URL.createObjectURL(busy))
  })
  const loaded = await watch(page, 15)
  console.log(`with both cores busy: at most ${loaded.backlogMilliseconds.toFixed(0)} ms waited for the disk; the ring holds 2 730 ms`)
  await page.close()
  close()
}

async function enterBooth(browser: BrowserContext, port: number): Promise<Page> {
  const page = await browser.newPage()
  await startSong(page, `http://localhost:${port}/`)
  await room(page, 'Booth')
  await page.getByRole('button', { name: 'Open a microphone' }).first().click()
  await page.getByText(/Will record/).waitFor()
  await page.getByLabel('Count-in').selectOption('0')
  return page
}

async function pressToRolling(page: Page): Promise<number> {
  const began = performance.now()
  await page.keyboard.press('r')
  await page.getByText(/^(Counting in|Pass 1)$/).waitFor({ timeout: 30_000 })
  return performance.now() - began
}

async function watch(page: Page, seconds: number): Promise<{ firstMegabytes: number; lastMegabytes: number; backlogMilliseconds: number }> {
  let [firstMegabytes, lastMegabytes, backlogMilliseconds] = [0, 0, 0]
  for (let at = 0; at < seconds; at += SAMPLE_SECONDS) {
    backlogMilliseconds = Math.max(backlogMilliseconds, (await longestBacklog(page, SAMPLE_SECONDS, CAPTURE.writtenFrames, CAPTURE.readFrames)) / 48)
    lastMegabytes = memoryOfChromium()
    if (at >= 5 && firstMegabytes === 0) firstMegabytes = lastMegabytes
  }
  return { firstMegabytes, lastMegabytes, backlogMilliseconds }
}

/** A beat of three and a half minutes, from the drop on the Shelf to all its facts, in Chromium. */
import { chromium } from '@playwright/test'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { CHROMIUM } from '../e2e/chromium'
import { encodeBeat } from './encode-beat'
import { memoryOfChromium } from './memory'
import { serve } from './serve'

const SECONDS = 210
const RUNS = 3

interface Arrival {
  /** All of it decoded, resampled and drawn, on the Shelf. */
  ribbon: number
  /** Drawn in its room. */
  room: number
  tempo: number
  all: number
  longestTask: number
  blocked: number
  grewMegabytes: number
}

export async function measureBeat(): Promise<void> {
  const mp3 = encodeBeat(SECONDS)
  if (!mp3) return console.log('a beat from the drop to its facts: skipped, ffmpeg is needed to make the MP3')
  const { port, close } = await serve()
  const arrivals: Arrival[] = []
  for (let run = 0; run < RUNS; run++) arrivals.push(await dropIt(port, mp3.path, false))
  arrivals.sort((a, b) => a.all - b.all)
  const { ribbon, room, tempo, all, longestTask, blocked } = arrivals[RUNS >> 1]!
  // In a run of its own: to ask how much memory it takes slows the browser down.
  const { grewMegabytes } = await dropIt(port, mp3.path, true)
  console.log(
    `a beat of 3:30 as MP3: ribbon after ${ribbon.toFixed(0)} ms, its room after ${room.toFixed(0)}, tempo after ${tempo.toFixed(0)}, all facts after ${all.toFixed(0)} (median of ${RUNS})`,
  )
  console.log(
    `  its longest task on the main thread ${longestTask.toFixed(0)} ms, ${blocked.toFixed(0)} ms in all beyond 50 ms each; the browser grew by at most ${grewMegabytes.toFixed(0)} MB`,
  )
  close()
}

async function dropIt(port: number, path: string, watchMemory: boolean): Promise<Arrival> {
  const browser = await chromium.launchPersistentContext(join(mkdtempSync(join(tmpdir(), 'plush-bench-')), 'profile'), {
    ...CHROMIUM,
    viewport: { width: 1280, height: 800 },
  })
  await browser.addInitScript('globalThis.__name ??= f => f')
  const page = await browser.newPage()
  await page.goto(`http://localhost:${port}/`)
  await page.getByRole('button', { name: 'Open the demo song' }).first().waitFor()
  await page.waitForTimeout(2_000)
  await page.evaluate(() => {
    const state = { began: 0, ribbon: 0, room: 0, tempo: 0, all: 0, tasks: [] as number[] }
    Object.assign(globalThis, { arrival: state })
    document.addEventListener('change', () => (state.began = performance.now()), { capture: true, once: true })
    new PerformanceObserver(list => state.tasks.push(...list.getEntries().map(entry => entry.duration))).observe({ type: 'longtask' })
    const rowOf = (canvas: HTMLCanvasElement, part: number) => canvas.getContext('2d')!.getImageData(0, Math.round(part * canvas.height), canvas.width, 1).data
    const isDrawn = (canvas: HTMLCanvasElement) => canvas.width > 300 && rowOf(canvas, 0.2).some(value => value > 0)
    const isWhole = (canvas: HTMLCanvasElement) =>
      canvas.width > 300 &&
      rowOf(canvas, 0.45)
        .slice(-4 * Math.round(0.01 * canvas.width))
        .some(value => value > 0)
    const look = () => {
      const now = performance.now()
      const canvas = document.querySelector<HTMLCanvasElement>('[aria-label="The beat as a ribbon"] canvas')
      const arriving = document.querySelector<HTMLCanvasElement>('canvas[aria-label="The beat, as far as it has arrived"]')
      if (!state.ribbon && arriving && isWhole(arriving)) state.ribbon = now - state.began
      if (!state.room && canvas && isDrawn(canvas)) state.room = now - state.began
      if (!state.tempo && / bpm, /.test(document.querySelector('h1')?.textContent ?? '')) state.tempo = now - state.began
      if (!state.all && state.tempo && !document.querySelector('[aria-label="Listening to the beat"]')) state.all = now - state.began
    }
    setInterval(look, 20)
  })
  const before = memoryOfChromium()
  let most = before
  await page.getByLabel('Choose a beat or a song file').setInputFiles(path)
  const state = () =>
    page.evaluate(() => (globalThis as unknown as { arrival: Omit<Arrival, 'longestTask' | 'blocked' | 'grewMegabytes'> & { tasks: number[] } }).arrival)
  while (!(await state()).all) {
    if (watchMemory) most = Math.max(most, memoryOfChromium())
    await page.waitForTimeout(150)
  }
  await page.waitForTimeout(1_000)
  const { ribbon, room, tempo, all, tasks } = await state()
  await browser.close()
  return {
    ribbon,
    room,
    tempo,
    all,
    longestTask: Math.max(0, ...tasks),
    blocked: tasks.reduce((sum, task) => sum + task - 50, 0),
    grewMegabytes: most - before,
  }
}

/** Comp at its full size, in Chromium: 60 takes of four minutes on one layer, twelve layers. */
import { NO_EDITS } from '../src/core/song/edit-schema'
import { chromium, type CDPSession, type Page } from '@playwright/test'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { CHROMIUM } from '../e2e/chromium'
import { PEAK_LEVEL_FRAMES } from '../src/core/audio/peaks'
import { pickTake } from '../src/core/comp/picks'
import { parseLyrics } from '../src/core/song/lyrics'
import { addLayer } from '../src/core/layers/commands'
import { layTemplate } from '../src/core/layers/lay-template'
import { CHUNK_FRAMES } from '../src/core/mix/chunk-window'
import { countingIds } from '../src/core/rehearsal/demo-song'
import { layLyrics } from '../src/core/song/lay-lyrics'
import { makeSong } from '../src/core/song/make-song'
import { setGrid } from '../src/core/song/sections'
import type { AssetId, Song, SongId, Take, TakeId } from '../src/core/song/schema'
import { placedLines } from '../src/core/song/select'
import { addTakes } from '../src/core/song/takes'
import { VOICE_ANALYSIS_VERSION } from '../src/core/voice/analyse-voice'
import { TRANSPORT } from '../src/engine/shared-state'
import { serve } from './serve'
import { noteWorklets } from './worklets'

const TAKES = 60
const LAYERS = 12
const SECONDS = 240
const FRAMES = SECONDS * 48_000
/** Sound is stored only of this much of each take; levels and analyses of all of it. */
const SOUND_SECONDS = 24

export async function measureComp(): Promise<void> {
  const { port, close } = await serve()
  const browser = await chromium.launchPersistentContext(join(mkdtempSync(join(tmpdir(), 'plush-bench-')), 'profile'), {
    ...CHROMIUM,
    viewport: { width: 1280, height: 800 },
  })
  await noteWorklets(browser)
  const page = await browser.newPage()
  await page.goto(`http://localhost:${port}/`)
  await page.getByRole('button', { name: 'Open the demo song' }).first().waitFor()
  await store(page, bigSong())
  await page.goto(`http://localhost:${port}/song/big/mix`)
  await page.getByRole('link', { name: 'Comp', exact: true }).waitFor()
  await page.waitForTimeout(3_000)
  console.log(
    `Comp, ${TAKES} takes of ${SECONDS / 60} min, ${LAYERS} layers: open ${(await timeOf(page, () => document.querySelectorAll('[data-row] canvas').length >= 3, 'Comp')).toFixed(0)} ms after it was asked for`,
  )
  await page.waitForTimeout(8_000)
  await reportFrames(page, 'zooming', event => ({ ...event, deltaY: Math.sin(event.turn / 8) * 40, ctrlKey: true }))
  await reportFrames(page, 'scrolling along', event => ({ ...event, deltaX: Math.sin(event.turn / 20) * 60 }))
  await reportFrames(page, 'scrolling through the takes', event => event, 24)
  await reportPicks(page)
  await reportSwitches(page)
  const session = await browser.newCDPSession(page)
  console.log(`the page holds ${(await heapMegabytes(session)).toFixed(0)} MB after that`)
  await browser.close()
  close()
}

function bigSong(): Song {
  const makeId = countingIds('big')
  const bare = makeSong({ songId: 'big' as SongId, title: 'Big', assetId: 'big-beat' as AssetId, fileName: 'big.wav', frames: FRAMES, makeId })
  const gridded = setGrid(bare, { grid: { tempoBpm: 120, barOneFrame: 0, beatsPerBar: 4, beatUnit: 'quarter', map: null }, makeId })
  const words = Array.from(
    { length: 14 },
    (_, section) => `[Part ${section + 1}]\n${Array.from({ length: 4 }, (_, line) => `words of line ${line + 1} to sing here`).join('\n')}`,
  ).join('\n\n')
  let song = layTemplate(layLyrics(gridded, { lyrics: parseLyrics(words), firstBar: 3, makeId }), { makeId })
  while (song.layers.length < LAYERS) song = addLayer(song, { name: `Layer ${song.layers.length + 1}`, role: 'ad-lib', makeId })
  const takes = song.layers.flatMap((layer, l) =>
    Array.from({ length: l === 0 ? TAKES : 5 }, (_, i): Take => ({
      id: `take-${l}-${i}` as TakeId,
      layerId: layer.id,
      name: `Pass ${i + 1}`,
      pass: i + 1,
      assetId: `sound-${l}-${i}` as AssetId,
      originFrame: 0,
      startFrame: 0,
      endFrame: FRAMES,
      roundTripFrames: 0,
      roundTripSource: 'none',
      roundTripMeasuredAt: null,
      recordedAt: '2026-01-01T20:00:00.000Z',
      inputName: '',
      level: null,
      flaws: [],
      note: '',
      starred: false,
      spare: false,
      binned: false,
      edits: NO_EDITS,
      heard: null,
      bounceOf: null,
    })),
  )
  song = addTakes(song, { takes })
  return placedLines(song).reduce(
    (current, line, i) =>
      pickTake(current, { layerId: song.layers[0]!.id, takeId: `take-0-${i % 7}` as TakeId, startFrame: line.startFrame, endFrame: line.endFrame, makeId }),
    song,
  )
}

/** Straight into the browser's database: every sound with its levels and its analysis, even takes loud and odd ones soft. */
async function store(page: Page, song: Song): Promise<void> {
  await page.evaluate(
    async ({ song: document, frames, soundSeconds, chunkFrames, levelFrames, version }) => {
      const database = await new Promise<IDBDatabase>(resolve => {
        const request = indexedDB.open('plush-layer')
        request.onsuccess = () => resolve(request.result)
      })
      const put = (stores: Record<string, unknown[]>) =>
        new Promise<void>((resolve, reject) => {
          const transaction = database.transaction(Object.keys(stores), 'readwrite')
          for (const [name, rows] of Object.entries(stores)) for (const row of rows) transaction.objectStore(name).put(row)
          transaction.oncomplete = () => resolve()
          transaction.onerror = () => reject(transaction.error as Error)
        })
      const now = new Date().toISOString()
      await put({ songs: [{ id: document.id, song: document, createdAt: now, touchedAt: now, binnedAt: null, position: 0 }] })
      const sounds = [
        { id: document.beat.assetId, channels: 2, gain: 0.01 },
        ...document.takes.map((take, i) => ({ id: take.assetId, channels: 1, gain: i % 2 === 0 ? 0.3 : 0.003 })),
      ]
      for (const { id, channels, gain } of sounds) {
        // Sung for three seconds of every four.
        const sings = (second: number) => second % 4 < 3
        const levels = levelFrames.map(binFrames => {
          const peak = Float32Array.from(
            { length: Math.ceil(frames / binFrames) },
            (_, i) => gain * (sings((i * binFrames) / 48_000) ? 0.7 + 0.3 * Math.random() : 0.01),
          )
          return { binFrames, peak, rms: peak.map(value => value * 0.5) }
        })
        const hops = frames / 240
        const f0Hz = Float32Array.from({ length: hops }, (_, i) => (sings(i / 200) ? 220 + 5 * Math.sin(i / 9) : 0))
        const value = {
          hopSeconds: 0.005,
          f0Hz,
          clarity: f0Hz.map(hz => (hz > 0 ? 0.9 : 0)),
          power: f0Hz.map(hz => (hz > 0 ? gain * gain * 0.25 : 1e-9)),
          noiseFloorDbfs: -70,
          clipped: [],
          phrases: Array.from({ length: hops / 800 }, (_, i) => ({ startSeconds: 4 * i, endSeconds: 4 * i + 3 })),
          onsetSeconds: Array.from({ length: hops / 100 }, (_, i) => i / 2),
        }
        const planes = Array.from({ length: channels }, () => Float32Array.from({ length: chunkFrames }, (_, i) => gain * Math.sin(i / 30)))
        await put({
          assets: [{ id, frames, channels, contentHash: id, encoding: 'float32', clippedRuns: 0 }],
          peaks: [{ assetId: id, peaks: { frames, levels } }],
          analyses: [{ key: `${id}:voice:${version}`, value }],
          chunks: Array.from({ length: (soundSeconds * 48_000) / chunkFrames }, (_, index) => ({ assetId: id, index, planes })),
        })
      }
      database.close()
    },
    { song, frames: FRAMES, soundSeconds: SOUND_SECONDS, chunkFrames: CHUNK_FRAMES, levelFrames: [...PEAK_LEVEL_FRAMES], version: VOICE_ANALYSIS_VERSION },
  )
}

/** Milliseconds from the click on a link until something is true and painted. */
async function timeOf(page: Page, ready: () => boolean, link: string): Promise<number> {
  return page.evaluate(
    async ([name, source]) => {
      const isReady = new Function(`return (${source!})()`) as () => boolean
      const anchor = [...document.querySelectorAll('a')].find(entry => entry.textContent === name)!
      const began = performance.now()
      anchor.click()
      while (!isReady()) await new Promise(resolve => requestAnimationFrame(resolve))
      await new Promise(resolve => requestAnimationFrame(() => setTimeout(resolve)))
      return performance.now() - began
    },
    [link, ready.toString()],
  )
}

interface Turn {
  turn: number
  deltaX: number
  deltaY: number
  ctrlKey: boolean
}

/** Frame times while the wheel turns for three seconds; `rowPixels` scrolls the list instead. */
async function reportFrames(page: Page, what: string, turnOf: (event: Turn) => Turn, rowPixels = 0): Promise<void> {
  const times = await page.evaluate(
    async ([source, pixels]) => {
      const makeTurn = new Function(`return (${source as string})`)() as (event: Turn) => Turn
      const target = document.querySelector('[data-row]')!
      const list = document.querySelector('[data-bench-rows]')!
      const box = target.getBoundingClientRect()
      const deltas: number[] = []
      let last = performance.now()
      for (let turn = 0; turn < 180; turn++) {
        const { deltaX, deltaY, ctrlKey } = makeTurn({ turn, deltaX: 0, deltaY: 0, ctrlKey: false })
        if (pixels) list.scrollTop += turn < 90 ? (pixels as number) : -(pixels as number)
        else
          target.dispatchEvent(
            new WheelEvent('wheel', { bubbles: true, cancelable: true, deltaX, deltaY, ctrlKey, clientX: box.left + box.width / 2, clientY: box.top + 20 }),
          )
        await new Promise(resolve => requestAnimationFrame(resolve))
        const now = performance.now()
        deltas.push(now - last)
        last = now
      }
      return deltas.slice(2).sort((a, b) => a - b)
    },
    [turnOf.toString(), rowPixels] as const,
  )
  console.log(
    `${what}: 95 % of frames within ${times[Math.floor(0.95 * times.length)]!.toFixed(1)} ms (median ${times[times.length >> 1]!.toFixed(1)}, longest ${times.at(-1)!.toFixed(1)})`,
  )
}

/** From the key to the painted pick. */
async function reportPicks(page: Page): Promise<void> {
  const times: number[] = []
  for (let run = 0; run < 9; run++) {
    await page.keyboard.press('ArrowDown')
    await page.waitForTimeout(400)
    times.push(
      await page.evaluate(async () => {
        const row = document.querySelector('[data-focused]')!
        const began = performance.now()
        document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'p', bubbles: true, cancelable: true }))
        while (row.getAttribute('aria-pressed') !== 'true' && performance.now() - began < 5_000) await new Promise(resolve => requestAnimationFrame(resolve))
        return performance.now() - began
      }),
    )
    await page.waitForTimeout(400)
  }
  times.sort((a, b) => a - b)
  console.log(`a pick: ${times[4]!.toFixed(0)} ms from the key until it is drawn (median of 9, most ${times[8]!.toFixed(0)} ms)`)
}

/** From the key to the other take's sound in the mix, while it plays: takes are loud and soft by turns. */
async function reportSwitches(page: Page): Promise<void> {
  await page.keyboard.press('e')
  await page.keyboard.press('l')
  await page.keyboard.press(' ')
  await page.waitForTimeout(2_000)
  const times: number[] = []
  for (let run = 0; run < 12; run++) {
    times.push(
      await page.evaluate(
        async ([place, key]) => {
          const { transport } = (globalThis as unknown as { worklets: Record<string, { transport: Float64Array }> }).worklets['plush-mix']!
          const level = () => transport[place as number]!
          const before = level() > 0.05
          const began = performance.now()
          document.body.dispatchEvent(new KeyboardEvent('keydown', { key: key as string, bubbles: true, cancelable: true }))
          // Rising is seen at once; the meter falls slowly, so that only switches to loud takes count.
          while (before ? false : level() < 0.05) {
            if (performance.now() - began > 2_000) return NaN
            await new Promise(resolve => setTimeout(resolve))
          }
          return before ? NaN : performance.now() - began
        },
        [TRANSPORT.peaks, run % 4 < 2 ? 'ArrowDown' : 'ArrowUp'] as const,
      ),
    )
    await page.waitForTimeout(1_500)
  }
  const counted = times.filter(time => time === time).sort((a, b) => a - b)
  console.log(
    `another take while playing: in the mix ${counted[counted.length >> 1]?.toFixed(0)} ms after the key (${counted.length} switches, most ${counted.at(-1)?.toFixed(0)} ms), and crossfaded over 8 ms`,
  )
}

async function heapMegabytes(session: CDPSession): Promise<number> {
  const {
    usedSize,
    embedderHeapUsedSize = 0,
    backingStorageSize = 0,
  } = (await session.send('Runtime.getHeapUsage')) as { usedSize: number; embedderHeapUsedSize?: number; backingStorageSize?: number }
  return (usedSize + embedderHeapUsedSize + backingStorageSize) / 1_048_576
}

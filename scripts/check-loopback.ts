/**
 * Checks the round trip on a real audio path: `LOOPBACK=folder npm run check:loopback`. The folder has `start.sh` (starts a virtual device whose
 * microphone hears its loudspeaker, and writes `$TMPDIR/loopback/env`), `delay.sh MILLISECONDS` (delays it by as much, unseen by the browser) and
 * `stop.sh`. By hand, not in CI: such a path is too restless to gate changes on.
 */
import { chromium, type Page } from '@playwright/test'
import { execFileSync, spawn } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { CHROMIUM } from '../e2e/chromium'
import { bestLag, room, startSong, storedSong, storedSound } from '../e2e/support'
import { mixToMono } from '../src/core/audio/frames'
import { makeDemoBeat } from '../src/core/rehearsal/demo-beat'
import { makeApp } from '../server/app'

const folder = process.env.LOOPBACK
if (!folder) {
  console.error('check:loopback: set LOOPBACK to a folder with start.sh, delay.sh and stop.sh (see the head of scripts/check-loopback.ts)')
  process.exit(1)
}
const run = (script: string, ...args: string[]) => execFileSync(join(folder, script), args, { stdio: ['ignore', 'ignore', 'inherit'] })
run('start.sh')
const environment = Object.fromEntries(
  readFileSync(join(process.env.TMPDIR ?? tmpdir(), 'loopback', 'env'), 'utf8')
    .replace(/^export /gm, '')
    .split(/\s+/)
    .filter(Boolean)
    .map(pair => pair.split(/=(.*)/s).slice(0, 2) as [string, string]),
)
// A room is never digitally silent; the app takes a microphone that is for a dead one.
const HISS_AMPLITUDE = 10
const hiss = spawn('pacat', ['--raw', '--format=s16le', '--rate=48000', '--channels=1'], {
  env: { ...process.env, ...environment },
  stdio: ['pipe', 'ignore', 'inherit'],
})
hiss.stdin.on('error', () => {})
Readable.from(
  (function* () {
    for (;;) yield Buffer.from(Int16Array.from({ length: 4_800 }, () => (Math.random() * 2 - 1) * HISS_AMPLITUDE).buffer)
  })(),
).pipe(hiss.stdin)
const server = makeApp().listen(0, '127.0.0.1')
await new Promise(resolve => server.once('listening', resolve))
const { port } = server.address() as { port: number }
const browser = await chromium.launch({
  ...CHROMIUM,
  args: CHROMIUM.args.filter(arg => arg !== '--use-fake-device-for-media-stream'),
  ignoreDefaultArgs: ['--mute-audio'],
  env: { ...(process.env as Record<string, string>), ...environment },
})
const page = await (
  await browser.newContext({ baseURL: `http://localhost:${port}`, viewport: { width: 1280, height: 800 }, permissions: ['microphone'] })
).newPage()
// What compiles this file names functions by a helper that the page does not have.
await page.addInitScript('globalThis.__name ??= f => f')
const beat = mixToMono(makeDemoBeat())
let failed = false
const report = (what: string, ok: boolean, detail: string) => {
  failed ||= !ok
  console.log(`${ok ? 'ok  ' : 'FAIL'} ${what}: ${detail}`)
}

/** Measures in the app until it is steady; the figure it then states, ms. */
async function measure(): Promise<number> {
  for (let attempt = 0; attempt < 4; attempt++) {
    await page
      .getByRole('button', { name: /^Measure( again)?$/ })
      .last()
      .click()
    await page.getByText('Listening to the sweeps').waitFor()
    await page.getByText('Listening to the sweeps').waitFor({ state: 'hidden', timeout: 10_000 })
    const text = await page.getByText(/Takes move/).textContent()
    const found = /move ([\d.]+) ms earlier, measured just now/.exec(text ?? '')
    if (found) return Number(found[1])
  }
  throw new Error('no steady measurement in four')
}

interface BeatInTake {
  offMilliseconds: number
  correlation: number
  said: string
}

/** Less than this, and the path itself gained or lost something inside the stretch: such a take says nothing of its place. */
const CLEAN_CORRELATION = 0.9
let takes = 0

/** A take over a path that was clean; recorded again where it was not. */
async function cleanTake(page: Page): Promise<BeatInTake> {
  for (let attempt = 1; ; attempt++) {
    const found = await beatInTake(page)
    if (found.correlation > CLEAN_CORRELATION || attempt === 4) return found
    console.log(`     the path was restless (correlation ${found.correlation.toFixed(3)}): once more`)
  }
}

/** Records two lines over the loop: the microphone hears the beat itself, so the take must lie on it. */
async function beatInTake(page: Page): Promise<BeatInTake> {
  takes++
  await page.getByText(/Will record/).waitFor()
  await page.keyboard.press('r')
  await page.getByText('Pass 1', { exact: true }).waitFor({ timeout: 30_000 })
  await page.waitForTimeout(9_000)
  await page.keyboard.press('r')
  await page
    .locator('[data-take]')
    .nth(takes - 1)
    .waitFor({ timeout: 20_000 })
  const place = await whereTheBeatLies(page)
  // The app hears the beat in the take as well, and says what it makes of it.
  const said = await page
    .locator('[data-take]')
    .first()
    .getByText(/The beat heard in it/)
    .textContent({ timeout: 30_000 })
    .catch(() => 'the app says nothing of the beat in it')
  return { ...place, said: said ?? '' }
}

/** In the newest take, against where it should. */
async function whereTheBeatLies(page: Page): Promise<{ offMilliseconds: number; correlation: number }> {
  const take = (await storedSong(page)).takes.at(-1)!
  const sound = await storedSound(page, take.assetId)
  const from = take.startFrame + 3 * 48_000
  const { lag, correlation } = bestLag(
    beat.subarray(from, from + 96_000),
    sound.subarray(from - take.originFrame - 4_800, from - take.originFrame + 96_000 + 4_800),
    9_600,
  )
  return { offMilliseconds: (lag - 4_800) / 48, correlation }
}

try {
  await startSong(page)
  await room(page, 'Booth')
  await page.getByRole('button', { name: 'Open a microphone' }).first().click()
  await page.getByRole('button', { name: /^Verse 1 bars/ }).click()
  const stated = /move ([\d.]+) ms/.exec((await page.getByText(/Takes move/).textContent()) ?? '')?.[1]
  // A take by the browser's own figures, put in its place once the round trip is measured.
  const estimated = await beatInTake(page)
  report('a take by the browser’s figures', true, `${estimated.offMilliseconds.toFixed(1)} ms off. ${estimated.said}`)
  const first = await measure()
  // Where the beat in the take is heard, the take goes by that: whole buffers may have been gained or lost since it was sung.
  const offer = page.getByRole('button', { name: /^Place it by (that|the measurement)$/ })
  if (await offer.isVisible()) await offer.click()
  await page.waitForTimeout(700)
  const placed = await whereTheBeatLies(page)
  report('the same take after the measurement', Math.abs(placed.offMilliseconds) < 1, `${placed.offMilliseconds.toFixed(2)} ms off`)
  // The clicks themselves are heard, as the steadiest hands there are.
  await page.getByRole('button', { name: 'Clap check' }).click()
  const claps = await page.getByText(/of 8 claps/).textContent({ timeout: 30_000 })
  report('clap check', claps?.includes('On time.') === true, claps ?? '')
  report('measured', true, `${first} ms (the browser said ${stated} ms)`)
  // The first delay moves the stream to another device, which has delays of its own: what is added is counted from there.
  let base = 0
  for (const [turn, delay] of [10, 50, 130].entries()) {
    run('delay.sh', String(delay))
    await page.waitForTimeout(1_000)
    const measured = await measure()
    if (turn === 0) base = measured
    const added = delay - 10
    // Whole buffers that the path gains or loses meanwhile are measured as well; what counts is that the take lies on the beat.
    report(`with ${added} ms added`, measured - base > added - 25, `measured ${measured} ms, ${(measured - base).toFixed(1)} more`)
    const { offMilliseconds, correlation, said } = await cleanTake(page)
    report(
      `a take with ${added} ms added lies on the beat`,
      Math.abs(offMilliseconds) < 1 && correlation > CLEAN_CORRELATION,
      `${offMilliseconds.toFixed(2)} ms off, correlation ${correlation.toFixed(3)}. ${said}`,
    )
  }
  run('delay.sh', '0')
  await page.getByRole('button', { name: 'Microphone open' }).click()
  await page
    .getByText(/estimated from last time/)
    .first()
    .waitFor({ timeout: 10_000 })
  report('the microphone opened anew', true, 'what was measured before counts as remembered only')
  const again = await measure()
  report('measured at the new opening', true, `${again} ms, ${(again - first).toFixed(1)} ms from the first opening`)
} finally {
  await browser.close()
  server.close()
  hiss.kill()
  run('stop.sh')
}
process.exitCode = failed ? 1 : 0

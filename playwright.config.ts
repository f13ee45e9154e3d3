import { defineConfig } from '@playwright/test'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { CHROMIUM } from './e2e/chromium'

/** The built app as people get it, and the development server, from which engine modules can be imported one by one. */
export const BUILT_PORT = 4610
export const DEVELOPMENT_PORT = 4611
export const VIEWPORT = { width: 1280, height: 800 }

/** What is measured there is real time: nothing runs beside it. */
const IN_REAL_TIME = ['one-engine.spec.ts', 'microphone-story.spec.ts', 'suspended.spec.ts']

/** Where e2e/prepared.ts keeps its songs; this file is read once by the run itself, and again by each worker. */
if (!process.env.PREPARED_SONGS) {
  const folder = mkdtempSync(join(tmpdir(), 'plush-prepared-'))
  process.env.PREPARED_SONGS = folder
  process.on('exit', () => rmSync(folder, { recursive: true, force: true }))
}

export default defineConfig({
  testDir: 'e2e',
  // The machine may be busy with other things: ten times as slow was seen for minutes.
  timeout: 300_000,
  expect: { timeout: 60_000 },
  // Most tests wait for the song to be sung: two at a time, a file each. `npm run e2e` runs the one project after the other.
  workers: 2,
  fullyParallel: false,
  projects: [
    { name: 'in-real-time', testMatch: IN_REAL_TIME, workers: 1 },
    { name: 'side-by-side', testIgnore: IN_REAL_TIME },
  ],
  retries: process.env.CI ? 2 : 0,
  reporter: [['list']],
  // What the app keeps for working offline is some megabytes, which only its own test needs to fetch.
  use: { baseURL: `http://localhost:${BUILT_PORT}`, viewport: VIEWPORT, launchOptions: CHROMIUM, acceptDownloads: true, serviceWorkers: 'block' },
  webServer: [
    { command: 'npx tsx server/main.ts', port: BUILT_PORT, env: { PORT: String(BUILT_PORT) }, reuseExistingServer: false },
    { command: `npx vite --port ${DEVELOPMENT_PORT}`, port: DEVELOPMENT_PORT, reuseExistingServer: false },
  ],
})

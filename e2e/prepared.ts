/**
 * Pages of a browser that has a song already. A singer's first steps (dropping a beat, hearing it, laying words; opening the demo song,
 * listening to its takes) take most of a test's time: they are gone once, and each test begins with a copy of that browser's storage.
 */
import { chromium, expect, test as base, type BrowserContext, type Page } from '@playwright/test'
import { cpSync, existsSync, mkdirSync, mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { BUILT_PORT, VIEWPORT } from '../playwright.config'
import { listened, openDemo, startSong } from './support'

type Prepared = 'song' | 'demo'

const STEPS: Record<Prepared, (page: Page) => Promise<unknown>> = {
  song: page => startSong(page),
  demo: async page => {
    await openDemo(page)
    await page.getByText('listening …').first().waitFor()
    await listened(page)
  },
}
/** Every worker of a run begins with the same ones: the one that needs one first makes it, and the others wait for it. */
const shared = process.env.PREPARED_SONGS!
const MOST_PREPARING_MILLISECONDS = 300_000
const folderFor = (what: string) => mkdtempSync(join(tmpdir(), `plush-${what}-`))
const addresses = new WeakMap<BrowserContext, string>()

/** @returns whether this worker is the first. */
function begins(folder: string): boolean {
  try {
    mkdirSync(folder)
    return true
  } catch {
    return false
  }
}

async function whenThere(file: string): Promise<string> {
  for (const end = Date.now() + MOST_PREPARING_MILLISECONDS; Date.now() < end;) {
    if (existsSync(file)) return readFileSync(file, 'utf8')
    await new Promise(resolve => setTimeout(resolve, 250))
  }
  throw new Error(`${file} was not made by the worker that began to`)
}

/** Opens the prepared song in the room where its preparation ended: the new song in Beat, the demo song in Comp. */
export async function openPrepared(page: Page): Promise<void> {
  await page.goto(addresses.get(page.context())!)
  await expect(page.locator('[data-line]').first()).toBeVisible()
  // As after its preparation: a song that is opened again begins at its first line.
  if (page.url().endsWith('/beat')) await page.getByRole('button', { name: 'Whole song' }).click()
}

interface Stored {
  folder: string
  /** Where the song is. */
  address: string
}

export const test = base.extend<{ prepared: Prepared | null }, { stored: (what: Prepared) => Promise<Stored> }>({
  prepared: [null, { option: true }],
  stored: [
    async ({ launchOptions }, give) => {
      const made = new Map<Prepared, Promise<Stored>>()
      const make = async (what: Prepared): Promise<Stored> => {
        const folder = join(shared, what)
        const ready = `${folder}.json`
        if (!begins(folder)) return JSON.parse(await whenThere(ready)) as Stored
        const context = await chromium.launchPersistentContext(folder, { ...launchOptions, viewport: VIEWPORT, baseURL: `http://localhost:${BUILT_PORT}` })
        try {
          const page = context.pages()[0]!
          await STEPS[what](page)
          await page.getByText(/^All kept/).waitFor()
          const stored = { folder, address: new URL(page.url()).pathname }
          await context.close()
          writeFileSync(`${ready}.part`, JSON.stringify(stored))
          renameSync(`${ready}.part`, ready)
          return stored
        } catch (error) {
          await context.close()
          // The next worker tries again.
          rmSync(folder, { recursive: true, force: true })
          throw error
        }
      }
      await give(what => {
        const stored = made.get(what) ?? make(what)
        made.set(what, stored)
        return stored
      })
    },
    { scope: 'worker', timeout: MOST_PREPARING_MILLISECONDS },
  ],
  context: async ({ prepared, stored, context, contextOptions, launchOptions, baseURL }, give) => {
    if (!prepared) return give(context)
    const folder = folderFor('profile')
    const { folder: from, address } = await stored(prepared)
    cpSync(from, folder, { recursive: true })
    const own = await chromium.launchPersistentContext(folder, { ...contextOptions, ...launchOptions, viewport: VIEWPORT, baseURL: baseURL! })
    addresses.set(own, address)
    await give(own)
    await own.close()
    rmSync(folder, { recursive: true, force: true })
  },
  page: async ({ context }, give) => give(context.pages()[0] ?? (await context.newPage())),
})

export { expect }

/**
 * Pages of a browser that has a song already. A singer's first steps (dropping a beat, hearing it, laying words; opening the demo song,
 * listening to its takes) take most of a test's time: they are gone once, and each test begins with a copy of that browser's storage.
 */
import { chromium, expect, test as base, type BrowserContext, type Page } from '@playwright/test'
import { cpSync, mkdtempSync, rmSync } from 'node:fs'
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
const folderFor = (what: string) => mkdtempSync(join(tmpdir(), `plush-${what}-`))
const addresses = new WeakMap<BrowserContext, string>()

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
        const folder = folderFor(what)
        const context = await chromium.launchPersistentContext(folder, { ...launchOptions, viewport: VIEWPORT, baseURL: `http://localhost:${BUILT_PORT}` })
        const page = context.pages()[0]!
        await STEPS[what](page)
        await page.getByText(/^All kept/).waitFor()
        const { pathname } = new URL(page.url())
        await context.close()
        return { folder, address: pathname }
      }
      await give(what => {
        const stored = made.get(what) ?? make(what)
        made.set(what, stored)
        return stored
      })
      for (const stored of made.values()) rmSync((await stored).folder, { recursive: true, force: true })
    },
    { scope: 'worker', timeout: 180_000 },
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

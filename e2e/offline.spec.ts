/** Without its server: the app starts, a song opens, plays, is changed and delivered; a newer release is offered, and not in mid-take. */
import { chromium, expect, test, type BrowserContext, type Page } from '@playwright/test'
import { readFileSync } from 'node:fs'
import { mkdtemp, rm } from 'node:fs/promises'
import { createServer, type Server } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { makeApp } from '../server/app'
import { ISOLATION_HEADERS } from '../server/headers'
import { BUILT_PATH } from '../server/places'
import { VIEWPORT } from '../playwright.config'
import { CHROMIUM } from './chromium'
import { openDemo, openWav, position, room } from './support'

const PORT = 4621
const ADDRESS = `http://localhost:${PORT}`

/** The real server; `release` is a mark in what the browser looks at to find out whether there is a newer one. */
async function serve(release: { mark: string }): Promise<Server> {
  const app = makeApp()
  const server = createServer((request, response) => {
    if (request.url !== '/sw.js') return app(request, response)
    for (const [name, value] of Object.entries({ ...ISOLATION_HEADERS, 'Content-Type': 'text/javascript' })) response.setHeader(name, value)
    response.end(`${readFileSync(`${BUILT_PATH}sw.js`, 'utf8')}\n// ${release.mark}`)
  })
  await new Promise<void>(resolve => server.listen(PORT, resolve))
  return server
}

async function stop(server: Server): Promise<void> {
  server.closeAllConnections()
  await new Promise(resolve => server.close(resolve))
}

async function withProfile(work: (open: () => Promise<{ context: BrowserContext; page: Page }>) => Promise<void>): Promise<void> {
  const profile = await mkdtemp(join(tmpdir(), 'offline-'))
  const open = async () => {
    const context = await chromium.launchPersistentContext(profile, {
      ...CHROMIUM,
      viewport: VIEWPORT,
      acceptDownloads: true,
      serviceWorkers: 'allow',
      baseURL: ADDRESS,
    })
    return { context, page: context.pages()[0]! }
  }
  try {
    await work(open)
  } finally {
    await rm(profile, { recursive: true, force: true })
  }
}

const isKept = (page: Page) =>
  page.evaluate(async () => {
    const { active } = await navigator.serviceWorker.ready
    return active?.state
  })

test('the server stopped and the browser restarted in mid-song: it opens, plays, is changed and delivered all the same', async () => {
  const server = await serve({ mark: 'one' })
  await withProfile(async open => {
    const first = await open()
    await openDemo(first.page)
    await expect.poll(() => isKept(first.page), { timeout: 120_000 }).toBe('activated')
    await room(first.page, 'Mix')
    await expect(first.page.getByText(/^All kept/)).toBeVisible()
    const address = first.page.url()
    await stop(server)
    await first.context.close()

    const { context, page } = await open()
    const asked: string[] = []
    page.on('pageerror', error => asked.push(error.message))
    await page.goto(address)
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    expect(await page.evaluate(() => crossOriginIsolated)).toBe(true)
    await page.keyboard.press('Space')
    const begun = await position(page)
    await expect.poll(() => position(page), { timeout: 60_000 }).toBeGreaterThan(begun + 2)
    await page.keyboard.press('Space')
    for (const name of ['Beat', 'Booth', 'Comp', 'Stack', 'Tidy']) {
      await room(page, name)
      await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    }
    await page.getByRole('textbox', { name: 'Song title' }).fill('Night boat')
    await page.keyboard.press('Enter')
    await room(page, 'Deliver')
    for (const name of ['Final mix', 'Vocals alone']) await page.getByRole('button', { name, exact: true }).click()
    await page.getByRole('button', { name: 'bars', exact: true }).click()
    await page.getByRole('textbox', { name: 'To bar' }).fill('2')
    await page.keyboard.press('Enter')
    await page.getByRole('button', { name: 'Render beat alone' }).click()
    const link = page.locator('[data-delivery="Night boat - beat.wav"]').getByRole('link', { name: 'Save' })
    await expect(link).toBeVisible({ timeout: 120_000 })
    const [download] = await Promise.all([page.waitForEvent('download'), link.click()])
    expect((await openWav(download)).planes[0]!.length).toBe(Math.round((2 * 4 * 60 * 48_000) / 92.6))
    // An encoder is fetched only when it is asked for: it is there too.
    await page.getByRole('button', { name: 'MP3', exact: true }).click()
    await page.getByRole('button', { name: 'Render beat alone' }).click()
    await expect(page.locator('[data-delivery="Night boat - beat.mp3"]').getByRole('link', { name: 'Save' })).toBeVisible({ timeout: 120_000 })
    await page.goto('/')
    await expect(page.getByRole('article', { name: 'Night boat' })).toBeVisible()
    // The demo song is not among what is kept: that is said.
    await page.getByRole('button', { name: 'Open the demo song' }).first().click()
    await expect(page.getByText(/server gives no answer/)).toBeVisible()
    expect(asked).toEqual([])
    await context.close()
  })
})

test('a newer release is offered when nothing is recorded, waits while another tab is open, and is taken when the singer says so', async () => {
  const release = { mark: 'one' }
  const server = await serve(release)
  await withProfile(async open => {
    const { context, page } = await open()
    await page.goto('/')
    await expect.poll(() => isKept(page), { timeout: 120_000 }).toBe('activated')
    await page.reload()
    await expect.poll(() => page.evaluate(() => navigator.serviceWorker.controller !== null)).toBe(true)
    await expect(page.getByText('A newer release')).toHaveCount(0)
    release.mark = 'two'
    await page.reload()
    await expect(page.getByText('A newer release of Plush Layer is here.')).toBeVisible({ timeout: 120_000 })
    const other = await context.newPage()
    await other.goto('/')
    await expect(other.getByRole('heading', { level: 1 })).toBeVisible()
    await page.waitForTimeout(1_000)
    await page.getByRole('button', { name: 'Take it now' }).click()
    await expect(page.getByText('Close its other tabs first')).toBeVisible()
    await other.close()
    await expect
      .poll(async () => {
        const reloaded = page.waitForEvent('load', { timeout: 5_000 }).catch(() => null)
        const button = page.getByRole('button', { name: 'Take it now' })
        if (await button.isVisible()) await button.click()
        return (await reloaded) !== null
      })
      .toBe(true)
    await expect(page.getByText('A newer release')).toHaveCount(0)
    await context.close()
  })
  await stop(server)
})

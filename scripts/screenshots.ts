/** Makes the pictures in docs/screenshots from the demo song: `npm run screenshots`. */
import { chromium } from '@playwright/test'
import { makeApp } from '../server/app'
import { CHROMIUM } from '../e2e/chromium'

const FOLDER = 'docs/screenshots'
const server = makeApp().listen(0, '127.0.0.1')
await new Promise(resolve => server.once('listening', resolve))
const { port } = server.address() as { port: number }
const browser = await chromium.launch(CHROMIUM)
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme: 'light', reducedMotion: 'reduce' })).newPage()
const shoot = async (name: string) => {
  await page.mouse.move(640, 790)
  await page.waitForTimeout(600)
  await page.screenshot({ path: `${FOLDER}/${name}.png` })
}
const room = (name: string) => page.getByRole('link', { name, exact: true }).click()

await page.goto(`http://localhost:${port}/`)
await page.getByRole('button', { name: 'Open the demo song' }).first().click()
await page.getByRole('heading', { level: 1, name: 'Harbour radio hums in the rain' }).waitFor({ timeout: 90_000 })
await page.getByRole('button', { name: /^and the last lamp swings on the quay/ }).first().click()
await room('Comp')
await shoot('comp')
await room('Beat')
await page.getByText(/Heard:/).first().waitFor({ timeout: 60_000 })
await shoot('beat')
await room('Booth')
await page.getByRole('button', { name: 'Practice singer' }).click()
await page.getByText(/Will record/).waitFor()
await shoot('booth')
await room('Stack')
await shoot('stack')
await room('Mix')
await shoot('mix')
await room('Deliver')
await page.getByRole('button', { name: 'Final mix' }).click()
await page.getByRole('button', { name: 'Beat alone' }).click()
await page.getByRole('button', { name: 'Render vocals alone' }).click()
await page.getByRole('link', { name: 'Save' }).waitFor({ timeout: 120_000 })
await shoot('deliver')
await page.getByRole('button', { name: 'Night' }).click()
await room('Comp')
await shoot('comp-night')
await room('Booth')
await shoot('booth-night')
await page.getByRole('link', { name: 'Shelf: all songs' }).click()
await page.getByRole('button', { name: 'Day' }).click()
await shoot('shelf')
await browser.close()
server.close()

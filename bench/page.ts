/** How long the page takes until it can be used, in Chromium. */
import { chromium } from '@playwright/test'
import { CHROMIUM } from '../e2e/chromium'
import { serve } from './serve'

export async function measurePage(): Promise<void> {
  const { port, close } = await serve()
  const browser = await chromium.launch(CHROMIUM)
  const times: { paint: number; usable: number }[] = []
  for (let run = 0; run < 3; run++) {
    const context = await browser.newContext()
    const page = await context.newPage()
    await page.goto(`http://localhost:${port}/`)
    await page.getByRole('button', { name: 'Open the demo song' }).first().click({ trial: true })
    times.push(await page.evaluate(() => ({ paint: performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? 0, usable: performance.now() })))
    await context.close()
  }
  times.sort((a, b) => a.usable - b.usable)
  const { paint, usable } = times[1]!
  console.log(`first paint at ${paint.toFixed(0)} ms, usable at ${usable.toFixed(0)} ms after the address was entered (median of 3)`)
  await browser.close()
  close()
}

/** The built page as the server sends it: what the browser makes of its headers. */
import { expect, test } from '@playwright/test'

test('the page is isolated, and the policy is not only sent but kept: an inline script does not run', async ({ page }) => {
  await page.goto('/')
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true)
  const ran = await page.evaluate(() => {
    const script = document.createElement('script')
    script.textContent = 'window.intruder = true'
    document.body.append(script)
    return 'intruder' in window
  })
  expect(ran).toBe(false)
})

/** The machine pauses the sound: what was sung until then is kept, and said. */
import { expect, test } from '@playwright/test'
import { DEVELOPMENT_PORT } from '../playwright.config'
import type * as Live from '../src/app/song/live'
import { room, startSong } from './support'

test('the machine pauses the sound in the middle of a take: it ends there, says so, and the round trip is asked for again', async ({ page }) => {
  await page.goto(`http://localhost:${DEVELOPMENT_PORT}/`)
  await startSong(page, page.url())
  await room(page, 'Booth')
  await page.getByRole('button', { name: 'Practice singer' }).click()
  await page.getByRole('button', { name: 'Hold a cup to the microphone' }).click()
  await page.getByRole('button', { name: 'Measure', exact: true }).click()
  await expect(page.getByText(/measured just now, ±/)).toBeVisible()
  await page.getByRole('button', { name: 'Whole song' }).click()
  await page.keyboard.press('r')
  await expect(page.getByText('Pass 1', { exact: true })).toBeVisible({ timeout: 60_000 })
  await page.waitForTimeout(2_500)
  await page.evaluate(async () => {
    const path = '/src/app/song/live.ts'
    const { useLive } = (await import(/* @vite-ignore */ path)) as typeof Live
    const { context } = useLive.getState().engine!
    await context.suspend()
    await new Promise(resolve => setTimeout(resolve, 1_500))
    await context.resume()
  })
  await expect(page.getByText('The machine paused the sound: recording stopped.')).toBeVisible()
  await expect(page.locator('[data-take]')).toHaveCount(1, { timeout: 20_000 })
  await expect(page.locator('[data-take]')).toContainText('ends where the sound was paused')
  await expect(page.getByText(/measured just now, ±/)).toBeHidden()
})

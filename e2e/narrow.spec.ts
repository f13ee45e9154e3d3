/** A window as narrow as a phone's: the sheet or a room, never both; it plays, is read, and takes notes. */
import { violations } from './access'
import { expect, openPrepared, test } from './prepared'
import { position, room, storedSong } from './support'

test.use({ prepared: 'demo', contextOptions: { reducedMotion: 'reduce' } })

test('in a window of a phone’s width the sheet is read, a line played, and a note taken; nothing is wider than the window', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  await openPrepared(page)
  const sheet = page.getByRole('complementary', { name: 'Song sheet' })
  const fits = () => page.evaluate(() => document.documentElement.scrollWidth <= innerWidth && document.querySelector('main')!.scrollWidth <= innerWidth)
  await expect(sheet).toBeVisible()
  await expect(page.getByRole('main')).toBeHidden()
  await page.getByRole('button', { name: /^nobody left to ask/ }).click()
  const before = await position(page)
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await expect.poll(() => position(page)).toBeGreaterThan(before)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  expect(await violations(page)).toEqual([])

  for (const name of ['Booth', 'Stack', 'Tidy', 'Mix', 'Deliver', 'Beat', 'Comp']) {
    await room(page, name)
    await expect(page.getByRole('main')).toBeVisible()
    await expect(sheet).toBeHidden()
    await expect.poll(fits, name).toBe(true)
  }
  expect(await violations(page)).toEqual([])
  await page.keyboard.press('m')
  await page.getByLabel('What is wrong').fill('flat on “ask”')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Sheet', exact: true }).click()
  await page.getByText('Sing again (1)').click()
  await expect(sheet.getByText('Lead: flat on “ask”')).toBeVisible()
  const [mark] = (await storedSong(page)).layers[0]!.singAgain
  expect(mark!.note).toBe('flat on “ask”')

  // Whatever leads to a room shows it.
  await page.getByRole('button', { name: 'Record in the Booth' }).click()
  await expect(page.getByRole('main')).toBeVisible()
  await expect(sheet).toBeHidden()
  await page.getByRole('button', { name: 'Sheet', exact: true }).click()
  await expect(sheet).toBeVisible()

  // In a wider window both are there again.
  await page.setViewportSize({ width: 1280, height: 800 })
  await expect(sheet).toBeVisible()
  await expect(page.getByRole('main')).toBeVisible()
})

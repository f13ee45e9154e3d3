/** Every room by day and by night: no accessibility violation that axe can find. */
import { expect, test } from '@playwright/test'
import { violations } from './access'
import { openDemo, room } from './support'

test.use({ contextOptions: { reducedMotion: 'reduce' } })

test('the Shelf and every room, in both themes', async ({ page }) => {
  await page.goto('/')
  expect(await violations(page)).toEqual([])
  await openDemo(page)
  for (const theme of ['Night', 'Day']) {
    for (const name of ['Beat', 'Booth', 'Comp', 'Stack', 'Mix', 'Deliver']) {
      await room(page, name)
      expect.soft(await violations(page), `${name}, before ${theme}`).toEqual([])
    }
    await page.getByRole('button', { name: theme, exact: true }).click()
  }
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog')).toBeVisible()
  expect(await violations(page)).toEqual([])
})

/** Every room by day and by night: no accessibility violation that axe can find. */
import { violations } from './access'
import { expect, openPrepared, test } from './prepared'
import { room } from './support'

test.use({ prepared: 'demo', contextOptions: { reducedMotion: 'reduce' } })

test('the Shelf and every room, in both themes', async ({ page }) => {
  await page.goto('/')
  expect(await violations(page)).toEqual([])
  await openPrepared(page)
  for (const theme of ['Night', 'Day']) {
    for (const name of ['Beat', 'Booth', 'Comp', 'Stack', 'Tidy', 'Mix', 'Deliver']) {
      await room(page, name)
      expect.soft(await violations(page, theme === 'Night' ? 'all' : 'colours'), `${name}, before ${theme}`).toEqual([])
    }
    await page.getByRole('button', { name: theme, exact: true }).click()
  }
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog')).toBeVisible()
  expect(await violations(page)).toEqual([])
})

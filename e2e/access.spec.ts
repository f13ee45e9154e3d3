/** Every room by day and by night: no accessibility violation that axe can find. */
import AxeBuilder from '@axe-core/playwright'
import { expect, test, type Page } from '@playwright/test'
import { openDemo, room } from './support'

test.use({ contextOptions: { reducedMotion: 'reduce' } })

async function violations(page: Page): Promise<string[]> {
  // Colours are judged at rest, not in the middle of a fade: none under way in two looks a quarter second apart.
  for (let still = 0; still < 2; ) {
    await page.waitForTimeout(250)
    const moving = await page.evaluate(() => document.getAnimations().filter(animation => animation.playState === 'running' && animation.effect?.getComputedTiming().iterations !== Infinity).length)
    still = moving === 0 ? still + 1 : 0
  }
  const { violations: found } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']).analyze()
  return found.flatMap(violation => violation.nodes.map(node => `${violation.id}: ${node.target.join(' ')} ${node.failureSummary?.split('\n')[1] ?? ''}`))
}

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

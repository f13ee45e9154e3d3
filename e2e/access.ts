/** What axe finds on a page, by the rules of WCAG 2.2 AA. */
import AxeBuilder from '@axe-core/playwright'
import type { Page } from '@playwright/test'

/** @param rules All of them, or where a page that was judged has only changed its colours, that of contrast alone. */
export async function violations(page: Page, rules: 'all' | 'colours' = 'all'): Promise<string[]> {
  // Colours are judged at rest, not in the middle of a fade: none under way in two looks a quarter second apart.
  for (let still = 0; still < 2;) {
    await page.waitForTimeout(250)
    const moving = await page.evaluate(
      () =>
        document.getAnimations().filter(animation => animation.playState === 'running' && animation.effect?.getComputedTiming().iterations !== Infinity).length,
    )
    still = moving === 0 ? still + 1 : 0
  }
  const axe = new AxeBuilder({ page })
  const { violations: found } = await (
    rules === 'all' ? axe.withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']) : axe.withRules('color-contrast')
  ).analyze()
  return found.flatMap(violation => violation.nodes.map(node => `${violation.id}: ${node.target.join(' ')} ${node.failureSummary?.split('\n')[1] ?? ''}`))
}

/** What axe finds on a page, by the rules of WCAG 2.2 AA. */
import AxeBuilder from '@axe-core/playwright'
import type { Page } from '@playwright/test'

export async function violations(page: Page): Promise<string[]> {
  // Colours are judged at rest, not in the middle of a fade: none under way in two looks a quarter second apart.
  for (let still = 0; still < 2;) {
    await page.waitForTimeout(250)
    const moving = await page.evaluate(
      () =>
        document.getAnimations().filter(animation => animation.playState === 'running' && animation.effect?.getComputedTiming().iterations !== Infinity).length,
    )
    still = moving === 0 ? still + 1 : 0
  }
  const { violations: found } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']).analyze()
  return found.flatMap(violation => violation.nodes.map(node => `${violation.id}: ${node.target.join(' ')} ${node.failureSummary?.split('\n')[1] ?? ''}`))
}

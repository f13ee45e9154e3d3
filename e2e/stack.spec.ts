/** Stack: a double follows the lead, line by line; measured in the files that come out. */
import type { Page } from '@playwright/test'
import { findAnchors } from '../src/core/align/follow'
import { requirePlacedLine } from '../src/core/song/select'
import { violations } from './access'
import { expect, openPrepared, test } from './prepared'
import { openWav, room, storedSong } from './support'

test.use({ prepared: 'demo' })

/** What a layer plays, with what is laid over it and nothing of the mix. */
async function saveComp(page: Page, layer: string): Promise<Float32Array<ArrayBuffer>> {
  await room(page, 'Comp')
  await page.getByRole('combobox', { name: 'Layer', exact: true }).selectOption({ label: layer })
  await page.getByRole('button', { name: 'Comps', exact: true }).click()
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save as WAV' }).click()])
  await page.getByRole('button', { name: 'Comps', exact: true }).click()
  return Float32Array.from((await openWav(download)).planes[0]!)
}

test('a double is brought to the lead, one line stays as sung, a line that is late as a whole is moved, and undo gives all back', async ({ page }) => {
  test.setTimeout(240_000)
  await openPrepared(page)
  await page
    .getByRole('button', { name: /^Hook 1/ })
    .first()
    .click()
  const [lead, asSung] = [await saveComp(page, 'Lead'), await saveComp(page, 'Double left')]
  await room(page, 'Stack')
  await page.getByRole('combobox', { name: 'Layer', exact: true }).selectOption({ label: 'Double left' })
  await page.getByRole('button', { name: 'tightly', exact: true }).click()
  const rows = page.getByRole('list', { name: 'Lines that follow the lead' }).getByRole('listitem')
  await expect(rows).toHaveCount(4)
  await expect(rows.getByText(/ms off as sung, 0 so$/)).toHaveCount(4, { timeout: 60_000 })
  await rows
    .nth(1)
    .getByRole('button', { name: /follows the lead$/ })
    .click()
  await expect(rows.nth(1).getByText('as sung', { exact: true })).toBeVisible()
  expect(await violations(page)).toEqual([])

  const song = await storedSong(page)
  const lines = song.sections.find(({ name }) => name === 'Hook 1')!.lines.map(({ id }) => requirePlacedLine(song, id))
  const off = (sound: Float32Array<ArrayBuffer>, line: number) => {
    const [from, to] = [lines[line]!.startFrame, lines[line]!.endFrame]
    const all = findAnchors(lead.slice(from, to), sound.slice(from, to)).map(anchor => 1_000 * Math.abs(anchor.otherSeconds - anchor.leadSeconds))
    return all.sort((a, b) => a - b)[all.length >> 1]!
  }
  const together = await saveComp(page, 'Double left')
  for (const line of [0, 2, 3]) {
    expect(off(asSung, line)).toBeGreaterThan(6)
    expect(off(together, line)).toBeLessThan(4)
  }
  const inside = [lines[1]!.startFrame + 30_000, lines[1]!.endFrame - 60_000] as const
  expect(together.slice(...inside)).toEqual(asSung.slice(...inside))

  // The third line is late as a whole: the plain move stretches nothing, and what is left is found anew.
  await room(page, 'Stack')
  await rows
    .nth(2)
    .getByRole('button', { name: /^Move it/ })
    .click()
  await expect(rows.nth(2).getByRole('button', { name: /^Move it/ })).toHaveCount(0)
  await expect(rows.nth(2).getByText(/ms off as sung, 0 so$/)).toBeVisible({ timeout: 60_000 })

  // Step by step back: the move, the line, the tightness.
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'as sung', exact: true })).toHaveAttribute('aria-pressed', 'true')
  expect(await saveComp(page, 'Double left')).toEqual(asSung)
})

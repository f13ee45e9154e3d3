/** A first mix is listened for, taken, and measured in the files: each line of the lead stands where it was meant to over the beat. */
import { voiceBandLufs } from '../src/core/propose/mix-facts'
import { integratedLufs } from '../src/core/loudness/loudness'
import { currentComp, overlapFrames, placedLines } from '../src/core/song/select'
import type { Planar } from '../src/core/audio/frames'
import { violations } from './access'
import { expect, openPrepared, test } from './prepared'
import { renderEachLayer, room, saveDelivery, storedSong } from './support'

test.use({ prepared: 'demo' })

test('proposals with their reasons, one taken by itself, then all in one step; the lead’s lines then lie over the beat as asked; one undo takes all back', async ({
  page,
}) => {
  test.setTimeout(420_000)
  await openPrepared(page)
  await room(page, 'Mix')
  await page.getByRole('button', { name: 'First mix' }).click()
  await page.getByRole('textbox', { name: 'How far the lead stands over the beat in LU' }).fill('4')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Listen and propose' }).click()
  const list = page.getByRole('list', { name: 'Proposals of a first mix' })
  await expect(list.getByText(/its lines then stand 4\.0 LU over the beat/)).toBeVisible({ timeout: 180_000 })
  const before = await storedSong(page)
  expect(await violations(page)).toEqual([])

  await list.getByRole('button', { name: /^Take: Lead: low cut at/ }).click()
  await expect(list.getByRole('listitem').filter({ hasText: 'Lead: low cut at' }).getByText('taken', { exact: true })).toBeVisible()
  const one = await storedSong(page)
  expect(one.layers[0]!.recipe.steps.map(({ kind }) => kind)).toEqual(['low-cut'])
  expect({ ...one.layers[0]!, recipe: null }).toEqual({ ...before.layers[0]!, recipe: null })
  await page.getByRole('button', { name: /^Take all \d+$/ }).click()
  await expect(page.getByText('All of it is taken.')).toBeVisible()

  await renderEachLayer(page)
  const [lead, beat] = [(await saveDelivery(page, 'Lead')).planes, (await saveDelivery(page, 'beat')).planes]
  const song = await storedSong(page)
  const { picks } = currentComp(song.layers[0]!)
  const sung = placedLines(song).filter(line => picks.some(pick => overlapFrames(pick, line) > 0.5 * (line.endFrame - line.startFrame)))
  const cut = (planes: Planar, { startFrame, endFrame }: { startFrame: number; endFrame: number }) =>
    planes.map(plane => Float32Array.from(plane.subarray(startFrame, endFrame)))
  const overs = sung.map(line => integratedLufs(cut(lead, line)) - voiceBandLufs(cut(beat, line)))
  expect(overs.length).toBeGreaterThan(8)
  expect(overs.filter(over => Math.abs(over - 4) <= 1.5).length / overs.length).toBeGreaterThanOrEqual(0.9)

  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await storedSong(page)).layers).toEqual(one.layers)
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await storedSong(page)).layers).toEqual(before.layers)
})

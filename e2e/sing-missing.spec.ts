/** The plan of a stack is sung through from the quilt: two thirds and an octave to their guides, by keys; a made sixth gives way to a sung one; places and pitches are measured in the stems. */
import type { Page } from '@playwright/test'
import { trackPitch } from '../src/core/voice/pitch'
import { centsOf } from '../src/core/voice/notes'
import { requirePlacedLine } from '../src/core/song/select'
import { violations } from './access'
import { expect, openPrepared, test } from './prepared'
import { renderEachLayer, room, saveDelivery, stackSheet, storedSong } from './support'

test.use({ prepared: 'song' })

const LINE = 'Harbour radio hums in the rain'

/** One pass of what is selected, until it is a take. */
async function singOnce(page: Page, takes: number): Promise<void> {
  await expect(page.getByRole('button', { name: 'Record', exact: true })).toBeEnabled()
  await page.keyboard.press('r')
  await expect(page.getByRole('button', { name: 'Stop', exact: true }).first()).toBeVisible({ timeout: 60_000 })
  await expect.poll(async () => (await storedSong(page)).takes.length, { timeout: 120_000, intervals: [1_000] }).toBe(takes)
  await expect(page.getByRole('button', { name: 'Record', exact: true })).toBeEnabled()
}

const layerIn = async (page: Page, name: string) => (await storedSong(page)).layers.find(layer => layer.name === name)!

test('what is missing is sung to its guides one after the other; a made voice gives way; the stems say where each stands', async ({ page }) => {
  test.setTimeout(600_000)
  await openPrepared(page)
  await room(page, 'Booth')
  await page.getByRole('button', { name: 'Practice singer' }).click()
  await page.locator('[data-line]').first().click()
  await expect(page.getByText(/Will record/)).toBeVisible()
  await singOnce(page, 1)

  // The plan: two thirds and an octave.
  await stackSheet(page, 'Layers')
  await page.getByLabel('Role of the new layer').selectOption({ label: 'Octave' })
  await page.getByRole('button', { name: 'Add a layer' }).click()
  await stackSheet(page, 'What I want')
  for (const layer of ['High 1', 'High 2', 'Octave 1']) await page.getByRole('button', { name: new RegExp(`^${LINE}, ${layer}: `) }).click()
  await expect(page.getByText('3 patches wanted, 3 still to sing: about 1 min of singing.')).toBeVisible()
  expect(await violations(page)).toEqual([])
  await page.getByRole('button', { name: 'Sing what is missing (3)' }).click()

  // The queue: right layer, right line, a bar before; the notes are written on one button; next on one key.
  const strip = page.getByRole('region', { name: 'Sing what is missing' })
  await expect(strip.getByText(`High 1: ${LINE}`)).toBeVisible()
  await expect(strip.getByText('2 more after this')).toBeVisible()
  await strip.getByRole('button', { name: 'Write a third above to sing to' }).click({ timeout: 90_000 })
  await expect.poll(async () => (await layerIn(page, 'High 1')).part.length).toBeGreaterThan(4)
  expect(await violations(page)).toEqual([])
  await singOnce(page, 2)
  await expect(strip.getByText(/^Sung\. 2 more after this/)).toBeVisible()
  await expect(page.getByText(/^Against the part: .*as written/)).toBeVisible({ timeout: 90_000 })
  await page.keyboard.press('n')
  await expect(strip.getByText(`High 2: ${LINE}`)).toBeVisible()
  await page.keyboard.press('x')
  await expect(strip.getByText(`Octave 1: ${LINE}`)).toBeVisible()
  await expect(strip.getByText(/1 line left out/)).toBeVisible()
  await page.keyboard.press('b')
  await expect(strip.getByText(`High 2: ${LINE}`)).toBeVisible()
  await strip.getByRole('button', { name: 'Write a third above to sing to' }).click({ timeout: 90_000 })
  await singOnce(page, 3)
  await page.keyboard.press('n')
  await expect(strip.getByText(`Octave 1: ${LINE}`)).toBeVisible()
  await strip.getByRole('button', { name: 'Write an octave below to sing to' }).click({ timeout: 90_000 })
  await singOnce(page, 4)
  await expect(strip.getByText(/^Sung\. That was the last one\./)).toBeVisible()
  await strip.getByRole('button', { name: 'End' }).click()
  await expect(strip).toBeHidden()
  const sung = await storedSong(page)
  for (const name of ['High 1', 'High 2', 'Octave 1'])
    expect(sung.takes.some(take => take.layerId === sung.layers.find(layer => layer.name === name)!.id)).toBe(true)

  // A made sixth, then one that is sung in its place.
  await stackSheet(page, 'What to sing')
  await page.getByRole('combobox', { name: 'Layer to write for' }).selectOption({ label: 'Low 1' })
  await page.getByRole('combobox', { name: 'Part' }).selectOption({ label: 'a sixth below' })
  await page.getByRole('button', { name: 'Write it for 1 line' }).click({ timeout: 90_000 })
  await page.getByRole('button', { name: 'A made voice sings it' }).click()
  await expect(page.getByRole('button', { name: `${LINE}, Low 1: a made voice sings` })).toBeVisible()
  await room(page, 'Booth')
  await singOnce(page, 5)
  await stackSheet(page, 'Where each stands')
  await expect(page.getByRole('button', { name: new RegExp(`^${LINE}, Low 1: picked, 1 take of its own`) })).toBeVisible()

  // The stage by keys: a pair goes wide as mirror images, and one step takes it back.
  const stage = page.getByRole('group', { name: 'The stage, seen from above' })
  await page.getByRole('button', { name: 'narrow', exact: true }).click()
  await stage.getByRole('button', { name: /^High 1:/ }).focus()
  for (let i = 0; i < 13; i++) await page.keyboard.press('ArrowLeft')
  await expect(stage.getByRole('button', { name: /^High 1: 100 left, in front/ })).toBeVisible()
  await expect(stage.getByRole('button', { name: /^High 2: 100 right, in front/ })).toBeVisible()
  await stage.getByRole('button', { name: /^Octave 1:/ }).click()
  await page.getByRole('textbox', { name: 'Octave 1, how far in %' }).fill('100')
  await page.keyboard.press('Enter')
  await expect(page.getByText('−9.0 dB level, −6.0 dB air, +9.0 dB into the rooms.')).toBeVisible()
  await page.getByRole('button', { name: 'Measure what mono takes here' }).click()
  await expect(page.getByText(/^All voices −\d+\.\d dB$/)).toBeVisible({ timeout: 90_000 })
  await page.keyboard.press('m')
  await expect(page.getByRole('button', { name: 'In mono', exact: true })).toBeVisible()
  await page.keyboard.press('m')
  expect(await violations(page)).toEqual([])

  await renderEachLayer(page)
  const song = await storedSong(page)
  const line = requirePlacedLine(song, song.sections.flatMap(section => section.lines)[0]!.id)
  const power = (plane: Float32Array) => plane.subarray(line.startFrame, line.endFrame).reduce((sum, value) => sum + value * value, 0)
  const high = (await saveDelivery(page, 'High 1')).planes
  const other = (await saveDelivery(page, 'High 2')).planes
  // The dry voice is all on one side; what the plate answers is on both.
  expect(power(high[0]!) / power(high[1]!)).toBeGreaterThan(6)
  expect(power(other[1]!) / power(other[0]!)).toBeGreaterThan(6)
  const { part } = song.layers.find(({ name }) => name === 'High 1')!
  const { f0Hz } = trackPitch(Float32Array.from(high[0]!))
  const offs = part.flatMap(({ startFrame, endFrame, midi }) => {
    const held = [...f0Hz.subarray(Math.round((startFrame + 3_600) / 240), Math.round((endFrame - 2_400) / 240))].filter(hz => hz > 0).map(centsOf)
    return held.length > 10 ? [Math.abs(held.sort((a, b) => a - b)[held.length >> 1]! - 100 * midi)] : []
  })
  expect(offs.length).toBeGreaterThan(3)
  expect(offs.sort((a, b) => a - b)[offs.length >> 1]!).toBeLessThan(60)
})

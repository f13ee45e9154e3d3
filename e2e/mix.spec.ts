/** Mix: recipes by place, spaces heard alone and sent into, rides by pointer and keys, an old song file; each heard in what is exported. */
import { expect } from '@playwright/test'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import type { Song } from '../src/core/song/schema'
import { violations } from './access'
import { openPrepared, test } from './prepared'
import { room, saveDelivery, storedSong } from './support'

test.use({ prepared: 'demo', contextOptions: { reducedMotion: 'reduce' } })

const level = (sound: ArrayLike<number>) => 10 * Math.log10(Array.from(sound).reduce((sum, x) => sum + x * x, 1e-12) / sound.length)

test('a role’s recipe, an echo and a ride are laid, heard in an export, and taken back step by step', async ({ page }) => {
  test.slow()
  await openPrepared(page)
  const before = await storedSong(page)
  await room(page, 'Mix')
  for (const name of [...before.layers.map(layer => layer.name), 'Beat'])
    await expect(page.getByRole('group', { name, exact: true })).toBeInViewport({ ratio: 1 })

  // A recipe: the lead's role, one step more, typed, moved to the front.
  await page.getByLabel('Whose recipe').selectOption('of the role: Lead')
  await page.getByRole('button', { name: 'Add Equaliser' }).click()
  await page.getByRole('textbox', { name: 'Equaliser: Lows in dB' }).fill('-12')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Equaliser earlier' }).click()
  await expect(page.getByRole('list', { name: 'Steps, first to last' }).getByRole('button').first()).toHaveAccessibleName(/^1\. Equaliser/)

  // An echo: it follows the tempo, is sent into, and is heard alone.
  await page.locator('main').focus()
  await page.keyboard.press('s')
  await page.getByRole('button', { name: 'Echo', exact: true }).first().click()
  await expect(page.getByText('648 ms')).toBeVisible()
  await page.getByLabel('Echo: comes after').selectOption('half a beat')
  await expect(page.getByText('324 ms')).toBeVisible()
  await page.getByRole('textbox', { name: 'Lead into Echo' }).fill('-6')
  await page.keyboard.press('Enter')
  await page.keyboard.press('h')
  await expect(page.getByRole('button', { name: 'Hear Echo alone' })).toHaveAttribute('aria-pressed', 'true')
  await page.keyboard.press('h')
  await expect(page.getByRole('button', { name: 'Hear Echo alone' })).toHaveAttribute('aria-pressed', 'false')

  // A ride over the first line: a click adds a point, keys and numbers move it.
  const line = page.locator('[data-line]').first()
  await line.click()
  await page.locator('main').focus()
  await page.keyboard.press('r')
  await page.locator('[data-ride]').click({ position: { x: 40, y: 100 } })
  const point = page.getByRole('button', { name: /^Point at bar/ })
  await point.focus()
  for (let i = 0; i < 24; i++) await page.keyboard.press('ArrowDown')
  await expect(page.getByRole('textbox', { name: 'Level of point 1 in dB' })).toHaveValue('-12')
  await page.getByRole('textbox', { name: 'Level of point 1 in dB' }).fill('-20')
  await page.keyboard.press('Enter')
  await expect(point).toHaveAccessibleName(/-20\.0 dB/)
  await expect(page.getByRole('group', { name: 'Lead', exact: true }).getByText('ridden')).toBeVisible()
  // The place and a send go their own ways.
  await page.getByLabel('What is ridden').selectOption({ label: 'the place' })
  await page.locator('[data-ride]').click({ position: { x: 40, y: 100 } })
  await page.getByRole('textbox', { name: 'Place of point 1' }).fill('-0.5')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: /^Point at bar.*50 left/ })).toBeVisible()
  await page.getByLabel('What is ridden').selectOption({ label: 'the way into Echo' })
  await page.locator('[data-ride]').click({ position: { x: 40, y: 100 } })
  await expect(page.getByRole('textbox', { name: 'Level of point 1 in dB' })).toHaveValue('-6')
  await expect(page.getByRole('group', { name: 'Lead', exact: true }).getByText('Echo ridden')).toBeVisible()
  await page.getByLabel('What is ridden').selectOption({ index: 0 })
  // The room left in the middle of a drag: nothing was moved, and nothing of it is heard any more.
  const { x, y } = (await point.boundingBox())!
  await page.mouse.move(x + 12, y + 12)
  await page.mouse.down()
  await page.mouse.move(x + 40, y - 40, { steps: 3 })
  await expect(page.getByRole('textbox', { name: 'Level of point 1 in dB' })).not.toHaveValue('-20')
  await page.keyboard.press('4')
  await expect(page.locator('[data-ride]')).toHaveCount(0)
  await page.mouse.up()
  await page.keyboard.press('6')
  await expect(page.getByRole('textbox', { name: 'Level of point 1 in dB' })).toHaveValue('-20')
  for (const sheet of ['Recipes', 'Spaces', 'Output', 'Rides']) {
    await page.getByRole('button', { name: sheet, exact: true }).click()
    expect.soft(await violations(page, 'all'), sheet).toEqual([])
  }

  const mixed = await storedSong(page)
  const lead = mixed.layers[0]!
  expect(mixed.buses.find(bus => bus.role === 'lead')!.recipe.steps[0]).toMatchObject({ kind: 'equaliser', lowShelfDecibels: -12 })
  expect(lead.sends.find(send => send.spaceId === 'echo')).toMatchObject({ gainDecibels: -6, ride: [{ value: -6 }] })
  expect([lead.ride.length, lead.panRide.map(({ value }) => value)]).toEqual([1, [-0.5]])

  // Heard: the lead alone, 8 dB softer with the last step than without it, but for what the compressor made of it.
  await page.getByRole('button', { name: 'Solo Lead' }).click()
  const vocals = async (name: string) => {
    await room(page, 'Deliver')
    await page.getByRole('button', { name: '32 bits' }).click()
    for (const name of ['Final mix', 'Beat alone']) {
      const choice = page.getByRole('button', { name })
      if ((await choice.getAttribute('aria-pressed')) === 'true') await choice.click()
    }
    await page.getByRole('button', { name: 'Render vocals alone' }).click()
    const { planes, encoding } = await saveDelivery(page, name)
    expect(encoding).toBe('float32')
    // Both sides: what is moved from one to the other is as loud.
    return planes.flatMap(plane => [...plane])
  }
  const ridden = await vocals('vocals')
  // The solo, the send's point, the place's two steps, and then the ride's last one.
  for (let i = 0; i < 5; i++) await page.keyboard.press('Control+z')
  await expect.poll(async () => (await storedSong(page)).layers[0]!.ride[0]!.value).toBe(-12)
  await room(page, 'Mix')
  await page.getByRole('button', { name: 'Solo Lead' }).click()
  const less = await vocals('vocals 2')
  expect(Math.abs(level(less) - level(ridden) - 8)).toBeLessThan(3)

  // Back to the start, all of it.
  await page.keyboard.press('u')
  await page.getByRole('dialog').getByRole('button', { name: 'Before all of these' }).click()
  await expect.poll(async () => (await storedSong(page)).layers).toEqual(before.layers)
  await page.keyboard.press('Escape')

  // A ride by ear: heard before it is taken, and points as any other once it is.
  await room(page, 'Mix')
  await page.getByRole('button', { name: 'Rides', exact: true }).click()
  const byEar = page.getByRole('group', { name: 'A ride by ear' })
  await byEar.getByRole('button', { name: 'Propose a ride' }).click()
  await expect(byEar.getByText(/^Over the beat its lines lie [\d.]+ LU apart; so ridden, [\d.]+/)).toBeVisible({ timeout: 60_000 })
  await byEar.getByRole('button', { name: 'Hear it' }).click()
  await expect(byEar.getByRole('button', { name: 'Hear it' })).toHaveAttribute('aria-pressed', 'true')
  expect((await storedSong(page)).layers[0]!.ride).toEqual([])
  await byEar.getByRole('button', { name: 'Take it' }).click()
  await expect.poll(async () => (await storedSong(page)).layers[0]!.ride.length).toBeGreaterThan(3)

  // What a step does to the line, listened to again as it is set otherwise.
  await page.getByRole('button', { name: 'Recipes', exact: true }).click()
  await page.getByLabel('Whose recipe').selectOption('all')
  await page.getByRole('button', { name: /^\d\. Compressor,/ }).click()
  await page.getByRole('button', { name: 'What it does here' }).click()
  const does = page.getByText(/^Louder or softer over/)
  await expect(does).toBeVisible({ timeout: 60_000 })
  const asItWas = await does.textContent()
  expect(await violations(page)).toEqual([])
  await page.getByRole('textbox', { name: 'Compressor: Ratio' }).fill('20')
  await page.keyboard.press('Enter')
  await expect(does).toBeVisible({ timeout: 60_000 })
  await expect(does).not.toHaveText(asItWas!)
  expect((await storedSong(page)).buses).toEqual(before.buses)
})

/** As the release before wrote it: one recipe, one space, one send. */
function asVersion4(song: Song): unknown {
  const [lowCut, compressor, air] = song.vocalBus.recipe.steps.map(({ id, kind, enabled, ...settings }) => settings)
  const { id, kind, ...space } = song.spaces[0]!
  const { spaces, ...others } = song
  return {
    ...others,
    version: 4,
    space,
    vocalBus: { ...song.vocalBus, recipe: { enabled: true, lowCut, compressor, shelf: air } },
    buses: song.buses.map(({ recipe, ...bus }) => bus),
    layers: song.layers.map(({ recipe, ride, panRide, sends, ...layer }) => ({
      ...layer,
      sendDecibels: sends[0]!.gainDecibels,
      comps: layer.comps.map(comp => ({ ...comp, picks: comp.picks.map(({ asSung, ...pick }) => pick) })),
    })),
    takes: song.takes.map(({ edits, bounceOf, ...take }) => ({ ...take, printOf: null })),
  }
}

test('a song file of the release before opens with its recipe, its space and its sends', async ({ page }) => {
  const files = unzipSync(readFileSync('.demo/slow-ferry.zip'))
  const document = JSON.parse(strFromU8(files['song.json']!)) as { song: Song }
  files['song.json'] = strToU8(JSON.stringify({ ...document, song: asVersion4({ ...document.song, title: 'Old Ferry' }) }))
  await page.goto('/')
  const path = join(mkdtempSync(join(tmpdir(), 'plush-old-')), 'old.zip')
  writeFileSync(path, zipSync(files, { level: 0 }))
  await page.getByLabel('Choose a beat or a song file').setInputFiles(path)
  await page.getByRole('button', { name: 'Keep both, open the new one' }).click({ timeout: 60_000 })
  await expect(page.locator('[data-line]').first()).toBeVisible({ timeout: 60_000 })
  await room(page, 'Mix')
  await expect(page.getByRole('list', { name: 'Steps, first to last' }).getByRole('button')).toHaveText([/Low cut/, /Compressor/, /Air/])
  await expect(page.getByRole('group', { name: 'Lead', exact: true }).getByText('Plate -18')).toBeVisible()
  await page.getByRole('button', { name: 'Spaces', exact: true }).click()
  await expect(page.getByRole('button', { name: /^Hear .* alone$/ })).toHaveCount(1)
})

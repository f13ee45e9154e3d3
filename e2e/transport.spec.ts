/** Moving about in a song: play, loop, seek, rooms by keys, the recipe against the voices as sung, a cancelled render. */
import { expect, openPrepared, test } from './prepared'
import { decibelsApart, position, room, saveDelivery, selectOnSheet, stackSheet } from './support'

test.use({ prepared: 'demo' })

test('play, stop, return, seek by bars and loop keep to the selection', async ({ page }) => {
  await openPrepared(page)
  expect(await position(page)).toBe(64)
  await page.keyboard.press(' ')
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
  await expect.poll(() => position(page)).toBeGreaterThan(68)
  await page.keyboard.press(' ')
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible()
  const slider = page.getByRole('slider', { name: 'Position in the song' })
  await slider.focus()
  await slider.press('ArrowRight')
  await expect(slider).toHaveAttribute('aria-valuetext', 'bar 6')
  await slider.blur()
  await page.keyboard.press('Home')
  await expect.poll(() => position(page)).toBe(64)
  // A line of two bars, 5.2 s: after 7 s a loop is in its second turn.
  await page.keyboard.press('l')
  await page.keyboard.press(' ')
  await page.waitForTimeout(7_000)
  const looped = await position(page)
  expect(looped).toBeGreaterThanOrEqual(64)
  expect(looped).toBeLessThan(64 + 16)
  await page.keyboard.press(' ')
})

test('rooms, click, sheet and theme by keys and buttons; the list of keys names them', async ({ page }) => {
  await openPrepared(page)
  for (const [key, path] of [
    ['1', 'beat'],
    ['2', 'booth'],
    ['4', 'stack'],
    ['5', 'tidy'],
    ['6', 'mix'],
    ['7', 'deliver'],
    ['3', 'comp'],
  ] as const) {
    await page.keyboard.press(key)
    await expect(page).toHaveURL(new RegExp(`/${path}$`))
  }
  await page.keyboard.press('k')
  await expect(page.getByRole('button', { name: 'Click', exact: true })).toHaveAttribute('aria-pressed', 'true')
  await page.getByRole('button', { name: 'Fold the sheet' }).click()
  await expect(page.locator('[data-line]')).toHaveCount(0)
  await page.getByRole('button', { name: 'Unfold the sheet' }).click()
  await page.getByRole('button', { name: 'Night', exact: true }).click()
  await page.reload()
  await expect(page.getByRole('button', { name: 'Day', exact: true })).toBeVisible()
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog').getByText('play, stop', { exact: true })).toBeVisible()
})

test('a room at rest draws nothing; the clock and the line move while it plays, and when the place changes', async ({ page }) => {
  await page.addInitScript(() => {
    const ask = globalThis.requestAnimationFrame.bind(globalThis)
    Object.assign(globalThis, { framesAsked: 0 })
    globalThis.requestAnimationFrame = draw => {
      ;(globalThis as unknown as { framesAsked: number }).framesAsked++
      return ask(draw)
    }
  })
  const asked = () => page.evaluate(() => (globalThis as unknown as { framesAsked: number }).framesAsked)
  const askedIn = async (milliseconds: number) => {
    const before = await asked()
    await page.waitForTimeout(milliseconds)
    return (await asked()) - before
  }
  await openPrepared(page)
  for (const name of ['Beat', 'Booth', 'Stack', 'Tidy', 'Mix', 'Deliver', 'Comp'] as const) {
    await room(page, name)
    // What is drawn a moment later, and what is heard in the beat, has its time first.
    await expect.poll(() => askedIn(1_000), { message: name, timeout: 30_000 }).toBe(0)
  }
  await page.keyboard.press(' ')
  await expect.poll(() => askedIn(500)).toBeGreaterThan(5)
  await page.keyboard.press(' ')
  await expect.poll(() => askedIn(1_000)).toBe(0)
  const before = await position(page)
  await page.getByRole('slider', { name: 'Position in the song' }).press('ArrowRight')
  await expect.poll(() => position(page)).toBe(before + 16)
})

test('the voices as sung are heard as loud as with the recipe, and a render can be cancelled', async ({ page }) => {
  await openPrepared(page)
  await room(page, 'Mix')
  await page.getByRole('button', { name: 'As sung' }).click()
  await expect(page.getByText(/Equal loudness: as sung [+-]?\d/)).toBeVisible({ timeout: 30_000 })
  await page.getByRole('button', { name: 'With the recipes' }).click()
  await expect(page.getByText(/Equal loudness/)).toBeHidden()
  // A slider moved by a key is one step; Escape while typing puts the number back.
  const level = page.getByRole('slider', { name: 'Lead level' })
  await level.focus()
  await level.press('ArrowLeft')
  await expect(page.getByRole('textbox', { name: 'Lead level' })).toHaveValue('-0.5')
  // The room's keys work while a slider has the focus.
  await level.press('Control+z')
  await expect(page.getByRole('textbox', { name: 'Lead level' })).toHaveValue('0')
  await level.press(' ')
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
  await level.press(' ')
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible()
  await level.press('ArrowLeft')
  // What cannot be taken is said, and the value stays.
  const typed = page.getByRole('textbox', { name: 'Lead level' })
  await typed.fill('loud')
  await typed.press('Enter')
  await expect(page.getByRole('alert')).toHaveText('“loud” cannot be read as a number of dB. It stays at -0.5 dB.')
  await typed.press('Escape')
  await page.getByRole('textbox', { name: 'Lead level' }).fill('-30')
  await page.keyboard.press('Escape')
  await expect(page.getByRole('textbox', { name: 'Lead level' })).toHaveValue('-0.5')
  await room(page, 'Deliver')
  await page.getByRole('button', { name: 'Render 3 files' }).click()
  // Two are rendered at once; either ends all.
  await page.getByRole('button', { name: 'Cancel' }).first().click()
  await expect(page.getByRole('button', { name: 'Render 3 files' })).toBeEnabled()
  // The first may have been ready before the click; the others do not come any more.
  const ready = await page.locator('[data-delivery]').count()
  expect(ready).toBeLessThan(3)
  await page.waitForTimeout(4_000)
  await expect(page.locator('[data-delivery]')).toHaveCount(ready)
})

test('stems by role and the beat sum to the mix; of a muted layer none is offered', async ({ page }) => {
  test.slow()
  await openPrepared(page)
  await room(page, 'Mix')
  for (const name of ['Low 1', 'High 2']) await page.getByRole('button', { name: `Mute ${name}` }).click()
  await room(page, 'Deliver')
  await expect(page.getByText('Lead, Double left, Double right, High 1', { exact: true })).toBeVisible()
  await page.getByRole('button', { name: 'Vocals alone' }).click()
  await page.getByRole('button', { name: 'Each role' }).click()
  // Where all of them sing: the whole song would say no more.
  await selectOnSheet(page, /^Hook 1/)
  await page.getByRole('button', { name: 'only Hook 1' }).click()
  await page.getByRole('button', { name: 'Render 5 files' }).click()
  const [mix, ...parts] = await Promise.all(['mix', 'beat', 'Lead', 'Doubles', 'High harmonies'].map(part => saveDelivery(page, part)))
  const length = mix!.planes[0]!.length
  for (const side of [0, 1]) {
    const sum = Float32Array.from({ length }, (_, i) => parts.reduce((total, part) => total + (part.planes[side]![i] ?? 0), 0))
    expect(decibelsApart(sum, mix!.planes[side]!)).toBeLessThan(-100)
  }
})

test('layers are added, renamed, moved and removed; what was removed with takes can come back', async ({ page }) => {
  await openPrepared(page)
  await stackSheet(page, 'Layers')
  await page.getByRole('button', { name: 'Add a layer' }).click()
  await page.getByLabel('Name of Double 3').fill('Whisper')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Move Whisper up' }).click()
  await expect(page.getByRole('columnheader').nth(9)).toHaveText('Whisper')
  await page.getByRole('button', { name: 'Remove High 1' }).click()
  await page.getByRole('alertdialog').getByRole('button', { name: 'Remove High 1' }).click()
  await expect(page.getByRole('columnheader', { name: 'High 1' })).toHaveCount(0)
  await room(page, 'Booth')
  await page.getByText('Bin (1)').click()
  await expect(page.getByRole('button', { name: 'Put back' })).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(page.getByText('Bin (1)')).toBeHidden()
  await room(page, 'Stack')
  await expect(page.getByRole('columnheader', { name: 'High 1' })).toHaveCount(1)
})

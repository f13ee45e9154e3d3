/** Comping the last hook of the demo song by keys alone, and what then sounds. */
import { SEAM_FRAMES } from '../src/core/mix/pick-spans'
import { placedLines } from '../src/core/song/select'
import { expect, openPrepared, test } from './prepared'
import { bestLag, openWav, room, storedSong, storedSounds } from './support'

test.use({ prepared: 'demo' })

test('a hook is comped without the mouse; picks tile it, seams are quiet, and the export plays the picked takes in place', async ({ page }) => {
  await openPrepared(page)
  for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowRight')
  await expect(page.getByText('Lead · Hook 2, line 1')).toBeVisible()
  await expect(page.getByText('Nothing is picked here')).toBeVisible()
  // Each line another take, while the song plays.
  await page.keyboard.press(' ')
  for (const downs of [0, 2, 1, 3]) {
    for (let i = 0; i < downs; i++) await page.keyboard.press('ArrowDown')
    await page.keyboard.press('p')
    await expect(page.getByText(/^Pass \d is picked/)).toBeVisible()
    await page.keyboard.press('Enter')
  }
  await page.keyboard.press(' ')
  // The last line stays: two back is the second.
  await page.keyboard.press('ArrowLeft')
  await page.keyboard.press('ArrowLeft')
  await expect(page.getByText('Lead · Hook 2, line 2')).toBeVisible()
  await page.keyboard.press('x')
  await expect(page.getByText('Nothing is picked here')).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(page.getByText('Pass 3 is picked')).toBeVisible()

  const song = await storedSong(page)
  const sounds = await storedSounds(page, song)
  const lead = song.layers[0]!
  const picks = lead.comps[0]!.picks
  const hook = placedLines(song).slice(12)
  const played = hook.map(line =>
    picks.find(pick => pick.startFrame < (line.startFrame + line.endFrame) / 2 && pick.endFrame > (line.startFrame + line.endFrame) / 2)!,
  )
  expect(played.map(pick => song.takes.find(take => take.id === pick.takeId)!.name)).toEqual(['Pass 1', 'Pass 3', 'Pass 2', 'Pass 4'])
  for (let i = 1; i < played.length; i++) expect(played[i]!.startFrame).toBe(played[i - 1]!.endFrame)
  // Round each seam both takes are at least 20 dB softer than in the middle of the line.
  for (const pick of played.slice(1)) {
    const take = song.takes.find(entry => entry.id === pick.takeId)!
    const level = (from: number, to: number) =>
      Math.sqrt(sounds[take.assetId]!.subarray(from - take.originFrame, to - take.originFrame).reduce((sum, x) => sum + x * x, 0) / (to - from))
    expect(
      20 *
        Math.log10(
          level(pick.startFrame + 48_000, pick.endFrame - 48_000) / (level(pick.startFrame - SEAM_FRAMES / 2, pick.startFrame + SEAM_FRAMES / 2) + 1e-9),
        ),
    ).toBeGreaterThan(20)
  }

  // Only the lead, as it leaves: each line of the export is the picked take where it was sung.
  await room(page, 'Mix')
  await page.getByRole('button', { name: 'Solo Lead' }).click()
  await room(page, 'Deliver')
  for (const name of ['Final mix', 'Beat alone']) await page.getByRole('button', { name }).click()
  await page.getByRole('button', { name: '44.1 kHz' }).click()
  await page.getByRole('button', { name: '48 kHz' }).click()
  await page.getByRole('button', { name: 'Render vocals alone' }).click()
  const link = page.locator('[data-delivery$="vocals.wav"]').getByRole('link', { name: 'Save' })
  await expect(link).toBeVisible({ timeout: 120_000 })
  const [download] = await Promise.all([page.waitForEvent('download'), link.click()])
  const vocals = (await openWav(download)).planes[0]!
  for (const pick of played) {
    const take = song.takes.find(entry => entry.id === pick.takeId)!
    const from = pick.startFrame + 48_000
    const { lag, correlation } = bestLag(
      sounds[take.assetId]!.subarray(from - take.originFrame, from - take.originFrame + 72_000),
      vocals.subarray(from - 240, from + 72_240),
      480,
    )
    expect(correlation).toBeGreaterThan(0.75)
    expect(Math.abs(lag - 240)).toBeLessThanOrEqual(24)
  }
})

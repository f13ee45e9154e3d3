/** Deliver: a file for a teacher by its rule, a stretch at a loudness, dry stems; each opened by a decoder that is not ours. */
import { decodedByFfmpeg, hasDecoders, measuredByFfmpeg, probedByFfmpeg } from '../src/core/files/other-decoders.test-kit'
import { requirePlacedLine } from '../src/core/song/select'
import { violations } from './access'
import { expect, openPrepared, test } from './prepared'
import { openWav, room, storedSong } from './support'

test.use({ prepared: 'demo' })

test('an assignment as MP3 named by rule, a line at a loudness, layers dry: names, tags, lengths and levels are right, and remembered', async ({ page }) => {
  test.skip(!hasDecoders, 'what opens the files is not on this machine')
  test.setTimeout(300_000)
  await openPrepared(page)
  await room(page, 'Deliver')
  for (const name of ['Vocals alone', 'Beat alone']) await page.getByRole('button', { name, exact: true }).click()
  const save = async (name: string) => {
    const link = page.locator(`[data-delivery="${name}"]`).getByRole('link', { name: 'Save' })
    await expect(link).toBeVisible({ timeout: 120_000 })
    const [download] = await Promise.all([page.waitForEvent('download'), link.click()])
    expect(download.suggestedFilename()).toBe(name)
    return download
  }
  await page.getByRole('button', { name: 'Render final mix' }).click()
  const whole = await openWav(await save('Slow Ferry - mix.wav'))

  await page.getByRole('button', { name: 'a teacher or a friend' }).click()
  await page.getByRole('button', { name: '48 kHz' }).click()
  await page.getByRole('textbox', { name: 'Artist' }).fill('The Quay / Ida')
  await page.keyboard.press('Enter')
  await page.getByRole('textbox', { name: 'Pattern of file names' }).fill('{artist}_{title}_{tempo}_{part}')
  await page.keyboard.press('Enter')
  await expect(page.getByText('The Quay Ida_Slow Ferry_92.6 bpm_mix.mp3')).toBeVisible()
  expect(await violations(page)).toEqual([])
  await page.getByRole('button', { name: 'Render final mix' }).click()
  const mp3 = await (await save('The Quay Ida_Slow Ferry_92.6 bpm_mix.mp3')).path()
  expect(probedByFfmpeg(mp3)).toMatchObject({
    format: { format_name: 'mp3', tags: { title: 'Slow Ferry', artist: 'The Quay / Ida' } },
    streams: [{ codec_name: 'mp3', sample_rate: '48000' }],
  })
  expect(decodedByFfmpeg(mp3)[0]!.length).toBe(whole.planes[0]!.length)

  // One line, at a loudness, lossless.
  const line = page.locator('[data-line]').filter({ hasText: 'Slow ferry, carry the lights' }).first()
  const lineId = (await line.getAttribute('data-line'))!
  await line.click()
  await page.getByRole('button', { name: 'streaming' }).click()
  await page.getByRole('button', { name: 'FLAC' }).click()
  await page.getByRole('textbox', { name: 'Loudness aimed at in LUFS' }).fill('-12')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'only “Slow ferry, carry the lights”' }).click()
  await page.getByRole('textbox', { name: 'Pattern of file names' }).fill('Hook line {part}')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Render final mix' }).click()
  const flac = await (await save('Hook line mix.flac')).path()
  const song = await storedSong(page)
  const { startFrame, endFrame } = requirePlacedLine(song, lineId as Parameters<typeof requirePlacedLine>[1])
  expect(Math.abs(decodedByFfmpeg(flac)[0]!.length - ((endFrame - startFrame) * 44_100) / 48_000)).toBeLessThan(2)
  expect(Math.abs(measuredByFfmpeg(flac).lufs + 12)).toBeLessThanOrEqual(0.1)
  await expect(page.locator('[data-delivery="Hook line mix.flac"]')).toContainText(/made \+\d+\.\d dB louder, peaks held back by/)

  // What was asked for is remembered.
  await page.reload()
  await expect(page.getByRole('textbox', { name: 'Pattern of file names' })).toHaveValue('Hook line {part}')
  await expect(page.getByRole('button', { name: 'FLAC' })).toHaveAttribute('aria-pressed', 'true')
  await page.getByRole('button', { name: 'a mixing friend' }).click()
  for (const name of ['Final mix', 'Vocals alone', 'Beat alone', 'Each layer dry']) await page.getByRole('button', { name, exact: true }).click()
  await page.getByRole('button', { name: 'Render each layer dry' }).click()
  const dry = await openWav(await save('Hook line Lead dry.wav'))
  expect(dry.encoding).toBe('float32')
  expect(dry.planes[0]!.reduce((most, x) => Math.max(most, Math.abs(x)), 0)).toBeGreaterThan(0.05)
})

/** Deliver: a file for a teacher by its rule, a stretch at a loudness, dry stems; each opened by a decoder that is not ours. */
import { readFile } from 'node:fs/promises'
import { unzipSync } from 'fflate'
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
  await page.getByRole('button', { name: 'FLAC', exact: true }).click()
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
  await expect(page.getByRole('button', { name: 'FLAC', exact: true })).toHaveAttribute('aria-pressed', 'true')
  await page.getByRole('button', { name: 'a mixing friend' }).click()
  for (const name of ['Final mix', 'Vocals alone', 'Beat alone', 'Each layer dry']) await page.getByRole('button', { name, exact: true }).click()
  await page.getByRole('button', { name: 'Render each layer dry' }).click()
  const dry = await openWav(await save('Slow Ferry - Lead dry - 92.6 bpm F minor.wav'))
  expect(dry.encoding).toBe('pcm24')
  expect(dry.planes[0]!.reduce((most, x) => Math.max(most, Math.abs(x)), 0)).toBeGreaterThan(0.05)
})

test('bars as AAC and Opus with a cover, all in one zip; they are there after a reload, are compared as loud as each other, and made again', async ({
  page,
}) => {
  test.skip(!hasDecoders, 'what opens the files is not on this machine')
  test.setTimeout(300_000)
  await openPrepared(page)
  await room(page, 'Deliver')
  await page.getByRole('button', { name: 'Vocals alone', exact: true }).click()
  await page.getByRole('button', { name: 'bars', exact: true }).click()
  for (const [name, bar] of [
    ['From bar', '13'],
    ['To bar', '14'],
  ] as const) {
    await page.getByRole('textbox', { name }).fill(bar)
    await page.keyboard.press('Enter')
  }
  await page.getByLabel('A cover picture, JPEG or PNG').setInputFiles({ name: 'words.png', mimeType: 'image/png', buffer: Buffer.from('no picture') })
  await expect(page.getByRole('alert')).toContainText('neither a JPEG nor a PNG')
  const png = Buffer.from('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==', 'base64')
  await page.getByLabel('A cover picture, JPEG or PNG').setInputFiles({ name: 'quay.png', mimeType: 'image/png', buffer: png })
  await expect(page.getByRole('img', { name: 'The cover' })).toBeVisible()
  const frames = Math.round((8 * 60 * 48_000) / 92.6)
  for (const [kind, ending, most] of [
    ['AAC', 'm4a', 1_024],
    ['Opus', 'opus', 1],
  ] as const) {
    await page.getByRole('button', { name: kind, exact: true }).click()
    await page.getByRole('button', { name: 'Render 2 files' }).click()
    const row = page.locator(`[data-delivery="Slow Ferry - mix.${ending}"]`)
    await expect(row.getByRole('link', { name: 'Save' })).toBeVisible({ timeout: 120_000 })
    await expect(page.locator(`[data-delivery="Slow Ferry - beat.${ending}"]`).getByRole('link', { name: 'Save' })).toBeVisible({ timeout: 120_000 })
    const [download] = await Promise.all([page.waitForEvent('download'), row.getByRole('link', { name: 'Save' }).click()])
    const path = await download.path()
    expect(Math.abs(decodedByFfmpeg(path)[0]!.length - frames)).toBeLessThanOrEqual(most)
    if (kind === 'AAC') expect(probedByFfmpeg(path).streams.map(({ codec_name }) => codec_name)).toEqual(['aac', 'png'])
  }
  const [zipped] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'as one zip' }).click()])
  const entries = unzipSync(await readFile(await zipped.path()))
  expect(Object.keys(entries).sort()).toEqual(['Slow Ferry - beat.opus', 'Slow Ferry - mix.opus'])

  await page.reload()
  await page.getByRole('button', { name: 'Compare' }).nth(0).click()
  await page.getByRole('button', { name: 'Compare' }).nth(1).click()
  const pair = page.getByRole('group', { name: 'Two files compared' })
  await expect(pair).toContainText(/is \d\.\d dB louder, and is turned down by that here/)
  await pair.getByRole('button', { name: 'Play both' }).click()
  await page.keyboard.press('y')
  const heard = await page.evaluate(() => [...document.querySelectorAll('audio')].map(({ muted, volume, paused }) => ({ muted, volume, paused })))
  expect(heard.map(({ muted }) => muted)).toEqual([true, false])
  expect(heard.every(({ paused }) => !paused)).toBe(true)
  expect(Math.max(...heard.map(({ volume }) => volume))).toBe(1)
  expect(await violations(page)).toEqual([])
  await pair.getByRole('button', { name: 'Done' }).click()

  await page.getByRole('button', { name: 'More figures' }).first().click()
  await expect(page.locator('[data-delivery]').first()).toContainText(/loudest 3 s .* range .* played again/)
  await page.locator('[data-delivery="Slow Ferry - mix.m4a"]').getByRole('button', { name: 'Make again' }).click()
  await expect(page.locator('[data-delivery="Slow Ferry - mix 2.m4a"]')).toContainText('version 3', { timeout: 120_000 })
  await page.getByRole('button', { name: 'Forget Slow Ferry - mix 2.m4a' }).click()
  await page.reload()
  await expect(page.locator('[data-delivery="Slow Ferry - beat.opus"]')).toBeVisible()
  await expect(page.locator('[data-delivery="Slow Ferry - mix 2.m4a"]')).toHaveCount(0)
})

/** A mix by the word: what is thrown, coloured, kept and given room lies in the delivered files where it should, and nowhere else. */
import { framesPerBeat } from '../src/core/beat/grid'
import { mixValuesOf } from '../src/core/mix/kept-mixes'
import { nextLineSung, throwsSung } from '../src/core/mix/throws'
import { coloursSung } from '../src/core/mix/colours'
import { placedLines } from '../src/core/song/select'
import { decibelsBetween } from '../src/core/audio/signals.test-kit'
import { filtered, highPass, lowPass } from '../src/core/effects/biquad'
import { violations } from './access'
import { expect, openPrepared, test } from './prepared'
import { bestLag, deliverVocalsAndBeat, room, saveDelivery, selectOnSheet, storedSong } from './support'

test.use({ prepared: 'demo' })

const rms = (sound: Float32Array) => Math.sqrt(sound.reduce((sum, x) => sum + x * x, 0) / Math.max(1, sound.length))
const decibels = (sound: Float32Array) => 20 * Math.log10(rms(sound) + 1e-9)

test('a word is thrown and its echo is over before the next line, another sounds like a radio, the beat makes room, the mix before is heard and taken back', async ({
  page,
}) => {
  test.setTimeout(420_000)
  await openPrepared(page)
  const [plain, plainBeat] = await deliverVocalsAndBeat(page)
  const before = await storedSong(page)

  await room(page, 'Mix')
  await page.getByRole('button', { name: 'Compare', exact: true }).click()
  await page.getByRole('button', { name: 'Keep this mix' }).click()
  await expect(page.getByRole('list', { name: 'Kept mixes' }).getByRole('listitem')).toHaveCount(1)
  expect(await violations(page)).toEqual([])

  // By keys: the line's last word is thrown, then by choice its echo ends.
  await page.locator('[data-line]').filter({ hasText: 'nobody left to ask' }).first().click()
  await page.keyboard.press('t')
  await expect(page.getByRole('group', { name: /^Words of “nobody left to ask”/ })).toBeVisible()
  await page.keyboard.press('t')
  await expect(page.getByRole('button', { name: 'ask, thrown' })).toBeVisible()
  await page.getByRole('combobox', { name: 'What becomes of the answer' }).selectOption('ends')
  await expect(page.getByRole('button', { name: /^nobody left to ask\..*thrown: ask/ })).toBeVisible()
  expect(await violations(page)).toEqual([])
  // The word and what rings on after it, again and again: in twice the time of a bar nothing after its line is reached.
  await page.getByRole('button', { name: 'Only these words' }).click()
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
  await page.waitForTimeout(6_000)
  await expect(page.getByText(/^1[12]\.[1-4]\.[1-4]$/)).toBeVisible()
  await page.keyboard.press(' ')

  await page.locator('[data-line]').filter({ hasText: 'engine is keeping the time' }).first().click()
  await page.keyboard.press('p')
  await page.getByRole('button', { name: 'telephone', exact: true }).click()
  await expect(page.getByRole('button', { name: 'time, coloured' })).toBeVisible()
  expect(await violations(page)).toEqual([])

  await page.keyboard.press('b')
  await page.getByRole('button', { name: 'Off', exact: true }).click()
  expect(await violations(page)).toEqual([])

  // What was delivered before is not taken for what is delivered now.
  await page.reload()
  const [mixed, roomyBeat] = await deliverVocalsAndBeat(page)
  const song = await storedSong(page)
  const lead = song.layers[0]!
  const apart = mixed.map((x, i) => x - (plain[i] ?? 0))

  const [{ at }] = throwsSung(song, lead) as [ReturnType<typeof throwsSung>[number]]
  const next = nextLineSung(song, lead, at.placed, placedLines(song))!
  const beat = framesPerBeat(song.beat.grid)
  const word = plain.subarray(at.startFrame, at.endFrame)
  expect(decibels(word)).toBeGreaterThan(-40)
  // Where the tempo says: the word itself, a beat later.
  const echo = apart.subarray(at.startFrame + Math.round(beat) - 2_400, at.endFrame + Math.round(beat) + 2_400)
  expect(decibels(echo)).toBeGreaterThan(-50)
  expect(Math.abs(bestLag(word, echo, 4_800).lag - 2_400)).toBeLessThan(96)
  expect(decibels(apart.subarray(0, at.startFrame + Math.round(beat) - 1_200))).toBeLessThan(-110)
  // It is over when the next line begins, and until the coloured word nothing differs.
  const [{ at: coloured }] = coloursSung(song, lead) as [ReturnType<typeof coloursSung>[number]]
  expect(decibels(apart.subarray(next.startFrame, coloured.startFrame - 2_400))).toBeLessThan(-110)

  const lows = (sound: Float32Array) => decibels(filtered(sound, lowPass(250), lowPass(250)).subarray(4_800))
  const middles = (sound: Float32Array) => decibels(filtered(sound, highPass(700), lowPass(3_000)).subarray(4_800))
  const inside = (sound: Float32Array) => Float32Array.from(sound.subarray(coloured.startFrame, coloured.endFrame))
  expect(lows(inside(plain)) - lows(inside(mixed)) - (middles(inside(plain)) - middles(inside(mixed)))).toBeGreaterThan(12)

  // The beat gave way while it was sung, and is to the bit what it was before the first voice.
  const first = placedLines(song)[0]!
  const soft = (sound: Float32Array) => decibels(sound.subarray(first.startFrame + 48_000, first.endFrame - 24_000))
  expect(soft(plainBeat) - soft(roomyBeat)).toBeGreaterThan(0.5)
  expect(decibels(plainBeat.subarray(0, first.startFrame - 48_000).map((x, i) => x - roomyBeat[i]!))).toBeLessThan(-120)

  await room(page, 'Mix')
  await page.getByRole('button', { name: 'Compare', exact: true }).click()
  await page.getByRole('button', { name: 'Hear Mix 1' }).click()
  await expect(page.getByText(/^heard now, equal loudness/)).toBeVisible({ timeout: 60_000 })
  await page.getByRole('button', { name: 'Work on Mix 1' }).click()
  await expect.poll(async () => mixValuesOf(await storedSong(page))).toEqual(mixValuesOf(before))
  await expect(page.getByRole('list', { name: 'Kept mixes' }).getByRole('listitem')).toHaveCount(2)
  await page.keyboard.press('Control+z')
  await expect.poll(async () => mixValuesOf(await storedSong(page))).toEqual(mixValuesOf(song))
})

test('a recipe begins by its name, is halved, heard without a step and as a whole, saved as a file and read again; nonsense is refused and changes nothing', async ({
  page,
}) => {
  test.setTimeout(180_000)
  await openPrepared(page)
  await room(page, 'Mix')
  await page.getByRole('button', { name: 'Recipes', exact: true }).click()
  await page.getByRole('button', { name: 'close', exact: true }).click()
  const amount = page.getByRole('textbox', { name: 'How much of the recipe in %' })
  await amount.fill('50')
  await page.keyboard.press('Enter')
  await expect.poll(async () => (await storedSong(page)).vocalBus.recipe.amount).toBe(0.5)
  const kept = (await storedSong(page)).vocalBus.recipe
  expect(kept.steps.filter(({ kind }) => kind === 'compressor')).toHaveLength(2)
  await page.getByRole('main').click({ position: { x: 5, y: 5 } })
  await page.keyboard.press('n')
  await expect(page.getByText(/^Equal loudness: without the step/)).toBeVisible({ timeout: 60_000 })
  await page.keyboard.press('n')
  await expect(page.getByText(/^Equal loudness: without the step/)).toBeHidden()
  expect(await violations(page)).toEqual([])

  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save as a file' }).click()])
  const file = await download.path()
  await page.getByRole('button', { name: 'worn', exact: true }).click()
  await expect.poll(async () => (await storedSong(page)).vocalBus.recipe.steps.some(({ kind }) => kind === 'saturation')).toBe(true)
  await page.getByLabel('A recipe file').setInputFiles(file)
  const bare = (steps: typeof kept.steps) => steps.map(({ id: _, ...step }) => step)
  await expect.poll(async () => bare((await storedSong(page)).vocalBus.recipe.steps)).toEqual(bare(kept.steps))
  expect((await storedSong(page)).vocalBus.recipe.amount).toBe(0.5)
  const now = (await storedSong(page)).vocalBus.recipe
  await page.getByLabel('A recipe file').setInputFiles({ name: 'poem.json', mimeType: 'application/json', buffer: Buffer.from('{"format":"poem"}') })
  await expect(page.getByText('poem.json: it is not a recipe file. The recipe here is as it was.')).toBeVisible()
  expect((await storedSong(page)).vocalBus.recipe).toEqual(now)
})

test('voices and beat go through a recipe together: the mix comes out held, what is sent of voices and beat alone as it was', async ({ page }) => {
  test.setTimeout(240_000)
  await openPrepared(page)
  await selectOnSheet(page, /^Slow ferry, carry the lights/)
  const delivered = async (number: '' | ' 2') => {
    await room(page, 'Deliver')
    await page.getByRole('button', { name: 'only “Slow ferry, carry the lights”' }).click()
    await page.getByRole('button', { name: 'Render 3 files' }).click()
    const files = []
    for (const part of ['mix', 'vocals', 'beat']) files.push((await saveDelivery(page, part + number)).planes[0]!)
    return files
  }
  const [mix, vocals, beat] = await delivered('')
  await room(page, 'Mix')
  await page.getByRole('button', { name: 'Output', exact: true }).click()
  await page.getByRole('button', { name: 'The whole mix’s recipe' }).click()
  await page.getByRole('button', { name: 'gentle', exact: true }).click()
  await page.getByRole('button', { name: /^2\. Compressor/ }).click()
  await page.getByRole('textbox', { name: 'Compressor: Threshold in dB' }).fill('-40')
  await page.keyboard.press('Enter')
  await expect.poll(async () => (await storedSong(page)).output.recipe.steps.map(({ kind }) => kind)).toEqual(['low-cut', 'compressor', 'air'])
  await page.getByRole('main').click({ position: { x: 5, y: 5 } })
  await page.keyboard.press('n')
  await expect(page.getByText(/^Equal loudness: without the step \+?-?\d/)).toBeVisible({ timeout: 60_000 })
  await page.keyboard.press('n')
  expect(await violations(page)).toEqual([])
  await page.keyboard.press('o')
  await expect(page.getByText('Voices and beat together go through: low cut, compressor, air.')).toBeVisible()
  const [held, vocalsAgain, beatAgain] = await delivered(' 2')
  await expect(page.getByText(/^What the whole mix goes through is on the final mix alone/)).toBeVisible()
  expect(decibelsBetween(vocalsAgain!, vocals!)).toBeLessThan(-100)
  expect(decibelsBetween(beatAgain!, beat!)).toBeLessThan(-100)
  const loudest = (plane: Float32Array) => plane.reduce((most, value) => Math.max(most, Math.abs(value)), 0)
  expect(20 * Math.log10(loudest(held!) / loudest(mix!))).toBeLessThan(-3)
})

/** The Booth with the practice singer: every way of recording makes the take it says, in its place; what must not reach a take does not. */
import type { Page } from '@playwright/test'
import { placedLines } from '../src/core/song/select'
import { expect, openPrepared, test } from './prepared'
import { decibelsApart, givenVoice, placeError, room, storedSong, storedSound, wavFile } from './support'

const MILLISECOND = 48

test.use({ prepared: 'song' })

async function intoTheBooth(page: Page): Promise<void> {
  await openPrepared(page)
  await room(page, 'Booth')
  await page.getByRole('button', { name: 'Practice singer' }).click()
  await expect(page.getByText(/Will record/)).toBeVisible()
}

async function setNumber(page: Page, label: string, value: number): Promise<void> {
  await page.getByLabel(label, { exact: true }).fill(String(value))
  await page.getByLabel(label, { exact: true }).press('Enter')
}

async function recordOnce(page: Page, takes: number): Promise<void> {
  await page.keyboard.press('r')
  await expect(page.getByRole('button', { name: 'Stop', exact: true }).first()).toBeVisible({ timeout: 30_000 })
  await expect(page.locator('[data-take]')).toHaveCount(takes, { timeout: 40_000 })
}

test('the round trip is measured at any size, in noise, and a take lies within a millisecond of where it was sung', async ({ page }) => {
  await intoTheBooth(page)
  await setNumber(page, 'Simulated room noise in dBFS', -60)
  const line = page.locator('[data-line]').first()
  await line.click()
  for (const [i, milliseconds] of [5, 137.5, 400].entries()) {
    await setNumber(page, 'Simulated round trip in ms', milliseconds)
    // Nothing leaks: it says so, and guesses nothing.
    if (i === 0) {
      await page.getByRole('button', { name: 'Measure', exact: true }).click()
      await expect(page.getByText('The sweeps were not heard.')).toBeVisible()
    }
    await page.getByRole('button', { name: 'Hold a cup to the microphone' }).click()
    await page.getByRole('button', { name: /^Measure( again)?$/ }).click()
    await expect(page.getByText(`Takes move ${milliseconds.toFixed(1)} ms earlier, measured just now, ±0.0`)).toBeVisible()
    await page.getByRole('button', { name: 'Hold a cup to the microphone' }).click()
    await recordOnce(page, i + 1)
    await expect(page.locator('[data-take]').first()).toContainText(`moved ${milliseconds.toFixed(1)} ms earlier, measured just now`)
    const song = await storedSong(page)
    const take = song.takes.at(-1)!
    const range = placedLines(song)[0]!
    const stretch = { startFrame: range.startFrame - 48_000, endFrame: range.endFrame + 48_000 }
    const { lag, correlation } = placeError(take, await storedSound(page, take.assetId), range, givenVoice(song, stretch, 40 + i), stretch.startFrame)
    expect(correlation).toBeGreaterThan(0.9)
    expect(Math.abs(lag)).toBeLessThanOrEqual(MILLISECOND)
    expect(take).toMatchObject({ roundTripSource: 'measured', inputName: 'Practice singer' })
  }
  // Other devices, another opening: what was measured is only remembered.
  await page.getByRole('button', { name: 'Practice singer' }).click()
  await expect(page.getByText(/measured just now, ±/)).toBeHidden()
})

test('a loop with a bar before it: a take each pass, said of each while the next goes on; what was binned is in the bin', async ({ page }) => {
  await intoTheBooth(page)
  await page.locator('[data-line]').first().click()
  await page.getByLabel('Bars before').selectOption('1')
  await page.getByLabel('How often').selectOption('loop')
  await page.getByLabel('What to record').selectOption('bars')
  await setNumber(page, 'From bar', 5)
  await setNumber(page, 'To bar', 5)
  await page.keyboard.press('r')
  await expect(page.getByText('Pass 2', { exact: true })).toBeVisible({ timeout: 40_000 })
  await page.keyboard.press('ArrowUp')
  await expect(page.getByText('pass 1: star')).toBeVisible()
  await expect(page.getByText('Pass 3', { exact: true })).toBeVisible({ timeout: 20_000 })
  await page.keyboard.press('ArrowDown')
  await expect(page.getByText('Pass 4', { exact: true })).toBeVisible({ timeout: 20_000 })
  await page.keyboard.press('ArrowRight')
  await page.waitForTimeout(4_500)
  await page.keyboard.press('r')
  await expect(page.getByText('Bin (1)')).toBeVisible({ timeout: 20_000 })
  const song = await storedSong(page)
  expect(song.takes.slice(0, 3).map(({ starred, spare, binned }) => [starred, spare, binned])).toEqual([
    [true, false, false],
    [false, false, true],
    [false, true, false],
  ])
  const barFrames = song.takes[0]!.originFrame - song.takes[1]!.originFrame
  // Each turn is two bars long, and every pass keeps the bar that was sung before it (up to two seconds).
  expect(Math.abs(barFrames - (2 * 4 * 48_000 * 60) / song.beat.grid.tempoBpm)).toBeLessThan(2)
  const sound = await storedSound(page, song.takes[0]!.assetId)
  const rangeStart = song.takes[0]!.startFrame + 96_000
  const given = givenVoice(song, { startFrame: rangeStart - barFrames / 2 - 48_000, endFrame: rangeStart + barFrames / 2 + 48_000 }, 41)
  const { lag, correlation } = placeError(
    song.takes[1]!,
    sound,
    { startFrame: rangeStart, endFrame: rangeStart + barFrames / 2 },
    given,
    rangeStart - barFrames / 2 - 48_000,
  )
  expect(correlation).toBeGreaterThan(0.9)
  expect(Math.abs(lag)).toBeLessThanOrEqual(MILLISECOND)
  await page.getByText('Bin (1)').click()
  await page.getByRole('button', { name: 'Empty the bin …' }).click()
  await page.getByRole('button', { name: 'Erase for good' }).click()
  await expect(page.getByText('Bin (1)')).toBeHidden()
  await expect.poll(async () => (await storedSong(page)).takes.some(({ binned }) => binned)).toBe(false)
  await page.keyboard.press('Control+z')
  expect((await storedSong(page)).takes).toHaveLength(song.takes.length - 1)
})

test('hearing oneself is locked until headphones are confirmed, never reaches the take, and a howl is muted', async ({ page }) => {
  await intoTheBooth(page)
  await page.locator('[data-line]').first().click()
  await page.getByRole('button', { name: 'by the app' }).click()
  await expect(page.getByText('Are you wearing headphones?')).toBeVisible()
  await page.getByRole('button', { name: 'Yes, headphones' }).click()
  await expect(page.getByText(/You hear yourself 23 ms late.*better hear yourself by the interface/)).toBeVisible()
  await page.getByRole('button', { name: 'In tune with F minor' }).click()
  await expect(page.getByText(/up to 40 ms late.*Tuning costs up to 17 ms/)).toBeVisible()
  await setNumber(page, 'Simulated room noise in dBFS', -120)
  await page.getByRole('textbox', { name: 'Room on me in dB' }).fill('-6')
  await page.keyboard.press('Enter')
  await recordOnce(page, 1)
  const song = await storedSong(page)
  const take = song.takes[0]!
  const sound = await storedSound(page, take.assetId)
  const range = placedLines(song)[0]!
  const given = givenVoice(song, { startFrame: range.startFrame - 48_000, endFrame: range.endFrame + 48_000 }, 40)
  const at = range.startFrame - take.originFrame
  // To the sample what was sung: no beat, no click, no room, nothing sent back.
  expect(decibelsApart(sound.subarray(at, at + 144_000), given.subarray(48_000, 48_000 + 144_000))).toBeLessThan(-110)

  await page.getByRole('textbox', { name: 'Me in the headphones in dB' }).fill('0')
  await page.keyboard.press('Enter')
  await setNumber(page, 'Simulated room noise in dBFS', -60)
  await page.getByRole('button', { name: 'Hold a cup to the microphone' }).click()
  await expect(page.getByText('Muted: a howl was growing.')).toBeVisible()
})

test('the comp plays up to the punch and is silent inside it; a line is sung again by one key from another room', async ({ page }) => {
  await intoTheBooth(page)
  await page.locator('[data-line]').first().click()
  await recordOnce(page, 1)
  await room(page, 'Comp')
  await page.keyboard.press('g')
  await expect(page.getByLabel('Bars before')).toHaveValue('1')
  await expect(page.locator('[data-take]')).toHaveCount(2, { timeout: 60_000 })
  const song = await storedSong(page)
  const [first, second] = song.takes
  // The comp still plays the first take; the second lies over the same line, with what was sung in the bar before.
  expect(song.layers[0]!.comps[0]!.picks.map(pick => pick.takeId)).toEqual([first!.id])
  expect(second!.startFrame).toBeLessThan(first!.startFrame)
  // Only its first word, from wherever one is: two beats, the bar before them kept.
  await room(page, 'Comp')
  await page.keyboard.press('Shift+G')
  await expect(page.getByLabel('What to record')).toHaveValue('word 0')
  await expect(page.locator('[data-take]')).toHaveCount(3, { timeout: 60_000 })
  const word = (await storedSong(page)).takes[2]!
  expect(word.endFrame - word.startFrame).toBeLessThan(second!.endFrame - second!.startFrame - 48_000)
  await expect(page.getByText(/voice -\d+ dBFS, peak -\d+\.\d, room -\d+/).first()).toBeVisible({ timeout: 30_000 })
})

test('the beat that leaks into the microphone shows a wrong round trip, and puts the take in its place', async ({ page }) => {
  await intoTheBooth(page)
  await page.getByRole('button', { name: /^Verse 1 bars/ }).click()
  await setNumber(page, 'Simulated round trip in ms', 100)
  await setNumber(page, 'Simulated leak of the headphones in dB', -30)
  await setNumber(page, 'Round trip in ms', 60)
  await expect(page.getByText(/Takes move 60.0 ms earlier, as typed/)).toBeVisible()
  await recordOnce(page, 1)
  await expect(page.getByText(/The beat heard in it lies (39\.9|40\.[01]) ms late/)).toBeVisible({ timeout: 60_000 })
  await page.getByRole('button', { name: 'Place it by that' }).click()
  await expect(page.locator('[data-take]')).toContainText('by the beat heard in it')
  const [take] = (await storedSong(page)).takes
  expect(Math.abs(take!.roundTripFrames - 4_800)).toBeLessThanOrEqual(MILLISECOND)
})

test('mic check and clap check say what they heard; a file sung elsewhere is placed where it matches', async ({ page }) => {
  await intoTheBooth(page)
  await page.locator('[data-line]').first().click()
  await setNumber(page, 'Simulated hum in dBFS', -50)
  await page.getByRole('button', { name: 'The quiet room' }).click()
  await expect(page.getByText(/the room is at -50 dBFS, with mains hum at 50 Hz \(-50 dBFS\)/)).toBeVisible()
  await setNumber(page, 'Simulated hum in dBFS', -120)
  await page.getByRole('button', { name: 'The quiet room' }).click()
  await expect(page.getByText('Good: the room is at -84 dBFS, no hum.')).toBeVisible()
  await page.getByRole('button', { name: 'Clap check' }).click()
  await expect(page.getByText(/Too few claps were heard/)).toBeVisible({ timeout: 20_000 })

  await page.getByRole('button', { name: /^Verse 1 bars/ }).click()
  await recordOnce(page, 1)
  const song = await storedSong(page)
  const [first] = placedLines(song)
  // Another pass of the same lines, cut out from two seconds before them.
  const elsewhere = givenVoice(song, { startFrame: first!.startFrame - 96_000, endFrame: first!.startFrame + 12 * 48_000 }, 77)
  await page
    .getByLabel('A recording sung elsewhere')
    .setInputFiles({ name: 'kitchen.wav', mimeType: 'audio/wav', buffer: wavFile([elsewhere as Float32Array<ArrayBuffer>]) })
  await page.getByRole('button', { name: /Where it matches/ }).click({ timeout: 60_000 })
  await expect(page.locator('[data-take]').first()).toContainText('placed by matching')
  const brought = (await storedSong(page)).takes[1]!
  expect(Math.abs(brought.originFrame - (first!.startFrame - 96_000))).toBeLessThan(0.03 * 48_000)
  await page
    .getByLabel('A recording sung elsewhere')
    .setInputFiles({ name: 'letter.wav', mimeType: 'audio/wav', buffer: Buffer.from('Dear all, this is not a song.'.repeat(50)) })
  await expect(page.getByText('That is not a sound file this app can read. The song is unchanged.')).toBeVisible()
})

test('one song in two tabs: the second only looks, and takes over when the first is closed', async ({ page, context }) => {
  await openPrepared(page)
  const second = await context.newPage()
  await second.goto(page.url())
  await expect(second.getByText('This song is open in another tab.').first()).toBeVisible()
  await room(second, 'Booth')
  await expect(second.getByRole('button', { name: 'Record', exact: true })).toBeDisabled()
  // The Shelf of another tab leaves it alone as well.
  const shelf = await context.newPage()
  await shelf.goto('/')
  await shelf.getByRole('button', { name: /^Put .* in the bin$/ }).click()
  await expect(shelf.getByText(/Open in another tab. Close it there first/)).toBeVisible()
  await shelf.close()
  await room(page, 'Mix')
  await page.getByRole('textbox', { name: 'Beat level' }).fill('-11')
  await page.keyboard.press('Enter')
  await expect(page.getByText(/All kept/)).toBeVisible()
  await page.close()
  await expect(second.getByText('This song is open in another tab.')).toHaveCount(0, { timeout: 10_000 })
  await room(second, 'Mix')
  await expect(second.getByRole('textbox', { name: 'Beat level' })).toHaveValue('-11')

  // Where nothing was changed meanwhile it takes over just the same.
  const third = await context.newPage()
  await third.goto(second.url())
  await expect(third.getByText('This song is open in another tab.').first()).toBeVisible()
  await second.close()
  await expect(third.getByText('This song is open in another tab.')).toHaveCount(0, { timeout: 10_000 })
  await third.getByRole('textbox', { name: 'Beat level' }).fill('-9')
  await third.keyboard.press('Enter')
  await expect.poll(async () => (await storedSong(third)).beat.gainDecibels).toBe(-9)
  await expect(third.getByText('made with a later release')).toHaveCount(0)
})

test('a full disk stops the take cleanly, and what was sung until then is a take', async ({ page, context }) => {
  await intoTheBooth(page)
  await page.getByRole('button', { name: 'Whole song' }).click()
  await page.keyboard.press('r')
  await expect(page.getByText('Pass 1', { exact: true })).toBeVisible({ timeout: 60_000 })
  await page.waitForTimeout(3_000)
  const session = await context.newCDPSession(page)
  const { usage } = await page.evaluate(() => navigator.storage.estimate())
  await session.send('Storage.overrideQuotaForOrigin', { origin: new URL(page.url()).origin, quotaSize: usage! + 200_000 })
  await expect(page.getByText('The disk was full: recording stopped.')).toBeVisible({ timeout: 60_000 })
  // For a while the disk stays full, and has no room for the take's facts either.
  await page.waitForTimeout(4_000)
  await session.send('Storage.overrideQuotaForOrigin', { origin: new URL(page.url()).origin })
  await expect(page.locator('[data-take]')).toHaveCount(1, { timeout: 20_000 })
})

test('two dozen passes in a row are all there, each in its place and of the right length; where the machine’s clock stalls, that is told', async ({ page }) => {
  test.setTimeout(400_000)
  await intoTheBooth(page)
  await page.getByLabel('How often').selectOption('loop')
  await page.getByLabel('What to record').selectOption('bars')
  await setNumber(page, 'From bar', 5)
  await setNumber(page, 'To bar', 5)
  await page.keyboard.press('r')
  await expect(page.getByText('Pass 25', { exact: true })).toBeVisible({ timeout: 200_000 })
  await page.keyboard.press('r')
  await expect(page.getByRole('button', { name: /Show all 2[45]/ })).toBeVisible({ timeout: 30_000 })
  const song = await storedSong(page)
  const passes = song.takes.slice(0, 24)
  const turns = passes.slice(1).map((take, i) => passes[i]!.originFrame - take.originFrame)
  expect(new Set(turns).size).toBe(1)
  const barFrames = (4 * 48_000 * 60) / song.beat.grid.tempoBpm
  expect(Math.abs(turns[0]! - barFrames)).toBeLessThan(2)
  for (const take of passes) expect(take.endFrame - take.startFrame).toBeGreaterThanOrEqual(Math.floor(barFrames) + 48_000)
  const sound = await storedSound(page, passes[0]!.assetId)
  expect(sound.length).toBeGreaterThan(24 * barFrames)
  // Blocks of digital silence were not captured: the interface hisses. Each lies in a stretch that the take tells of.
  const told = passes.flatMap(take => take.flaws.map(flaw => ({ from: flaw.startFrame - take.originFrame, to: flaw.endFrame - take.originFrame })))
  const isTold = (start: number, end: number) => told.some(({ from, to }) => end > from - 256 && start < to + 256)
  const first = passes[0]!.startFrame - passes[0]!.originFrame
  const last = passes[23]!.endFrame - passes[23]!.originFrame
  for (let at = Math.ceil(first / 128) * 128; at + 128 <= last; at += 128)
    if (sound.subarray(at, at + 128).every(sample => sample === 0)) expect(isTold(at, at + 1), `frame ${at} of ${last} is silent and not told`).toBe(true)
  // The singer sings the same every fourth pass: what was captured on both sides of a stall is where it was sung.
  const [bar, across] = [passes[0]!, passes[4]!].map(take => song.takes[0]!.startFrame + 48_000 - take.originFrame)
  for (let pass = 0; pass < 20; pass++) {
    const [here, there] = [bar! + pass * turns[0]!, across! + pass * turns[0]!]
    for (let at = 0; at + 4_800 < barFrames; at += 4_800) {
      // A stall may be shorter than the piece that is compared, and lie inside it.
      if ([here, there].some(from => isTold(from + at, from + at + 4_800))) continue
      const [a, b] = [here, there].map(from => sound.subarray(from + at, from + at + 4_800))
      const power = (x: Float32Array, y: Float32Array) => x.reduce((sum, sample, i) => sum + sample * y[i]!, 0)
      if (power(a!, a!) > 1) expect(power(a!, b!) / Math.sqrt(power(a!, a!) * power(b!, b!))).toBeGreaterThan(0.9)
    }
  }
})

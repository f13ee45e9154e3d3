/** Two stories without a pointer: a rapper who has no words, and a singer who changes words, tempo and a section when all is sung. */
import { expect, type Locator, type Page } from '@playwright/test'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Song } from '../src/core/song/schema'
import { placedLines } from '../src/core/song/select'
import { CHROMIUM } from './chromium'
import { openPrepared, test } from './prepared'
import { openWav, storedSong, wavFile } from './support'

const RATE = 48_000

/** Tab until a control has the focus. It never is the page that has it. */
async function tabTo(page: Page, control: Locator): Promise<void> {
  await control.waitFor()
  for (let i = 0; i < 200; i++) {
    if (await control.evaluate(element => element === document.activeElement)) return
    await page.keyboard.press('Tab')
  }
  throw new Error('not reached by Tab')
}

async function press(page: Page, control: Locator, key = 'Enter'): Promise<void> {
  await tabTo(page, control)
  await page.keyboard.press(key)
}

const focusIsOnThePage = (page: Page) => page.evaluate(() => document.activeElement === document.body)

/** 24 bars of 6/8, 80 dotted quarters a minute: a drum on one, a clap on four, a hat on every eighth, a low note that follows the bars. */
function sixEightBeat(): string {
  const eighth = RATE / 4
  const sound = new Float32Array(24 * 6 * eighth)
  let noise = 1
  for (let i = 0; i < sound.length; i++) {
    const step = Math.floor(i / eighth) % 6
    const at = (i % eighth) / RATE
    noise = (noise * 16_807) % 2_147_483_647
    const hiss = noise / 1_073_741_824 - 1
    if (step === 0) sound[i]! += 0.6 * Math.sin(2 * Math.PI * 50 * at) * Math.exp(-at * 18)
    if (step === 3) sound[i]! += 0.25 * hiss * Math.exp(-at * 25)
    sound[i]! += 0.05 * hiss * Math.exp(-at * 80)
    const bar = Math.floor(i / (6 * eighth))
    sound[i]! += 0.12 * Math.sin((2 * Math.PI * [55, 55, 65.4, 49][bar % 4]! * i) / RATE)
  }
  const path = join(mkdtempSync(join(tmpdir(), 'plush-six-')), 'quay.wav')
  writeFileSync(path, wavFile([sound]))
  return path
}

/** Someone who talks in bursts, never twice the same. */
function microphone(): string {
  const sound = Float32Array.from({ length: 20 * RATE }, (_, i) => {
    const t = i / RATE
    const syllable = t % 0.31
    const hz = 130 + 40 * Math.sin(3.7 * t) - 60 * syllable
    return syllable < 0.24 ? 0.3 * Math.sin(2 * Math.PI * hz * t) * Math.sin((Math.PI * syllable) / 0.24) : 0
  })
  const path = join(mkdtempSync(join(tmpdir(), 'plush-mic-')), 'rap.wav')
  writeFileSync(path, wavFile([sound]))
  return path
}

test.use({ launchOptions: { ...CHROMIUM, args: [...CHROMIUM.args, `--use-file-for-fake-audio-capture=${microphone()}`] } })

test.describe('a rapper', () => {
  test('a 6/8 beat without words, three passes, a comp by bars, a double and a file, by keys alone', async ({ page }) => {
    await page.goto('/')
    const chooser = page.waitForEvent('filechooser')
    await press(page, page.getByRole('button', { name: 'New song from a beat' }))
    await (await chooser).setFiles(sixEightBeat())
    await expect(page.getByRole('heading', { level: 1, name: /bpm/ })).toBeVisible({ timeout: 60_000 })
    expect(await focusIsOnThePage(page)).toBe(false)
    const metre = page.getByLabel('Metre')
    await expect(metre).toBeVisible()
    if ((await metre.inputValue()) !== '6/8') {
      await tabTo(page, metre)
      await page.keyboard.type('6/8')
    }
    await expect(metre).toHaveValue('6/8')
    await press(page, page.getByRole('button', { name: 'Go and sing' }))
    await press(page, page.getByRole('button', { name: 'Open a microphone' }).first())
    await expect(page.getByText(/estimated from the browser’s figures/)).toBeVisible()
    expect(await focusIsOnThePage(page)).toBe(false)

    const sections = page.getByLabel('Song sheet').getByRole('button', { name: /bars \d+ to \d+/ })
    await press(page, sections.first())
    await page.keyboard.press('l')
    await page.keyboard.press('r')
    await expect(page.getByText('Pass 3')).toBeVisible({ timeout: 90_000 })
    await page.waitForTimeout(6_000)
    await page.keyboard.press('r')
    await expect.poll(async () => (await storedSong(page)).takes.length, { timeout: 30_000 }).toBe(3)

    await page.keyboard.press('3')
    await press(page, page.getByRole('button', { name: 'By bars' }))
    await expect(page.locator('[data-line]').first()).toBeVisible()
    expect(await focusIsOnThePage(page)).toBe(false)
    // From the section down to the line: another pass for one of them.
    await page.keyboard.press('.')
    await page.keyboard.press('ArrowDown')
    await page.keyboard.press('Enter')
    await expect.poll(async () => new Set((await storedSong(page)).layers[0]!.comps[0]!.picks.map(pick => pick.takeId)).size).toBe(2)

    await page.keyboard.press('4')
    await press(page, page.getByRole('button', { name: 'Doubles', exact: true }))
    await press(page, page.getByRole('button', { name: /^Make the doubles of/ }))
    await expect.poll(async () => (await storedSong(page)).layers.filter(layer => layer.role === 'double')[0]!.comps[0]!.picks.length).toBeGreaterThan(0)

    await page.keyboard.press('7')
    await press(page, page.getByRole('button', { name: /^Render/ }))
    const save = page.locator('[data-delivery$="mix.wav"]').getByRole('link', { name: 'Save' })
    await expect(save).toBeVisible({ timeout: 90_000 })
    expect(await focusIsOnThePage(page)).toBe(false)
    await tabTo(page, save)
    const [download] = await Promise.all([page.waitForEvent('download'), page.keyboard.press('Enter')])
    const { planes } = await openWav(download)
    expect(planes[0]!.length).toBeGreaterThan(30 * RATE)
    expect(planes[0]!.some(sample => Math.abs(sample) > 0.1)).toBe(true)
  })
})

test.describe('a singer', () => {
  test.use({ prepared: 'demo' })

  test('two words, the tempo and a section changed after all is sung: every pick is where it was, by keys alone', async ({ page }) => {
    await openPrepared(page)
    const before = await storedSong(page)
    const picks = (song: Song) => song.layers.map(layer => layer.comps.map(comp => comp.picks))
    const lines = (song: Song) => placedLines(song).map(({ line, startFrame, endFrame }) => ({ id: line.id, startFrame, endFrame }))
    const [verse, hook] = before.sections.filter(section => section.lines.length > 0)

    await page.keyboard.press('w')
    const lyrics = page.getByLabel('Lyrics')
    await tabTo(page, lyrics)
    const words = await lyrics.inputValue()
    const [first, second] = [verse!.lines[0]!.words, hook!.lines[1]!.words]
    const other = (text: string) => text.replace(/\S+$/, 'otherwise')
    await page.keyboard.press('Control+a')
    await page.keyboard.insertText(words.replace(first, other(first)).replaceAll(second, other(second)))
    await press(page, page.getByRole('button', { name: 'Lay them over the bars' }))
    await expect
      .poll(async () => (await storedSong(page)).sections.flatMap(section => section.lines).filter(line => /otherwise$/.test(line.words)).length)
      .toBeGreaterThan(1)

    await page.keyboard.press('1')
    await tabTo(page, page.getByLabel('Tempo in bpm'))
    await page.keyboard.insertText('96,5')
    await page.keyboard.press('Enter')
    await press(page, page.getByRole('alertdialog').getByRole('button', { name: 'Where they are sung' }))
    await expect.poll(async () => (await storedSong(page)).beat.grid.tempoBpm).toBe(96.5)

    await press(page, page.getByLabel('Song sheet').getByRole('button', { name: new RegExp(`^${hook!.name} bars`) }))
    const bar = page.getByLabel('First bar of the section')
    await tabTo(page, bar)
    const startBar = Number(await bar.inputValue())
    await page.keyboard.insertText(String(startBar - 1))
    await page.keyboard.press('Enter')
    await expect.poll(async () => (await storedSong(page)).sections.find(section => section.id === hook!.id)!.startBar).toBe(startBar - 1)

    const after = await storedSong(page)
    expect(picks(after)).toEqual(picks(before))
    expect(lines(after).map(line => line.id)).toEqual(lines(before).map(line => line.id))
    // A tempo is typed, a section moved, and nobody's line begins a millisecond elsewhere.
    lines(after).forEach((line, i) => expect(Math.abs(line.startFrame - lines(before)[i]!.startFrame)).toBeLessThan(48))

    // All of it taken back at once.
    await page.keyboard.press('u')
    await press(page, page.getByRole('dialog').getByRole('button', { name: 'Before all of these' }))
    await expect.poll(async () => (await storedSong(page)).sections).toEqual(before.sections)
    expect((await storedSong(page)).beat.grid).toEqual(before.beat.grid)
  })
})

test.describe('on the Shelf', () => {
  test.use({ prepared: 'demo' })

  test('a song is brought in twice, renamed, binned, and not removed after all, by keys alone', async ({ page }) => {
    await openPrepared(page)
    await page.goto('/')
    const card = (title: string) => page.getByRole('article', { name: title, exact: true })
    await press(page, page.getByRole('button', { name: 'Open the demo song' }))
    await expect(page.getByText('The same beat and takes are here already, as “Slow Ferry”.')).toBeVisible({ timeout: 60_000 })
    expect(await focusIsOnThePage(page)).toBe(false)
    await press(page, page.getByRole('button', { name: 'Open the one that is here' }))
    await expect(page.locator('[data-line]').first()).toBeVisible()
    await page.goto('/')
    await expect(page.getByRole('article')).toHaveCount(1)

    await press(page, card('Slow Ferry').getByRole('button', { name: 'Rename Slow Ferry' }))
    await page.keyboard.press('Control+a')
    await page.keyboard.insertText('Last Boat')
    await page.keyboard.press('Enter')
    await expect(card('Last Boat')).toBeVisible()
    expect(await focusIsOnThePage(page)).toBe(false)
    await press(page, card('Last Boat').getByRole('button', { name: 'Put Last Boat in the bin' }))
    await press(page, page.getByRole('button', { name: 'Bin (1)' }))
    expect(await focusIsOnThePage(page)).toBe(false)
    const remove = card('Last Boat').getByRole('button', { name: 'Remove for good …' })
    await press(page, remove)
    // The way out has the focus, and Escape is one too.
    await expect(card('Last Boat').getByRole('button', { name: 'Keep it' })).toBeFocused()
    await page.keyboard.press('Escape')
    await expect(remove).toBeVisible()
    expect(await focusIsOnThePage(page)).toBe(false)
    await press(page, card('Last Boat').getByRole('button', { name: 'Put back' }))
    await expect(page.getByRole('button', { name: /^Bin/ })).toBeHidden()
    expect(await focusIsOnThePage(page)).toBe(false)
  })
})

/** A killed browser, bad files, other songs: what must not be lost or spoiled. */
import { chromium } from '@playwright/test'
import { execFileSync } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { CHROMIUM } from './chromium'
import { expect, openPrepared, test } from './prepared'
import { beatFile, room, startSong, wavFile } from './support'

test('killing the browser in the middle of a take loses less than half a second of it', async () => {
  const profile = mkdtempSync(join(tmpdir(), 'plush-profile-'))
  const launch = () => chromium.launchPersistentContext(profile, { ...CHROMIUM, baseURL: 'http://localhost:4610', viewport: { width: 1280, height: 800 } })
  const context = await launch()
  const page = await context.newPage()
  await startSong(page)
  const address = page.url()
  await room(page, 'Booth')
  await page.getByRole('button', { name: 'Practice singer' }).click()
  await page.getByRole('button', { name: 'Whole song' }).click()
  await expect(page.getByText(/Will record/)).toBeVisible()
  await page.keyboard.press('r')
  await expect(page.getByText('Pass 1')).toBeVisible({ timeout: 60_000 })
  const singing = Date.now()
  await page.waitForTimeout(6_000)
  const sungSeconds = (Date.now() - singing) / 1_000
  execFileSync('pkill', ['-9', '-f', profile])
  await context.close().catch(() => {})

  const again = await launch()
  const reopened = await again.newPage()
  await reopened.goto(address)
  const notice = reopened.getByText(/A recording was cut off when this song was closed: ([\d.]+) s of it are kept/)
  await expect(notice).toBeVisible()
  const keptSeconds = Number(/([\d.]+) s/.exec((await notice.textContent())!)![1])
  // The count-in of one bar (2.6 s) was captured as well.
  expect(keptSeconds).toBeGreaterThan(sungSeconds + 2.6 - 0.5)
  await reopened.getByRole('button', { name: 'Keep it as a take' }).click()
  await expect(notice).toBeHidden()
  await room(reopened, 'Booth')
  await reopened.getByRole('button', { name: 'Whole song' }).click()
  await expect(reopened.locator('[data-take]')).toHaveCount(1)
  await again.close()
})

test('bad files are refused in words, and nothing of them stays', async ({ page }) => {
  await page.goto('/')
  const drop = (name: string, buffer: Buffer) =>
    page.getByLabel('Choose a beat or a song file').setInputFiles({ name, mimeType: 'application/octet-stream', buffer })
  const whole = wavFile([new Float32Array(96_000).fill(0.1)])
  await drop('letter.mp3', Buffer.from('Dear all, this is not a song. '.repeat(500)))
  await expect(page.getByRole('alert')).toContainText('not a sound file')
  // Text that is dropped is answered, and so is a server that is gone.
  await page.locator('main').evaluate(main => {
    const dataTransfer = new DataTransfer()
    dataTransfer.setData('text/plain', 'bring the blue cable')
    main.dispatchEvent(new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer }))
  })
  await expect(page.getByRole('alert')).toContainText('this is no file')
  await page.route('**/demo/slow-ferry.zip', route => route.abort())
  await page.getByRole('button', { name: 'Open the demo song' }).first().click()
  await expect(page.getByRole('alert')).toContainText('server gives no answer')
  await drop('empty.wav', Buffer.alloc(0))
  await expect(page.getByRole('alert')).toContainText('no sound in this file')
  await drop('broken.zip', Buffer.from('PK\x03\x04 and then nothing'))
  await expect(page.getByRole('alert')).toContainText('damaged or cut short')
  await drop('cut.wav', whole.subarray(0, 100_044))
  await expect(page.getByRole('alert')).toContainText('cut short')
  await expect(page.getByRole('article')).toHaveCount(0)
  const soundRows = () =>
    page.evaluate(async () => {
      const request = indexedDB.open('plush-layer')
      const database = await new Promise<IDBDatabase>(resolve => (request.onsuccess = () => resolve(request.result)))
      const counts = ['chunks', 'packs'].map(
        table =>
          new Promise<number>(resolve => {
            const count = database.transaction(table).objectStore(table).count()
            count.onsuccess = () => resolve(count.result)
          }),
      )
      return (await Promise.all(counts)).reduce((a, b) => a + b)
    })
  await expect.poll(soundRows).toBe(0)
  await page.getByLabel('Choose a beat or a song file').setInputFiles(beatFile(90))
  await page.getByRole('button', { name: 'Cancel' }).click()
  await expect(page.getByRole('button', { name: 'Cancel' })).toBeHidden()
  await expect(page.getByRole('article')).toHaveCount(0)
  await expect.poll(soundRows).toBe(0)
  await drop('cut.wav', whole.subarray(0, 100_044))
  // What is there of the cut file can still be used, if one says so.
  await page.getByRole('button', { name: 'Use the 1.0 s that are there' }).click()
  await expect(page.getByText('cut.wav · 0:01')).toBeVisible()
})

test('songs on the Shelf can be renamed, duplicated, binned and put back', async ({ page }) => {
  await page.goto('/')
  await page.getByLabel('Choose a beat or a song file').setInputFiles(beatFile(12))
  await expect(page.getByRole('heading', { level: 1, name: /bpm/ })).toBeVisible({ timeout: 30_000 })
  await page.getByRole('link', { name: 'Shelf: all songs' }).click()
  await page.getByRole('button', { name: 'Rename harbour beat' }).click()
  await page.getByLabel('Song title').fill('Night ferry')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Duplicate Night ferry' }).click()
  await expect(page.getByRole('article')).toHaveCount(2)
  await page.getByRole('button', { name: 'Put Night ferry in the bin' }).click()
  await expect(page.getByRole('article')).toHaveCount(1)
  await page.getByRole('button', { name: 'Bin (1)' }).click()
  await page.getByRole('button', { name: 'Put back' }).click()
  await expect(page.getByRole('article')).toHaveCount(2)
  await page.getByRole('button', { name: 'Night ferry copy', exact: true }).click()
  await expect(page.getByLabel('Song title')).toHaveValue('Night ferry copy')
})

test.describe('in the demo song', () => {
  test.use({ prepared: 'demo' })

  test('sections and grid are corrected by hand, and each correction is one step of undo', async ({ page }) => {
    await openPrepared(page)
    await room(page, 'Beat')
    await page.getByRole('button', { name: 'Verse 1', exact: true }).click()
    await page.getByRole('button', { name: 'Split at bar 9' }).click()
    await expect(page.getByRole('button', { name: 'Verse 1 b', exact: true })).toBeVisible()
    await page.getByRole('button', { name: 'Join with the next' }).click()
    await expect(page.getByRole('button', { name: 'Verse 1 b', exact: true })).toBeHidden()
    await page.getByRole('button', { name: 'Halve' }).click()
    await expect(page.getByRole('heading', { level: 1, name: /^46\.3 bpm/ })).toBeVisible()
    for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z')
    await expect(page.getByRole('heading', { level: 1, name: /^92\.6 bpm/ })).toBeVisible()
    await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeDisabled()
  })
})

/** Nothing is lost, nothing locks, nothing falls silent: odd acts that once erased a kept take, crashed the page or locked a song. */
import type { Page } from '@playwright/test'
import { expect, openPrepared, test } from './prepared'
import { openWav, position, room, stackSheet, storedSong } from './support'

/** A page that throws is never fine, whatever it shows. */
let thrown: string[] = []
test.beforeEach(({ page }) => {
  thrown = []
  page.on('pageerror', error => thrown.push(error.message))
})
test.afterEach(() => expect(thrown).toEqual([]))

async function intoTheBooth(page: Page): Promise<void> {
  await openPrepared(page)
  await room(page, 'Booth')
  await page.getByRole('button', { name: 'Practice singer' }).click()
  await expect(page.getByText(/Will record/)).toBeVisible()
}

async function record(page: Page): Promise<void> {
  await page.keyboard.press('r')
  await expect(page.getByRole('button', { name: 'Stop', exact: true }).first()).toBeVisible({ timeout: 30_000 })
}

test.describe('in a new song', () => {
  test.use({ prepared: 'song' })

  test('other rooms, another tab and the key for singing again during a take: no false recovery, the take is kept and picked', async ({ page, context }) => {
    await intoTheBooth(page)
    await record(page)
    await room(page, 'Stack')
    await page.waitForTimeout(800)
    await page.keyboard.press('g')
    const other = await context.newPage()
    await other.goto('about:blank')
    await page.waitForTimeout(800)
    await other.close()
    await room(page, 'Comp')
    await room(page, 'Booth')
    await expect(page.getByText(/was cut off/)).toBeHidden()
    // Past the two lines, however often the machine's clock stood still.
    await expect.poll(() => position(page), { timeout: 90_000, intervals: [500] }).toBeGreaterThan(16 * 8)
    await page.getByRole('button', { name: 'Stop', exact: true }).first().click()
    await expect(page.locator('[data-take]')).toHaveCount(1, { timeout: 40_000 })
    for (const name of ['Mix', 'Beat', 'Booth']) {
      await room(page, name)
      await expect(page.getByText(/was cut off/)).toBeHidden()
    }
    const song = await storedSong(page)
    expect(song.takes).toHaveLength(1)
    expect(song.layers[0]!.comps[0]!.picks.length).toBeGreaterThan(0)
  })

  test('stopped in the bars before, what came in is in the bin and it is said; words that began the recording lie in the take', async ({ page }) => {
    await intoTheBooth(page)
    await record(page)
    await page.keyboard.press('r')
    await expect(page.getByText('That ended before the stretch was sung.')).toBeVisible()
    await page.getByText('Bin (1)').click()
    await page.getByRole('button', { name: 'Put back' }).click()
    await expect(page.getByText('Bin (1)')).toBeHidden()
    const song = await storedSong(page)
    expect(song.takes).toHaveLength(1)
    expect(song.takes[0]!.binned).toBe(false)
  })

  test('undoing the template in mid-take leaves a Stop, and the take comes with its layer', async ({ page }) => {
    await intoTheBooth(page)
    await record(page)
    await page.waitForTimeout(4_000)
    // The words, then the template.
    for (let i = 0; i < 2; i++) await page.keyboard.press('Control+z')
    await expect(page.getByRole('button', { name: 'Redo “lay out the template”' })).toBeEnabled()
    await page.getByRole('button', { name: 'Stop', exact: true }).first().click()
    await expect.poll(async () => (await storedSong(page)).takes.length, { timeout: 30_000 }).toBe(1)
    const song = await storedSong(page)
    expect(song.layers.map(layer => layer.id)).toEqual([song.takes[0]!.layerId])
    await expect(page.locator('[data-take]')).toHaveCount(1)
  })

  test('after a reload in the Booth the browser waits for a gesture: it is said, one click is enough, and it records', async ({ page }) => {
    await intoTheBooth(page)
    await page.reload()
    await expect(page.getByText(/Opening \.\.\.|Opening …/)).toBeHidden()
    const asleep = page.getByText('The browser lets no sound start before a click.').first()
    if (await asleep.isVisible().catch(() => false)) await page.getByRole('button', { name: 'Let it sound' }).first().click()
    if (await page.getByRole('button', { name: 'Practice singer' }).isVisible()) await page.getByRole('button', { name: 'Practice singer' }).click()
    await expect(page.getByText(/Will record/)).toBeVisible()
    await record(page)
    await page.waitForTimeout(4_000)
    await page.getByRole('button', { name: 'Stop', exact: true }).first().click()
    await expect(page.locator('[data-take]')).toHaveCount(1, { timeout: 40_000 })
  })

  test('a song whose last step broke it opens as it was before, offers its document, and hides no other on the Shelf', async ({ page }) => {
    await openPrepared(page)
    const id = page.url().split('/')[4]!
    await page.getByLabel('Song title').fill('Second title')
    await page.keyboard.press('Enter')
    await expect(page.getByText(/^All kept/)).toBeVisible()
    await page.goto('/')
    await page.evaluate(async songId => {
      const database = await new Promise<IDBDatabase>(resolve => {
        const request = indexedDB.open('plush-layer')
        request.onsuccess = () => resolve(request.result)
      })
      const transaction = database.transaction(['songs', 'history'], 'readwrite')
      const songs = transaction.objectStore('songs')
      const row = await new Promise<{ song: Record<string, unknown>; position: number }>(resolve => {
        const request = songs.get(songId)
        request.onsuccess = () => resolve(request.result as never)
      })
      const { beat } = row.song
      const history = transaction.objectStore('history')
      const step = await new Promise<{ change: unknown }>(resolve => {
        const request = history.get([songId, row.position])
        request.onsuccess = () => resolve(request.result as never)
      })
      history.put({ ...step, change: { kind: 'fields', fields: { beat: { kind: 'value', before: beat, after: 7 } } } })
      songs.put({ ...row, song: { ...row.song, beat: 7 } })
      await new Promise(resolve => (transaction.oncomplete = resolve))
      database.close()
    }, id)
    await page.reload()
    await expect(page.getByText('This song cannot be read as it is.', { exact: false })).toBeVisible()
    await page.goto(`/song/${id}/beat`)
    await expect(page.getByText('The last thing done could not be read: the song is as it was before.')).toBeVisible()
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save the document as it was' }).click()])
    expect(download.suggestedFilename()).toMatch(/\.json$/)
    await page.getByLabel('Song title').fill('Mended')
    await page.keyboard.press('Enter')
    await expect(page.getByText(/^All kept/)).toBeVisible()
    await page.reload()
    await expect(page.getByLabel('Song title')).toHaveValue('Mended')
    await expect(page.getByText('could not be read', { exact: false })).toBeHidden()
  })
})

test.describe('in the demo song', () => {
  test.use({ prepared: 'demo' })

  test('bouncing and undoing, over and over, and looking at what is gone: the page goes on', async ({ page }) => {
    await openPrepared(page)
    await page.getByRole('button', { name: 'Comps' }).first().click()
    for (let round = 0; round < 2; round++) {
      await page.getByRole('button', { name: 'Bounce to one take', exact: true }).click()
      await expect(page.getByText('It lies among the takes.')).toBeVisible({ timeout: 60_000 })
      // The bounce is looked at and heard when it goes.
      for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowDown')
      await page.keyboard.press('Space')
      await page.keyboard.press('Control+z')
      await page.keyboard.press('Space')
      await expect(page.getByRole('button', { name: 'Bounce to one take', exact: true })).toBeVisible()
    }
    await page.keyboard.press('Control+Shift+z')
    await page.keyboard.press('Control+z')
    for (const name of ['Booth', 'Stack', 'Mix', 'Comp']) await room(page, name)
    await expect(page.getByRole('heading', { level: 1, name: 'Harbour radio hums in the rain' })).toBeVisible()
  })

  test('one changed word leaves every line, its time and its picks; a layer that is not empty is asked about', async ({ page }) => {
    await openPrepared(page)
    const before = await storedSong(page)
    await page.getByRole('button', { name: 'Words', exact: true }).click()
    const words = page.getByLabel('Lyrics')
    await words.fill((await words.inputValue()).replace('Harbour radio', 'Harbour wireless'))
    await page.getByRole('button', { name: 'Lay them over the bars' }).click()
    await expect(page.getByRole('heading', { level: 1, name: 'Harbour wireless hums in the rain' })).toBeVisible()
    const after = await storedSong(page)
    const places = (song: typeof before) =>
      song.sections.map(({ id, startBar, barCount, lines }) => [id, startBar, barCount, lines.map(line => [line.id, line.startBeat, line.beatCount])])
    expect(places(after)).toEqual(places(before))
    expect(after.layers).toEqual(before.layers)
    await stackSheet(page, 'Layers')
    await page.getByRole('button', { name: 'Lay the template again' }).click()
    await page.getByRole('button', { name: 'Remove Lead' }).click()
    await expect(page.getByRole('alertdialog')).toContainText(/takes? would go to the bin/)
    await page.getByRole('button', { name: 'Keep it' }).click()
    expect((await storedSong(page)).takes.filter(take => !take.binned)).toHaveLength(before.takes.filter(take => !take.binned).length)
  })

  test('what a song cannot hold is refused in words, and everything goes on: layers, a beat beyond an hour, pasted nonsense', async ({ page }) => {
    await openPrepared(page)
    await stackSheet(page, 'Layers')
    const add = page.getByRole('button', { name: 'Add a layer', exact: true })
    const count = (await storedSong(page)).layers.length
    for (let i = count; i < 65; i++) await add.click()
    await expect(page.getByText('A song holds at most 64 layers. Remove one that is not needed first.')).toBeVisible()
    await page.getByRole('button', { name: 'Words', exact: true }).click()
    await page.getByLabel('Lyrics').fill(`[${'x'.repeat(400)} | bar 999999]\n${'la\n'.repeat(501)}`)
    await page.getByRole('button', { name: 'Lay them over the bars' }).click()
    await expect(page.getByText(/A section holds at most 500 lines/)).toBeVisible()
    const address = page.url()
    await page.reload()
    await expect(page).toHaveURL(address)
    await expect(page.getByText(/cannot be opened/)).toBeHidden()
    await expect(page.locator('[data-line]').first()).toBeVisible()
    expect((await storedSong(page)).layers).toHaveLength(64)
  })

  test('a held key is one step of undo', async ({ page }) => {
    await openPrepared(page)
    await room(page, 'Mix')
    const slider = page.locator('main').getByRole('slider').first()
    await slider.focus()
    const before = await slider.getAttribute('aria-valuenow')
    for (let i = 0; i < 40; i++) await page.keyboard.down('ArrowLeft')
    await page.keyboard.up('ArrowLeft')
    await expect(slider).not.toHaveAttribute('aria-valuenow', before!)
    await page.getByRole('button', { name: /^Undo/ }).click()
    await expect(slider).toHaveAttribute('aria-valuenow', before!)
  })

  test('deliveries say the truth: nothing that sounds is no file, a solo is said, missing sound is named; rows outlive the room', async ({ page }) => {
    test.setTimeout(240_000)
    await openPrepared(page)
    await room(page, 'Mix')
    await page
      .getByRole('button', { name: /^Solo Lead|Solo the lead|Solo/ })
      .first()
      .click()
    await room(page, 'Deliver')
    await expect(page.getByText(/A solo is on: the final mix holds only/)).toBeVisible()
    await page.getByRole('button', { name: 'Switch it off' }).click()
    await expect(page.getByText(/A solo is on/)).toBeHidden()
    await page.getByRole('button', { name: 'Render 3 files' }).click()
    await room(page, 'Comp')
    await page.waitForTimeout(500)
    await room(page, 'Deliver')
    await expect(page.locator('[data-delivery]').getByRole('link', { name: 'Save' })).toHaveCount(3, { timeout: 120_000 })
    // A chunk of a take that is picked goes.
    await page.evaluate(async () => {
      const database = await new Promise<IDBDatabase>(resolve => {
        const request = indexedDB.open('plush-layer')
        request.onsuccess = () => resolve(request.result)
      })
      const songId = location.pathname.split('/')[2]!
      const transaction = database.transaction(['songs', 'packs'], 'readwrite')
      const { song } = await new Promise<{ song: { takes: { id: string; assetId: string }[]; layers: { comps: { picks: { takeId: string }[] }[] }[] } }>(
        resolve => {
          const request = transaction.objectStore('songs').get(songId)
          request.onsuccess = () => resolve(request.result as never)
        },
      )
      const picked = song.layers[0]!.comps[0]!.picks[0]!.takeId
      const { assetId } = song.takes.find(take => take.id === picked)!
      transaction.objectStore('packs').delete(IDBKeyRange.bound([assetId, 0], [assetId, Infinity]))
      await new Promise(resolve => (transaction.oncomplete = resolve))
      database.close()
    })
    await page.getByRole('button', { name: 'Vocals alone' }).click()
    await page.getByRole('button', { name: 'Beat alone' }).click()
    await page.getByRole('button', { name: 'Render final mix' }).click()
    await expect(page.getByText(/Not stored: .* of Lead from/)).toBeVisible({ timeout: 60_000 })
    await page.getByRole('button', { name: 'Go on without it' }).click()
    const link = page.locator('[data-delivery$="mix 2.wav"]').getByRole('link', { name: 'Save' })
    await expect(link).toBeVisible({ timeout: 60_000 })
    const [download] = await Promise.all([page.waitForEvent('download'), link.click()])
    expect((await openWav(download)).planes[0]!.some(sample => Math.abs(sample) > 0.05)).toBe(true)
  })
})

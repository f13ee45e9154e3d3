/** The bench itself: moved through by wheel, pitch on the strips, several layers side by side; and a bounce that is made anew. */
import type { Page } from '@playwright/test'
import { currentComp, placedLines } from '../src/core/song/select'
import { trackPitch } from '../src/core/voice/pitch'
import { expect, openPrepared, test } from './prepared'
import { openWav, storedSong, storedSound } from './support'

test.use({ prepared: 'demo' })

const bench = (page: Page) => page.getByRole('group', { name: 'The takes' })

/** Where bars lie on the bench, in pixels of the page, by their number. */
function barsInView(page: Page): Promise<Record<string, number>> {
  return bench(page).evaluate(element =>
    Object.fromEntries(
      [...element.querySelectorAll('span')]
        .filter(span => /^\d+$/.test(span.textContent ?? ''))
        .map(span => [span.textContent!, span.getBoundingClientRect().left]),
    ),
  )
}

test('the wheel zooms round the pointer and moves along; Escape goes back to the stretch', async ({ page }) => {
  await openPrepared(page)
  await expect(page.locator('[data-row]').first()).toBeVisible()
  const before = await barsInView(page)
  const [left, right] = Object.keys(before)
    .map(Number)
    .sort((a, b) => a - b)
    .filter(bar => before[bar]! > 480 && before[bar]! < 1_200)
  const y = (await page.locator('[data-row]').first().boundingBox())!.y + 20
  await page.mouse.move(before[left!]!, y)
  await page.keyboard.down('Control')
  await page.mouse.wheel(0, -200)
  await page.keyboard.up('Control')
  const wider = () => barsInView(page).then(bars => bars[right!]! - bars[left!]!)
  await expect.poll(wider).toBeGreaterThan(1.4 * (before[right!]! - before[left!]!))
  const zoomed = await barsInView(page)
  expect(Math.abs(zoomed[left!]! - before[left!]!)).toBeLessThan(2)
  // What lies on the bench moves with its bars: the seam at the line's end is a handle on it.
  await page.mouse.wheel(120, 0)
  await expect.poll(async () => (await barsInView(page))[left!]!).toBeLessThan(zoomed[left!]! - 50)
  const moved = await barsInView(page)
  expect(moved[right!]! - moved[left!]!).toBeCloseTo(zoomed[right!]! - zoomed[left!]!, 0)
  await page.keyboard.press('Escape')
  await expect.poll(() => barsInView(page)).toEqual(before)
})

test('pitch and onsets are drawn on the strips; doubles are picked side by side, each into its own layer', async ({ page }) => {
  await openPrepared(page)
  await page.locator('[data-line]').nth(6).click()
  // One double is silent here, to be chosen by ear against the other.
  await page.getByLabel('Layer').selectOption('Double right')
  await page.getByRole('heading', { level: 1 }).click()
  await page.keyboard.press('x')
  await expect(page.getByRole('button', { name: 'Undo “clear it”' })).toBeVisible()
  await page.getByLabel('Layer').selectOption('Double left')
  await expect(page.getByText('listening …')).toHaveCount(0, { timeout: 120_000 })
  await page.getByRole('heading', { level: 1 }).click()
  const overlays = page.locator('[data-row] canvas[aria-hidden]')
  await expect(overlays).toHaveCount(0)
  await page.keyboard.press('i')
  await expect(overlays).toHaveCount(await page.locator('[data-row]').count())
  const painted = () =>
    overlays.evaluateAll(canvases =>
      Math.min(
        ...(canvases as HTMLCanvasElement[]).map(
          canvas =>
            canvas
              .getContext('2d')!
              .getImageData(0, 0, canvas.width, canvas.height)
              .data.filter((value, i) => i % 4 === 3 && value > 0).length,
        ),
      ),
    )
  await expect.poll(painted).toBeGreaterThan(1_000)
  await page.keyboard.press('i')
  await expect(overlays).toHaveCount(0)

  await page.keyboard.press('y')
  const rows = page.locator('[data-row]')
  await expect(rows.filter({ hasText: 'Double left ·' }).first()).toBeVisible()
  await expect(rows.filter({ hasText: 'Double right ·' }).first()).toBeVisible()
  const song = await storedSong(page)
  const line = placedLines(song)[6]!
  const middle = (line.startFrame + line.endFrame) / 2
  const played = (from: typeof song, name: string) =>
    currentComp(from.layers.find(layer => layer.name === name)!).picks.find(pick => pick.startFrame <= middle && pick.endFrame > middle)?.takeId ?? null
  expect(played(song, 'Double right')).toBeNull()
  const other = rows.filter({ hasText: 'Double right ·' }).first()
  const takeId = await other.getAttribute('data-row')
  await other.click()
  await expect.poll(async () => played(await storedSong(page), 'Double right')).toBe(takeId)
  expect(played(await storedSong(page), 'Double left')).toBe(played(song, 'Double left'))
})

test('a row that was out of view while things changed is up to date when it comes into view', async ({ page }) => {
  await openPrepared(page)
  // The first pass is there ten times more.
  await page.evaluate(async () => {
    const database = await new Promise<IDBDatabase>(
      resolve => (indexedDB.open('plush-layer').onsuccess = event => resolve((event.target as IDBOpenDBRequest).result)),
    )
    const songs = database.transaction('songs', 'readwrite').objectStore('songs')
    await new Promise<void>(resolve => {
      songs.getAll().onsuccess = event => {
        const [row] = (event.target as IDBRequest<{ song: { takes: { id: string; name: string }[] } }[]>).result
        for (let i = 0; i < 10; i++) row!.song.takes.push({ ...row!.song.takes[0]!, id: `more-${i}`, name: `More ${i}` })
        songs.put(row).onsuccess = () => resolve()
      }
    })
    database.close()
  })
  await page.reload()
  const rows = page.locator('[data-row]')
  const last = rows.last()
  const list = page.locator('[data-bench-rows]')
  const scrollTo = (end: boolean) => list.evaluate((element, down) => (element.scrollTop = down ? element.scrollHeight : 0), end)
  // It is made while there is nothing else to do, but keys and screen readers do not come upon it.
  await expect(rows).toHaveCount(14)
  await expect(last).toBeHidden()
  expect(await list.evaluate(element => element.scrollHeight)).toBe(14 * 74)
  await page.keyboard.press('i')
  await scrollTo(true)
  await expect(last.locator('canvas[aria-hidden]')).toHaveCount(1, { timeout: 60_000 })
  await last.evaluate(element => (element as HTMLElement).click())
  await expect(last).toHaveAttribute('aria-pressed', 'true')
  await scrollTo(false)
  await expect(last).toBeHidden()
  await page.keyboard.press('Control+z')
  await scrollTo(true)
  await expect(last).toHaveAttribute('aria-pressed', 'false')
})

test('a bounce says when its comp plays otherwise, and is made anew in its place; a comp is renamed', async ({ page }) => {
  await openPrepared(page)
  await page.getByRole('button', { name: 'Comps', exact: true }).click()
  await page.getByRole('button', { name: 'Bounce to one take' }).click()
  await expect(page.getByRole('button', { name: 'Bounced' })).toBeVisible({ timeout: 30_000 })
  const first = (await storedSong(page)).takes.at(-1)!
  expect(first.bounceOf).not.toBeNull()
  await page.locator('[data-row][aria-pressed="false"]:not([aria-label*="used in"]):not([aria-label*="bounce"])').first().click()
  await expect(page.getByRole('button', { name: 'Refresh the bounce' })).toBeVisible()
  await expect(page.locator(`[data-row="${first.id}"]`)).toHaveAttribute('aria-label', /bounce, no longer what the comp plays/)
  await page.getByRole('button', { name: 'Refresh the bounce' }).click()
  await expect(page.getByRole('button', { name: 'Bounced' })).toBeVisible({ timeout: 30_000 })
  await expect.poll(async () => (await storedSong(page)).takes.filter(take => take.bounceOf && !take.binned).length).toBe(1)
  const second = (await storedSong(page)).takes.find(take => take.bounceOf && !take.binned)!
  expect(second.assetId).not.toBe(first.assetId)
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save as WAV' }).click()])
  const file = (await openWav(download)).planes[0]!
  const bounced = await storedSound(page, second.assetId)
  expect(bounced.some(sample => sample !== 0)).toBe(true)
  expect(bounced.findIndex((sample, i) => sample !== file[second.originFrame + i])).toBe(-1)

  await page.getByLabel('Name of Comp 1').fill('after the rain')
  await page.keyboard.press('Enter')
  await expect.poll(async () => currentComp((await storedSong(page)).layers[0]!).name).toBe('after the rain')
})

test('the pitch of a word is moved, heard in a file and after a reload, and left out again as sung', async ({ page }) => {
  await openPrepared(page)
  const save = async () => {
    await page.getByRole('button', { name: 'Comps', exact: true }).click()
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save as WAV' }).click()])
    await page.getByRole('button', { name: 'Comps', exact: true }).click()
    return (await openWav(download)).planes[0]!
  }
  const before = await save()
  await page.getByRole('button', { name: 'Word', exact: true }).click()
  const pitch = page.getByRole('textbox', { name: 'Pitch of this word in cents' })
  await pitch.fill('300')
  await page.keyboard.press('Enter')
  await expect.poll(async () => (await storedSong(page)).takes.flatMap(take => take.edits.notes)).toHaveLength(1)
  await expect(page.getByText(/^Making/)).toHaveCount(0)

  const song = await storedSong(page)
  const take = song.takes.find(entry => entry.edits.notes.length > 0)!
  const [note] = take.edits.notes
  const [from, to] = [note!.startFrame + take.originFrame, note!.endFrame + take.originFrame]
  const moved = await save()
  expect(moved).toHaveLength(before.length)
  const stretch = (sound: Float32Array) => trackPitch(sound.slice(from, to)).f0Hz
  const [was, is] = [stretch(before), stretch(moved)]
  const cents = [...was].flatMap((hz, i) => (hz > 0 && is[i]! > 0 ? [1_200 * Math.log2(is[i]! / hz)] : [])).sort((a, b) => a - b)
  expect(cents.length).toBeGreaterThan(10)
  expect(Math.abs(cents[cents.length >> 1]! - 300)).toBeLessThan(8)
  // All that lies apart from it is as it was, sample by sample.
  const differs = (start: number, end: number) => before.subarray(start, end).findIndex((sample, i) => sample !== moved[start + i])
  expect([differs(0, from - 4_800), differs(to + 48_000, before.length)]).toEqual([-1, -1])

  await page.reload()
  await page.getByRole('button', { name: 'Word', exact: true }).click()
  await expect(pitch).toHaveValue('300')
  await page.getByRole('button', { name: 'Tone as sung' }).click()
  expect((await save()).findIndex((sample, i) => sample !== before[i])).toBe(-1)
})

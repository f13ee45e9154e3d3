/** What goes from one browser to another: a template, a song and what a friend added to it, all songs at once. */
import type { Browser, Page } from '@playwright/test'
import { readFile } from 'node:fs/promises'
import { unzipSync } from 'fflate'
import { readTemplate } from '../src/core/layers/template-file'
import { VIEWPORT } from '../playwright.config'
import { violations } from './access'
import { expect, openPrepared, test } from './prepared'
import { beatPath, room, storedSong } from './support'

/** A browser that has never been here. */
async function another(browser: Browser): Promise<Page> {
  const context = await browser.newContext({ viewport: VIEWPORT, acceptDownloads: true })
  const page = await context.newPage()
  // A microphone that hums softly; the browser's own stand-in is far too loud.
  await page.addInitScript(() => {
    navigator.mediaDevices.getUserMedia = () => {
      const audio = new AudioContext()
      const [tone, gain, out] = [audio.createOscillator(), audio.createGain(), audio.createMediaStreamDestination()]
      gain.gain.value = 0.1
      tone.connect(gain).connect(out)
      tone.start()
      return Promise.resolve(out.stream)
    }
  })
  await page.goto('/')
  return page
}

async function saved(page: Page, act: () => Promise<void>): Promise<{ path: string; name: string }> {
  const [download] = await Promise.all([page.waitForEvent('download', { timeout: 240_000 }), act()])
  return { path: await download.path(), name: download.suggestedFilename() }
}

test.describe('from the demo song', () => {
  test.use({ prepared: 'demo' })

  test('a template is made of it, given away, brought in elsewhere, and a song begins with it in three acts', async ({ page, browser }) => {
    await openPrepared(page)
    await room(page, 'Stack')
    await page.getByRole('button', { name: 'Layers', exact: true }).click()
    await page.getByRole('button', { name: 'Templates …' }).click()
    const dialog = page.getByRole('dialog', { name: 'Templates' })
    await dialog.getByRole('textbox', { name: 'Name of the new template' }).fill('Night songs')
    await page.keyboard.press('Enter')
    await dialog.getByRole('textbox', { name: 'What it is for' }).fill('the last boat')
    await page.keyboard.press('Enter')
    await dialog.getByRole('button', { name: 'Save it' }).click()
    const own = dialog.getByRole('listitem', { name: 'Night songs' })
    await expect(own).toContainText('the last boat')
    expect(await violations(page)).toEqual([])
    const file = await saved(page, () => own.getByRole('button', { name: 'Save Night songs as a file' }).click())
    expect(file.name).toBe('Night songs.json')
    const read = readTemplate(await readFile(file.path, 'utf8'))
    const song = await storedSong(page)
    expect(read).toMatchObject({ ok: true, template: { name: 'Night songs' } })
    if (read.ok) expect(read.template.layers.map(layer => layer.name)).toEqual(song.layers.map(layer => layer.name))

    const friend = await another(browser)
    // One: drop a beat.
    await friend.getByLabel('Choose a beat or a song file').setInputFiles(beatPath())
    await expect(friend.getByRole('button', { name: 'Go and sing' })).toBeVisible()
    await expect(friend.getByRole('combobox', { name: 'Template' })).toContainText('Choir of one')
    // Bringing a template in is done once, in any song.
    await friend.getByRole('combobox', { name: 'Template' }).selectOption({ label: 'One voice' })
    await friend.getByRole('button', { name: 'Go and sing' }).click()
    await room(friend, 'Stack')
    await friend.getByRole('button', { name: 'Layers', exact: true }).click()
    await friend.getByRole('button', { name: 'Templates …' }).click()
    const theirs = friend.getByRole('dialog', { name: 'Templates' })
    await theirs.getByLabel('A template file').setInputFiles({ name: 'odd.json', mimeType: 'application/json', buffer: Buffer.from('{"format": "odd"}') })
    await expect(theirs.getByRole('alert')).toContainText('“odd.json” cannot be used: it is no template')
    await theirs.getByLabel('A template file').setInputFiles(file.path)
    await expect(theirs.getByRole('listitem', { name: 'Night songs' })).toBeVisible()
    await friend.keyboard.press('Escape')

    await friend.goto('/')
    await friend.getByLabel('Choose a beat or a song file').setInputFiles(beatPath())
    await friend
      .getByRole('button', { name: 'Keep both, open the new one' })
      .click({ timeout: 30_000 })
      .catch(() => {})
    // Two and three: go and sing, record.
    await expect(friend.getByRole('combobox', { name: 'Template' })).toHaveValue(/^own /)
    await friend.getByRole('button', { name: 'Go and sing' }).click()
    await friend.getByRole('button', { name: 'Record', exact: true }).click()
    await expect(friend.getByRole('button', { name: 'Stop', exact: true }).first()).toBeVisible()
    await friend.waitForTimeout(3_000)
    await friend.getByRole('button', { name: 'Stop', exact: true }).first().click()
    await expect.poll(async () => (await storedSong(friend)).takes.length).toBe(1)
    const made = await storedSong(friend)
    expect(made.layers.map(layer => layer.name)).toEqual(song.layers.map(layer => layer.name))
    expect(made.layers[0]!.id).toBe(made.takes[0]!.layerId)
    await friend.context().close()
  })

  test('a friend adds a layer to a copy of it, and that comes in beside what is here; all songs go into one file and come back elsewhere', async ({
    page,
    browser,
  }) => {
    test.setTimeout(600_000)
    await openPrepared(page)
    await room(page, 'Deliver')
    await page.getByRole('button', { name: 'only what is used' }).click()
    await page.getByRole('button', { name: 'Make a song file' }).click()
    const row = page.locator('[data-delivery="Slow Ferry.zip"]')
    await expect(row.getByRole('link', { name: 'Save' })).toBeVisible({ timeout: 240_000 })
    const copy = await saved(page, () => row.getByRole('link', { name: 'Save' }).click())

    const friend = await another(browser)
    await friend.getByLabel('Choose a beat or a song file').setInputFiles(copy.path)
    await expect(friend.getByRole('link', { name: 'Stack', exact: true })).toBeVisible({ timeout: 120_000 })
    await room(friend, 'Stack')
    await friend.getByRole('button', { name: 'Layers', exact: true }).click()
    await friend.getByRole('combobox', { name: 'Role of the new layer' }).selectOption({ label: 'Octave' })
    await friend.getByRole('button', { name: 'Add a layer' }).click()
    await room(friend, 'Booth')
    await friend.getByRole('combobox', { name: /layer/i }).first().selectOption({ label: 'Octave 1' })
    await friend.getByRole('button', { name: 'Practice singer' }).click()
    await expect(friend.getByText(/Will record/)).toBeVisible()
    const kept = async () => (await storedSong(friend)).takes.filter(take => !take.binned).length
    const had = await kept()
    await friend.keyboard.press('r')
    // What ends in the bar before goes to the bin, and what is in the bin is not brought in.
    await expect(friend.getByRole('status').filter({ hasText: /^Pass 1$/ })).toBeVisible()
    await friend.waitForTimeout(2_000)
    await friend.getByRole('button', { name: 'Stop', exact: true }).first().click()
    await expect.poll(kept).toBe(had + 1)
    await room(friend, 'Deliver')
    await friend.getByRole('button', { name: 'Make a song file' }).click()
    const theirRow = friend.locator('[data-delivery="Slow Ferry.zip"]')
    await expect(theirRow.getByRole('link', { name: 'Save' })).toBeVisible({ timeout: 240_000 })
    const back = await saved(friend, () => theirRow.getByRole('link', { name: 'Save' }).click())

    const before = await storedSong(page)
    await page.getByLabel('A song file that a friend added to').setInputFiles({ name: 'odd.zip', mimeType: 'application/zip', buffer: Buffer.from('PK no') })
    await expect(page.getByRole('alert')).toContainText('“odd.zip”: it is no song file that can be used')
    await page.getByLabel('A song file that a friend added to').setInputFiles(back.path)
    await expect(page.getByText(/^Came in: 1 take; the layer Octave 1/)).toBeVisible({ timeout: 120_000 })
    await friend.context().close()
    const after = await storedSong(page)
    expect(after.takes.length).toBe(before.takes.length + 1)
    expect(after.layers.map(layer => layer.name)).toEqual([...before.layers.map(layer => layer.name), 'Octave 1'])
    expect(after.layers.slice(0, before.layers.length)).toEqual(before.layers)
    await page.keyboard.press('Control+z')
    await expect.poll(async () => (await storedSong(page)).takes.length).toBe(before.takes.length)
    await page.keyboard.press('Control+Shift+z')
    await expect.poll(async () => (await storedSong(page)).takes.length).toBe(after.takes.length)

    await page.goto('/')
    const backup = await saved(page, () => page.getByRole('button', { name: 'Back up all songs' }).click())
    await expect(page.getByText(/^1 song, \d+ MB\./)).toBeVisible()
    expect(Object.keys(unzipSync(await readFile(backup.path)))).toEqual(['backup.json', 'songs/Slow Ferry.zip'])
    const fresh = await another(browser)
    await fresh.getByLabel('Choose a beat or a song file').setInputFiles(backup.path)
    await expect(fresh.getByText('1 song came back.')).toBeVisible({ timeout: 120_000 })
    await fresh.getByRole('button', { name: 'All right' }).click()
    await fresh.getByLabel('Choose a beat or a song file').setInputFiles(backup.path)
    await expect(fresh.getByText(/Here already, as they are in the backup: Slow Ferry/)).toBeVisible({ timeout: 120_000 })
    await fresh.getByRole('button', { name: 'Slow Ferry', exact: true }).click()
    const restored = await storedSong(fresh)
    expect(restored.takes.map(take => take.name)).toEqual(after.takes.map(take => take.name))
    await fresh.context().close()
  })
})

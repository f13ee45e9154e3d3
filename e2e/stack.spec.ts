/** Stack: a double follows the lead, a harmony is written, seen and sung by a made voice; measured in the files that come out. */
import type { Page } from '@playwright/test'
import { parseMidi } from 'midi-file'
import { readFileSync } from 'node:fs'
import { findAnchors } from '../src/core/align/follow'
import { requirePlacedLine } from '../src/core/song/select'
import { centsOf } from '../src/core/voice/notes'
import { trackPitch } from '../src/core/voice/pitch'
import { violations } from './access'
import { expect, openPrepared, test } from './prepared'
import { openWav, renderEachLayer, room, saveDelivery, selectOnSheet, stackSheet, storedSong } from './support'

test.use({ prepared: 'demo' })

/** What a layer plays, with what is laid over it and nothing of the mix. */
async function saveComp(page: Page, layer: string): Promise<Float32Array<ArrayBuffer>> {
  await room(page, 'Comp')
  await page.getByRole('combobox', { name: 'Layer', exact: true }).selectOption({ label: layer })
  await page.getByRole('button', { name: 'Comps', exact: true }).click()
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save as WAV' }).click()])
  await page.getByRole('button', { name: 'Comps', exact: true }).click()
  return Float32Array.from((await openWav(download)).planes[0]!)
}

test('a double is brought to the lead, by hand too and to another take of it, one line stays as sung, a line that is late as a whole is moved, and undo gives all back', async ({
  page,
}) => {
  test.setTimeout(240_000)
  await openPrepared(page)
  await selectOnSheet(page, /^Hook 1/)
  const [lead, asSung] = [await saveComp(page, 'Lead'), await saveComp(page, 'Double left')]
  await stackSheet(page, 'With the lead')
  await page.getByRole('combobox', { name: 'Layer that follows' }).selectOption({ label: 'Double left' })
  await page.getByRole('button', { name: 'tightly', exact: true }).click()
  const rows = page.getByRole('list', { name: 'Lines that follow the lead' }).getByRole('listitem')
  await expect(rows).toHaveCount(4)
  await expect(rows.getByText(/ms off as sung, 0 so$/)).toHaveCount(4, { timeout: 60_000 })
  await rows
    .nth(1)
    .getByRole('button', { name: /follows the lead$/ })
    .click()
  await expect(rows.nth(1).getByText('as sung', { exact: true })).toBeVisible()
  expect(await violations(page)).toEqual([])

  const song = await storedSong(page)
  const lines = song.sections.find(({ name }) => name === 'Hook 1')!.lines.map(({ id }) => requirePlacedLine(song, id))
  const off = (sound: Float32Array<ArrayBuffer>, line: number) => {
    const [from, to] = [lines[line]!.startFrame, lines[line]!.endFrame]
    const all = findAnchors(lead.slice(from, to), sound.slice(from, to)).map(anchor => 1_000 * Math.abs(anchor.otherSeconds - anchor.leadSeconds))
    return all.sort((a, b) => a - b)[all.length >> 1]!
  }
  const together = await saveComp(page, 'Double left')
  for (const line of [0, 2, 3]) {
    expect(off(asSung, line)).toBeGreaterThan(6)
    expect(off(together, line)).toBeLessThan(4)
  }
  const inside = [lines[1]!.startFrame + 30_000, lines[1]!.endFrame - 60_000] as const
  expect(together.slice(...inside)).toEqual(asSung.slice(...inside))

  // A syllable by hand, and as it was found again.
  await room(page, 'Stack')
  const syllables = rows.nth(0).getByRole('group', { name: /^Syllables of/ })
  await syllables.getByRole('button', { name: 'The next syllable' }).click()
  await syllables.getByRole('textbox', { name: 'It sounds later by in ms' }).fill('90')
  await page.keyboard.press('Enter')
  await expect(syllables.getByText(/after the lead, by hand$/)).toBeVisible()
  const byHand = async () => (await storedSong(page)).takes.flatMap(({ edits }) => edits.times.map(({ laterFrames }) => laterFrames))
  await expect.poll(byHand).toEqual([4_320])
  await syllables.getByRole('button', { name: 'As found' }).click()
  await expect.poll(byHand).toEqual([])
  for (let i = 0; i < 2; i++) await page.keyboard.press('Control+z')

  // Another take of the lead: what follows it is found again, and follows that one.
  await room(page, 'Comp')
  await page.getByRole('combobox', { name: 'Layer', exact: true }).selectOption({ label: 'Lead' })
  await page.locator('[data-line]').filter({ hasText: 'Slow ferry, carry the lights' }).first().click()
  await page.locator('main').focus()
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('p')
  await expect(page.getByRole('button', { name: /Undo “pick pass/ })).toBeVisible()
  await selectOnSheet(page, /^Hook 1/)
  const otherLead = await saveComp(page, 'Lead')
  await room(page, 'Stack')
  await expect(rows.getByText(/ms off as sung, 0 so$/)).toHaveCount(3, { timeout: 60_000 })
  const following = await saveComp(page, 'Double left')
  const offOther = findAnchors(otherLead.slice(lines[0]!.startFrame, lines[0]!.endFrame), following.slice(lines[0]!.startFrame, lines[0]!.endFrame))
  expect(
    offOther.map(({ otherSeconds, leadSeconds }) => 1_000 * Math.abs(otherSeconds - leadSeconds)).sort((a, b) => a - b)[offOther.length >> 1],
  ).toBeLessThan(4)
  expect(following.slice(lines[0]!.startFrame, lines[0]!.endFrame)).not.toEqual(together.slice(lines[0]!.startFrame, lines[0]!.endFrame))
  await page.keyboard.press('Control+z')

  // The third line is late as a whole: the plain move stretches nothing, and what is left is found anew.
  await room(page, 'Stack')
  await rows
    .nth(2)
    .getByRole('button', { name: /^Move it/ })
    .click()
  await expect(rows.nth(2).getByRole('button', { name: /^Move it/ })).toHaveCount(0)
  await expect(rows.nth(2).getByText(/ms off as sung, 0 so$/)).toBeVisible({ timeout: 60_000 })

  // Step by step back: the move, the line, the tightness.
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'as sung', exact: true })).toHaveAttribute('aria-pressed', 'true')
  expect(await saveComp(page, 'Double left')).toEqual(asSung)
})

test('a harmony is written from the lead, moved by keys, saved as MIDI, sung by a made voice, and delivered as what it is', async ({ page }) => {
  test.setTimeout(240_000)
  await openPrepared(page)
  await selectOnSheet(page, /^Slow ferry, carry the lights/)
  await stackSheet(page, 'What to sing')
  const card = page.locator('[data-card]').filter({ has: page.getByText('What to sing', { exact: true }) })
  await card.getByRole('combobox', { name: 'Layer to write for' }).selectOption({ label: 'Low 2' })
  await card.getByRole('combobox', { name: 'Part' }).selectOption({ label: 'a third below' })
  await card.getByRole('button', { name: 'Write it for 1 line' }).click({ timeout: 90_000 })
  const notes = card.locator('[data-part-note]')
  await expect(notes.first()).toBeVisible()
  const partIn = async () => (await storedSong(page)).layers.find(({ name }) => name === 'Low 2')!
  const written = (await partIn()).part
  expect(written.length).toBeGreaterThan(4)

  // By keys: the second note a rung down, the third left out; both come back.
  await notes.first().focus()
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('ArrowDown')
  await expect.poll(async () => written[1]!.midi - (await partIn()).part[1]!.midi).toBeGreaterThan(0)
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Backspace')
  await expect(notes).toHaveCount(written.length - 1)
  for (let i = 0; i < 2; i++) await page.keyboard.press('Control+z')
  await expect.poll(async () => (await partIn()).part).toEqual(written)

  const [download] = await Promise.all([page.waitForEvent('download'), card.getByRole('button', { name: 'Save as MIDI' }).click()])
  expect(download.suggestedFilename()).toBe('Slow Ferry - Low 2.mid')
  const midi = parseMidi(readFileSync(await download.path()))
  expect(midi.tracks[1]!.flatMap(event => (event.type === 'noteOn' ? [event.noteNumber] : []))).toEqual(written.map(note => note.midi))

  await card.getByRole('button', { name: 'A made voice sings it' }).click()
  await expect(card.getByText(/sung by nobody/)).toBeVisible()
  await expect(page.getByRole('button', { name: /Slow ferry, carry the lights, Low 2: a made voice sings/ })).toBeVisible()
  expect(await violations(page)).toEqual([])

  await renderEachLayer(page, 'Low 2')
  const sound = Float32Array.from((await saveDelivery(page, 'Low 2 (made)')).planes[0]!)
  const { f0Hz } = trackPitch(sound)
  const offs = written
    .filter(({ startFrame, endFrame }) => endFrame - startFrame > 14_400)
    .map(({ startFrame, endFrame, midi: note }) => {
      const held = [...f0Hz.subarray(Math.round((startFrame + 6_000) / 240), Math.round((endFrame - 3_000) / 240))].filter(hz => hz > 0).map(centsOf)
      return Math.abs(held.sort((a, b) => a - b)[held.length >> 1]! - 100 * note)
    })
  expect(offs.length).toBeGreaterThan(2)
  expect(offs.sort((a, b) => a - b)[offs.length >> 1]!).toBeLessThan(8)

  // What is no MIDI file is refused in words, and changes nothing.
  await room(page, 'Stack')
  await card.getByLabel('A MIDI file with the part').setInputFiles({ name: 'photo.mid', mimeType: 'audio/midi', buffer: Buffer.from('no such file') })
  await expect(card.getByRole('alert')).toHaveText(/photo.mid: this is no Standard MIDI File/)
  expect((await partIn()).part).toEqual(written)
})

test('ad-libs answer from one side and the other: line by line in the file, and back step by step', async ({ page }) => {
  test.setTimeout(240_000)
  await openPrepared(page)
  await selectOnSheet(page, /^Hook 1/)
  await stackSheet(page, 'What to sing')
  const card = page.locator('[data-card]').filter({ has: page.getByText('What to sing', { exact: true }) })
  await card.getByRole('combobox', { name: 'Layer to write for' }).selectOption({ label: 'Ad-lib left' })
  await card.getByRole('combobox', { name: 'Part' }).selectOption({ label: 'an octave above' })
  await card.getByRole('button', { name: 'Write it for 4 lines' }).click({ timeout: 90_000 })
  await card.getByRole('button', { name: 'A made voice sings it' }).click()
  await stackSheet(page, 'Where each stands')
  await page.getByRole('combobox', { name: 'Voice on the stage' }).selectOption({ label: 'Ad-lib left' })
  await page.getByRole('button', { name: 'every other line to the other side' }).click()
  await page.getByRole('textbox', { name: 'How far to each side' }).fill('0.8')
  await page.keyboard.press('Enter')

  await renderEachLayer(page, 'Ad-lib left')
  const { planes } = await saveDelivery(page, 'Ad-lib left (made)')
  const song = await storedSong(page)
  const lines = song.sections.find(({ name }) => name === 'Hook 1')!.lines.map(({ id }) => requirePlacedLine(song, id))
  const power = (plane: Float32Array, { startFrame, endFrame }: (typeof lines)[number]) =>
    plane.subarray(startFrame, endFrame).reduce((sum, value) => sum + value * value, 0)
  // All on one side but a fifth; what the spaces answer is on both.
  const sides = lines.map(line => power(planes[0]!, line) / power(planes[1]!, line))
  expect(sides.map(ratio => (ratio > 3 ? 'left' : ratio < 1 / 3 ? 'right' : 'middle'))).toEqual(['left', 'right', 'left', 'right'])

  const sideRide = async () => (await storedSong(page)).layers.find(({ name }) => name === 'Ad-lib left')!.panRide
  // The solo, how far, and from side to side.
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z')
  await expect.poll(sideRide).toEqual([])
})

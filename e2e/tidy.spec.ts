/** Tidy: a lead made clean and in tune by keys alone, measured in the file that comes out; taken back step by step. */
import { chromium, type Page } from '@playwright/test'
import { execFileSync } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { currentComp } from '../src/core/song/select'
import { notesOfTake } from '../src/core/prints/laid-over'
import { trackPitch } from '../src/core/voice/pitch'
import { centsOf } from '../src/core/voice/notes'
import { violations } from './access'
import { CHROMIUM } from './chromium'
import { expect, openPrepared, test } from './prepared'
import { openDemo, openWav, room, storedSong } from './support'

test.use({ prepared: 'demo' })

/** The comp of the layer as a file: what is laid over it, and nothing of the mix. */
async function saveComp(page: Page): Promise<Float32Array<ArrayBuffer>> {
  await room(page, 'Comp')
  await page.getByRole('button', { name: 'Comps', exact: true }).click()
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save as WAV' }).click()])
  await page.getByRole('button', { name: 'Comps', exact: true }).click()
  await room(page, 'Tidy')
  return Float32Array.from((await openWav(download)).planes[0]!)
}

const decibels = (sound: Float32Array, from: number, to: number) =>
  10 * Math.log10(sound.subarray(from, to).reduce((sum, sample) => sum + sample * sample, 0) / (to - from) + 1e-14)
const differs = (a: Float32Array, b: Float32Array, from: number, to: number) => a.subarray(from, to).findIndex((sample, i) => sample !== b[from + i])
const lead = async (page: Page) => (await storedSong(page)).layers[0]!

test('a lead is tidied and tuned, one mend taken off, one word moved to another rung, compared and taken back', async ({ page }) => {
  await openPrepared(page)
  const before = await saveComp(page)
  await expect(page.getByText(/\d notes/)).toBeVisible()
  await page.getByRole('button', { name: 'Tidy and tune' }).focus()
  await page.keyboard.press('Enter')
  await expect.poll(async () => (await lead(page)).tune).not.toBeNull()
  // What was found in the takes is kept with the song.
  const played = async () => {
    const song = await storedSong(page)
    const ids = new Set(currentComp(song.layers[0]!).picks.map(pick => pick.takeId))
    return song.takes.filter(take => ids.has(take.id))
  }
  await expect.poll(async () => (await played()).every(take => take.heard !== null)).toBe(true)
  await page.getByRole('button', { name: 'firmly' }).click()
  await expect(page.getByRole('listitem').first()).toBeVisible()
  expect(await violations(page)).toEqual([])
  await expect(page.getByText(/^Making/)).toHaveCount(0)
  const tidied = await saveComp(page)
  expect(tidied).toHaveLength(before.length)

  const song = await storedSong(page)
  /** What is found in the takes where they are picked, in frames of the song. */
  const found = currentComp(song.layers[0]!).picks.flatMap(pick => {
    const take = song.takes.find(entry => entry.id === pick.takeId)!
    const origin = take.originFrame + pick.nudgeFrames
    const isInside = (from: number, to: number) => from > pick.startFrame + 4_800 && to < pick.endFrame - 4_800
    const breaths = take.heard!.breaths.map(([from, to]) => ({ from: origin + from, to: origin + to }))
    const notes = notesOfTake(song, song.layers[0]!, take, take.heard!).map(({ note }) => ({
      from: origin + note.heldFromSeconds * 48_000,
      to: origin + note.heldToSeconds * 48_000,
      rung: note.targetCents!,
    }))
    return [{ breaths: breaths.filter(({ from, to }) => isInside(from, to)), notes: notes.filter(({ from, to }) => isInside(from, to)) }]
  })
  // Breaths are lower by what the card says.
  const breaths = found.flatMap(entry => entry.breaths).filter(({ from, to }) => to - from > 9_600)
  expect(breaths.length).toBeGreaterThan(0)
  for (const { from, to } of breaths)
    expect(Math.abs(decibels(tidied, from + 3_000, to - 3_000) - decibels(before, from + 3_000, to - 3_000) + 8)).toBeLessThan(0.5)
  // Long notes lie on their rungs; they did not.
  const notes = found.flatMap(entry => entry.notes).filter(({ from, to }) => to - from > 12_000)
  const offsIn = (sound: Float32Array<ArrayBuffer>) => {
    const { f0Hz } = trackPitch(sound)
    const offs = notes.map(({ from, to, rung }) => {
      const held = [...f0Hz.subarray(Math.round((from + 2_400) / 240), Math.round((to - 2_400) / 240))].filter(hz => hz > 0).map(centsOf)
      return Math.abs(held.sort((a, b) => a - b)[held.length >> 1]! - rung)
    })
    return offs.sort((a, b) => a - b)[offs.length >> 1]!
  }
  expect(notes.length).toBeGreaterThan(20)
  expect(offsIn(before)).toBeGreaterThan(8)
  expect(offsIn(tidied)).toBeLessThan(4)

  // By keys: the first mend off, the third note a rung up.
  await page.keyboard.press('.')
  await page.keyboard.press('x')
  await expect.poll(async () => (await played()).flatMap(entry => entry.edits.mends)).toMatchObject([{ decibels: null }])
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight')
  await page.keyboard.press('ArrowUp')
  await expect.poll(async () => (await played()).flatMap(entry => entry.edits.notes)).toHaveLength(1)
  await page.reload()
  await expect(page.getByText('taken off', { exact: true })).toBeVisible()
  const [note] = (await played()).flatMap(entry => entry.edits.notes)
  expect(note!.rungCents).not.toBeNull()
  await expect(page.getByText(/^Making/)).toHaveCount(0)
  const moved = trackPitch(await saveComp(page)).f0Hz
  const edited = (await played()).find(take => take.edits.notes.length > 0)!
  const nudge = currentComp(await lead(page)).picks.find(pick => pick.takeId === edited.id)!.nudgeFrames
  const middle = Math.round((edited.originFrame + nudge + (note!.startFrame + note!.endFrame) / 2) / 240)
  expect(Math.abs(centsOf(moved[middle]!) - note!.rungCents!)).toBeLessThan(40)

  // As sung, as loud as what is laid over it.
  await page.keyboard.press('a')
  await expect(page.getByText(/Equal loudness: as sung/)).toBeVisible({ timeout: 60_000 })
  await page.keyboard.press('a')
  await expect(page.getByText(/Equal loudness: as sung/)).toHaveCount(0)

  // All steps back: what comes out is what was sung, to the bit.
  for (let i = 0; i < 4; i++) await page.keyboard.press('Control+z')
  await expect.poll(async () => [(await lead(page)).tidy, (await lead(page)).tune]).toEqual([null, null])
  expect(differs(await saveComp(page), before, 0, before.length)).toBe(-1)
})

test('a word is made louder and moved by keys and numbers, phrases are evened out, and the file has it', async ({ page }) => {
  await openPrepared(page)
  const before = await saveComp(page)
  await expect(page.getByText(/\d notes/)).toBeVisible()
  const laid = async () => (await storedSong(page)).takes.flatMap(take => take.edits.gains)
  // The third note's word, six times half a decibel; its fade by its handle.
  await page.keyboard.press('s')
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight')
  for (let i = 0; i < 6; i++) await page.keyboard.press('=')
  await expect.poll(async () => (await laid()).map(gain => gain.gainDecibels)).toEqual([3])
  await page.getByRole('button', { name: /^Fade in/ }).focus()
  await page.keyboard.press('ArrowLeft')
  await expect.poll(async () => (await laid())[0]!.fadeFrames).toBe(1_920)
  const [gain] = await laid()
  const song = await storedSong(page)
  const take = song.takes.find(entry => entry.edits.gains.length > 0)!
  const nudge = currentComp(song.layers[0]!).picks.find(pick => pick.takeId === take.id)!.nudgeFrames
  const [from, to] = [gain!.startFrame, gain!.endFrame].map(frame => frame + take.originFrame + nudge) as [number, number]
  const louder = await saveComp(page)
  expect(decibels(louder, from + 2_400, to - 2_400) - decibels(before, from + 2_400, to - 2_400)).toBeCloseTo(3, 1)
  expect(differs(louder, before, 0, from - 10)).toBe(-1)
  expect(differs(louder, before, to + 10, before.length)).toBe(-1)

  // Moved by a typed number: its onset lies there in the file.
  await page.getByRole('textbox', { name: /later by in ms/ }).fill('-80')
  await page.keyboard.press('Enter')
  await expect.poll(async () => (await storedSong(page)).takes.flatMap(entry => entry.edits.times.map(time => time.laterFrames))).toContain(-3_840)
  await expect(page.getByRole('listitem').filter({ hasText: 'earlier than it was sung' })).toHaveCount(1)
  await expect(page.getByText(/^Making/)).toHaveCount(0)
  const moved = await saveComp(page)
  const best = (a: Float32Array, b: Float32Array, at: number) => {
    let [lag, most] = [0, -Infinity]
    for (let by = -6_000; by <= 6_000; by += 24) {
      let sum = 0
      for (let i = 0; i < 7_200; i += 3) sum += Math.abs(a[at + i + by]!) * Math.abs(b[at + i]!)
      if (sum > most) [lag, most] = [by, sum]
    }
    return lag
  }
  expect(best(moved, louder, from)).toBeLessThan(-1_900)
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await storedSong(page)).takes.flatMap(entry => entry.edits.times)).toEqual([])

  // All phrases: shown first, laid by Enter, as one step.
  await page.getByRole('button', { name: 'Whole song' }).click()
  await page.keyboard.press('e')
  await expect(page.getByText(/phrases go to within 1 dB/)).toBeVisible({ timeout: 60_000 })
  expect(await laid()).toHaveLength(1)
  await page.keyboard.press('Enter')
  await expect.poll(async () => (await laid()).length).toBeGreaterThan(2)
  expect(await violations(page)).toEqual([])
  await page.keyboard.press('e')
  // The demo has one phrase that is softer than the limit lets be raised: said, and proposed once the limit is typed wider.
  await expect(page.getByText('No more within the limit. 1 phrase would need more than the limit.')).toBeVisible({ timeout: 60_000 })
  await page.getByRole('textbox', { name: /by at most/ }).fill('12')
  await page.keyboard.press('Enter')
  await expect(page.getByText(/1 of \d+ phrases goes to within 1 dB/)).toBeVisible()
  await page.keyboard.press('Escape')
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await laid()).length).toBe(1)
})

test('five stack layers follow the lead, one line the chord, a take that is chosen again finds its mends, and a killed browser loses none', async () => {
  // Its own profile: the browser is killed.
  const profile = mkdtempSync(join(tmpdir(), 'plush-profile-'))
  const launch = () => chromium.launchPersistentContext(profile, { ...CHROMIUM, baseURL: 'http://localhost:4610', viewport: { width: 1280, height: 800 } })
  const context = await launch()
  const page = context.pages()[0]!
  await openDemo(page)
  await page
    .getByRole('button', { name: /^and the last lamp swings on the quay/ })
    .first()
    .click()
  await room(page, 'Tidy')
  const layerOf = async (name: string) => (await storedSong(page)).layers.find(layer => layer.name === name)!
  const sung = (await storedSong(page)).layers.filter(layer => currentComp(layer).picks.length > 0).map(layer => layer.name)
  expect(sung).toHaveLength(6)
  const act = (name: string) => page.getByRole('button', { name, exact: true })
  for (const name of sung) {
    await page.getByRole('combobox', { name: 'Layer', exact: true }).selectOption({ label: name })
    await act('Tidy and tune').click()
    if (name.startsWith('Double')) await page.getByRole('combobox', { name: 'Notes are drawn to' }).selectOption({ label: 'what Lead sings' })
  }
  await act('hard').click()
  await expect.poll(async () => (await layerOf(sung.at(-1)!)).tune?.glidesKept).toBe(0)
  const lead = await layerOf('Lead')
  expect((await layerOf('Double left')).tune?.to).toEqual({ kind: 'layer', layerId: lead.id })
  expect((await layerOf('Double left')).tidy!.breathDecibels).toBe(-60)

  // One line of the lead to the chord, and one mend off.
  await page.getByRole('combobox', { name: 'Layer', exact: true }).selectOption({ label: 'Lead' })
  await page.getByRole('combobox', { name: 'This line is drawn to' }).selectOption({ label: 'the chord that sounds' })
  await expect.poll(async () => (await layerOf('Lead')).tune?.lines.map(({ to }) => to.kind)).toEqual(['chord'])
  await expect(page.getByRole('listitem').first()).toBeVisible({ timeout: 60_000 })
  await page.keyboard.press('.')
  await page.keyboard.press('x')
  const off = page.getByText('taken off', { exact: true })
  await expect(off).toHaveCount(1)

  // Another take has mends of its own; the first one, chosen again, has its own again.
  await room(page, 'Comp')
  const picked = page.getByText(/^Pass \d is picked/)
  const before = await picked.textContent()
  await page.keyboard.press('ArrowUp')
  await page.keyboard.press('p')
  await expect(picked).not.toHaveText(before!)
  await room(page, 'Tidy')
  await expect(page.getByRole('listitem').first()).toBeVisible({ timeout: 60_000 })
  await expect(off).toHaveCount(0)
  await room(page, 'Comp')
  await expect(picked).toBeVisible()
  // The last of all.
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowDown')
  await page.keyboard.press('p')
  await expect(picked).toHaveText(before!)
  await room(page, 'Tidy')
  await expect(off).toHaveCount(1)
  await expect(page.getByText(/^All kept/)).toBeVisible()
  const kept = await storedSong(page)
  const address = page.url()
  execFileSync('pkill', ['-9', '-f', profile])
  await context.close().catch(() => {})

  const again = await launch()
  const reopened = again.pages()[0]!
  await reopened.goto(address)
  await expect(reopened.locator('[data-line]').first()).toBeVisible()
  const found = await storedSong(reopened)
  expect(found.layers).toEqual(kept.layers)
  expect(found.takes.map(({ edits }) => edits)).toEqual(kept.takes.map(({ edits }) => edits))
  await reopened
    .getByRole('button', { name: /^and the last lamp swings on the quay/ })
    .first()
    .click()
  await expect(reopened.getByText('taken off', { exact: true })).toHaveCount(1)

  // What comes out: the double sings the lead's notes, and its breaths are gone.
  await reopened.getByRole('combobox', { name: 'Layer', exact: true }).selectOption({ label: 'Double left' })
  await expect.poll(async () => (await storedSong(reopened)).takes.filter(take => take.heard).length, { timeout: 90_000 }).toBeGreaterThan(5)
  await expect(reopened.getByText(/^Making/)).toHaveCount(0, { timeout: 90_000 })
  const double = await saveComp(reopened)
  const song = await storedSong(reopened)
  const layer = song.layers.find(({ name }) => name === 'Double left')!
  const pick = currentComp(layer).picks[0]!
  const take = song.takes.find(entry => entry.id === pick.takeId)!
  const origin = take.originFrame + pick.nudgeFrames
  const inPick = (from: number, to: number) => from > pick.startFrame + 4_800 && to < pick.endFrame - 4_800
  const breaths = take.heard!.breaths.map(([from, to]) => [from + origin, to + origin] as const).filter(([from, to]) => inPick(from, to) && to - from > 7_200)
  for (const [from, to] of breaths) expect(decibels(double, from + 2_400, to - 2_400)).toBeLessThan(-75)
  const { f0Hz } = trackPitch(double)
  const offs = notesOfTake(song, layer, take, take.heard!)
    .map(({ note }) => ({ from: origin + note.heldFromSeconds * 48_000, to: origin + note.heldToSeconds * 48_000, rung: note.targetCents! }))
    .filter(({ from, to }) => inPick(from, to) && to - from > 12_000)
    .map(({ from, to, rung }) => {
      const held = [...f0Hz.subarray(Math.round((from + 2_400) / 240), Math.round((to - 2_400) / 240))].filter(hz => hz > 0).map(centsOf)
      return Math.abs(held.sort((a, b) => a - b)[held.length >> 1]! - rung)
    })
  expect(offs.length).toBeGreaterThan(4)
  expect(offs.sort((a, b) => a - b)[offs.length >> 1]!).toBeLessThan(5)
  await again.close()
})

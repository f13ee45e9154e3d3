/** The Beat room: wrong readings corrected in every way, the beat rearranged and coloured, and heard so in the export. */
import { expect, test, type Page } from '@playwright/test'
import { beatFile, decibelsApart, openWav, room, startSong, storedSong, wavFile } from './support'

const BAR_SECONDS = 240 / 92.6
const tempo = (page: Page) => page.getByLabel('Tempo in bpm')
const barOne = (page: Page) => page.getByLabel('Bar one in s')

test('a wrong reading is corrected by typing, halving, doubling, tapping, choosing, looking in a range; bar one by keys, drag and playhead', async ({
  page,
}) => {
  await startSong(page)
  // Lines are laid: where they cannot keep both their time and their bars, it is asked.
  await page.addLocatorHandler(page.getByText('Where do the lines belong?'), () => page.getByRole('button', { name: 'To their bars' }).click())
  await expect(page.getByRole('button', { name: 'Intro', exact: true })).toBeVisible()
  const shape = async () => (await storedSong(page)).sections.map(({ name, startBar }) => [name, startBar] as const)
  const heardShape = await shape()
  expect(heardShape.length).toBeGreaterThan(2)
  await page.getByRole('button', { name: 'Halve' }).click()
  await expect(tempo(page)).toHaveValue(/^46\.[23]/)
  // The shape that was heard stays where it is in time.
  await expect.poll(shape).toEqual(heardShape.map(([name, startBar]) => [name, (startBar + 1) / 2]))
  await page.getByRole('button', { name: 'Double' }).click()
  await expect(tempo(page)).toHaveValue(/^92\.[56]/)
  await expect.poll(shape).toEqual(heardShape)
  await tempo(page).fill('93')
  await tempo(page).press('Enter')
  await expect(page.getByText(/The beat itself runs at 92\.6\d? bpm, 0\.4 % slower/)).toBeVisible()
  const tap = page.getByRole('button', { name: /^Tap/ })
  for (let i = 0; i < 5; i++) {
    await tap.dispatchEvent('pointerdown')
    await page.waitForTimeout(500)
  }
  await page.getByRole('button', { name: /^Use 1?\d+\.\d ±/ }).click()
  await expect(page.getByText('as you set it').first()).toBeVisible()
  await page.getByLabel('Fastest in bpm').fill('210')
  await page.getByLabel('Fastest in bpm').press('Enter')
  await page.getByLabel('Slowest').fill('150')
  await page.getByLabel('Slowest').press('Enter')
  await page.getByRole('button', { name: 'Look', exact: true }).click()
  await page.getByRole('button', { name: /^185\.\d+ ·/ }).click()
  await expect(tempo(page)).toHaveValue(/^185\./)
  await page.getByRole('button', { name: 'Any tempo again' }).click()
  await page.getByRole('button', { name: /^92\.\d+ ·/ }).click()
  await page.getByLabel('Metre', { exact: true }).selectOption('6/8')
  await expect(page.getByLabel('Metre', { exact: true })).toHaveValue('6/8')
  await page.keyboard.press('Control+z')
  await expect(page.getByLabel('Metre', { exact: true })).toHaveValue('4/4')

  const lens = page.getByRole('slider', { name: /^Bar one/ })
  const start = Number(await barOne(page).inputValue())
  await lens.focus()
  await lens.press('ArrowRight')
  await lens.press('Shift+ArrowRight')
  await expect.poll(async () => Number(await barOne(page).inputValue()) - start).toBeCloseTo(0.011, 3)
  const box = (await lens.boundingBox())!
  await page.mouse.move(box.x + 200, box.y + 40)
  await page.mouse.down()
  await page.mouse.move(box.x + 260, box.y + 40)
  await page.mouse.up()
  // Asked here too: whatever is done next, it is answered first.
  await barOne(page).hover()
  await expect.poll(async () => Number(await barOne(page).inputValue()) - start).toBeGreaterThan(0.1)
  // A click on a stroke in the lens puts the playhead there.
  await page.mouse.click(box.x + 400, box.y + 40)
  await page.getByRole('button', { name: 'Bar one is here' }).click()
  await page.getByLabel('Tonic').selectOption('G')
  await page.getByLabel('Mode', { exact: true }).selectOption('major')
  await expect(page.getByRole('heading', { level: 1, name: /G major/ })).toBeVisible()
  const heard = page.getByRole('button', { name: /(major|minor) · / }).first()
  const name = (await heard.textContent())!.split(' · ')[0]!
  await heard.click()
  await expect(page.getByRole('heading', { level: 1, name: new RegExp(name) })).toBeVisible()
})

test('where two tempos are heard the singer is asked, and the shape follows the answer', async ({ page }) => {
  await startSong(page)
  await expect(page.getByLabel('Listening to the beat')).toHaveCount(0, { timeout: 60_000 })
  const before = await storedSong(page)
  // What was heard, as if it had been less sure.
  await page.evaluate(async () => {
    const database = await new Promise<IDBDatabase>((resolve, reject) => {
      const request = indexedDB.open('plush-layer')
      request.onsuccess = () => resolve(request.result)
      request.onerror = () => reject(request.error as Error)
    })
    const table = database.transaction('analyses', 'readwrite').objectStore('analyses')
    const rows = await new Promise<{ key: string; value: { tempo: { readings: { tempoBpm: number; confidence: number }[] } } }[]>(resolve => {
      const request = table.getAll()
      request.onsuccess = () => resolve(request.result as never)
    })
    const row = rows.find(({ key }) => key.includes(':beat:'))!
    const [best] = row.value.tempo.readings
    row.value.tempo.readings = [
      { ...best!, confidence: 0.55 },
      { ...best!, tempoBpm: 2 * best!.tempoBpm, confidence: 0.44 },
    ]
    table.put(row)
    database.close()
  })
  await page.reload()
  await expect(page.getByText(/^Is it 92\.6\d* or 185\.2\d* bpm/)).toBeVisible()
  await page.getByRole('button', { name: /^185\.2\d* bpm$/ }).click()
  await expect(tempo(page)).toHaveValue(/^185\.2/)
  await expect(page.getByText(/^Is it /)).toHaveCount(0)
  await expect
    .poll(async () => (await storedSong(page)).sections.map(({ startBar }) => startBar))
    .toEqual(before.sections.map(({ startBar }) => 2 * startBar - 1))
  expect((await storedSong(page)).beat.chords.map(({ startBeat }) => startBeat)).toEqual(before.beat.chords.map(({ startBeat }) => 2 * startBeat))
  await page.reload()
  await expect(tempo(page)).toHaveValue(/^185\.2/)
  await expect(page.getByText(/^Is it /)).toHaveCount(0)
})

async function deliverBeat(page: Page) {
  await room(page, 'Deliver')
  for (const part of ['Final mix', 'Vocals alone']) await page.getByRole('button', { name: part }).click()
  await page.getByRole('button', { name: /^Render/ }).click()
  // The newest row comes first.
  const link = page.locator('[data-delivery]').first().getByRole('link', { name: 'Save' })
  await expect(link).toBeVisible({ timeout: 120_000 })
  const [download] = await Promise.all([page.waitForEvent('download'), link.click()])
  return (await openWav(download)).planes[0]!
}

test('repeated, silent and coloured bars, and a newer file, are heard in the export at the right frames', async ({ page }) => {
  await page.goto('/')
  const original = beatFile(40)
  await page.getByLabel('Choose a beat or a song file').setInputFiles(original)
  await expect(page.getByRole('heading', { level: 1, name: /^92\.\d+ bpm/ })).toBeVisible({ timeout: 60_000 })
  await expect(page.getByText(/LUFS/)).toBeVisible({ timeout: 60_000 })
  const before = await deliverBeat(page)
  await room(page, 'Beat')
  // The intro, bars 1 to 4, twice; the verse after it silent; then coloured instead.
  await page.getByRole('button', { name: 'Intro', exact: true }).click()
  await expect(page.getByLabel('First bar of the section')).toHaveValue('1')
  await page.getByRole('button', { name: 'Again', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Intro again', exact: true })).toBeVisible()
  await page.getByRole('button', { name: 'Verse 1', exact: true }).click()
  const first = Number(await page.getByLabel('First bar of the section').inputValue())
  await page.getByRole('button', { name: 'Silent', exact: true }).click()
  const start = Number(await barOne(page).inputValue())
  const frameOf = (bar: number) => Math.round((start + (bar - 1) * BAR_SECONDS) * 48_000)
  const silenced = await deliverBeat(page)
  const added = ((first - 1) / 2) * BAR_SECONDS * 48_000
  const stretch = (sound: Float32Array, from: number, frames = 40_000) => sound.subarray(Math.round(from), Math.round(from) + frames)
  expect(decibelsApart(stretch(silenced, frameOf(2)), stretch(before, frameOf(2)))).toBeLessThan(-100)
  // The second intro is the first, moved by whole bars (to the frame that rounding and the join allow).
  const copy = stretch(silenced, frameOf(2) + added)
  const shifts = Array.from({ length: 201 }, (_, i) => i - 100)
  expect(Math.min(...shifts.map(shift => decibelsApart(copy, stretch(before, frameOf(2) + shift))))).toBeLessThan(-90)
  expect(Math.max(...stretch(silenced, frameOf(first) + 4_800).map(Math.abs))).toBeLessThan(1e-6)

  await room(page, 'Beat')
  await page.getByRole('button', { name: 'Let it sound' }).click()
  await page.getByLabel('Colour', { exact: true }).selectOption('level')
  await page.getByLabel('Colour level in dB').fill('-12')
  await page.getByLabel('Colour level in dB').press('Enter')
  await page.getByRole('button', { name: 'Colour it' }).click()
  await expect(page.getByText('level -12.0 dB').first()).toBeVisible({ timeout: 30_000 })
  const coloured = await deliverBeat(page)
  const power = (sound: Float32Array) => 10 * Math.log10(sound.reduce((sum, x) => sum + x * x, 0) / sound.length)
  const inVerse = frameOf(first) + 48_000
  expect(power(stretch(coloured, inVerse)) - power(stretch(before, inVerse - added))).toBeCloseTo(-12, 0)

  // The same beat again, brighter and with half a second more at its start, lies over the old one.
  await room(page, 'Beat')
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'Intro again', exact: true })).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'Intro again', exact: true })).toBeHidden()
  const samples = new Int16Array(original.buffer.buffer, original.buffer.byteOffset + 44)
  const longer = new Float32Array(samples.length / 2 + 24_000)
  for (let i = 0; i < samples.length / 2; i++) longer[i + 24_000] = samples[2 * i]! / 32_768
  await page.getByLabel('Newer file of this beat').setInputFiles({ name: 'better.wav', mimeType: 'audio/wav', buffer: wavFile([longer]) })
  await expect(page.getByText('The newer file plays now.')).toBeVisible({ timeout: 60_000 })
  await expect(page.getByText(/500\.0 ms earlier in the file/)).toBeVisible()
  await page.getByLabel('Newer file of this beat').setInputFiles({
    name: 'other.wav',
    mimeType: 'audio/wav',
    buffer: wavFile([Float32Array.from(longer, (_, i) => 0.3 * Math.sin(i * 0.02 + Math.sin(i * 0.0003)))]),
  })
  await expect(page.getByText('It does not sound like the beat of this song.')).toBeVisible({ timeout: 60_000 })
})

test('the shape is corrected by hand: sections, lines by tapping, single bars, chords and key, each as one step', async ({ page }) => {
  await startSong(page)
  const song = () => storedSong(page)
  const before = await song()
  const [first, second] = before.sections
  await page.getByRole('button', { name: second!.name, exact: true }).click()
  await page.getByLabel('Section name').fill('Quay')
  await page.getByLabel('Section name').press('Enter')
  await expect(page.getByRole('button', { name: 'Quay', exact: true })).toBeVisible()
  await page.getByLabel('First bar of the section').fill(String(second!.startBar + 1))
  await page.getByLabel('First bar of the section').press('Enter')
  await expect
    .poll(async () => (await song()).sections.slice(0, 2).map(section => [section.name, section.startBar, section.barCount]))
    .toEqual([
      [first!.name, first!.startBar, first!.barCount + 1],
      ['Quay', second!.startBar + 1, second!.barCount - 1],
    ])

  // Two taps while it plays are two lines, where they were tapped.
  await page.getByRole('button', { name: 'Tap its lines' }).click()
  const tap = page.getByRole('button', { name: 'A line begins' })
  await page.waitForTimeout(600)
  await tap.click()
  await page.waitForTimeout(2_800)
  await tap.click()
  await page.getByRole('button', { name: 'Lay 2 lines' }).click()
  await expect.poll(async () => (await song()).sections[1]!.lines.length).toBe(2)
  const lines = (await song()).sections[1]!.lines
  expect(lines[1]!.startBeat - lines[0]!.startBeat).toBeGreaterThanOrEqual(3)

  // One bar of it again, then as it was.
  const bar = second!.startBar + 2
  await page.getByLabel('To bar').fill(String(bar))
  await page.getByLabel('To bar').press('Enter')
  await page.getByLabel('From bar').fill(String(bar))
  await page.getByLabel('From bar').press('Enter')
  await page.getByRole('button', { name: 'Again', exact: true }).click()
  const longer = async () => {
    const { beat, sections } = await song()
    return [
      Math.round((beat.frames - before.beat.frames) / (BAR_SECONDS * 480)) / 100,
      sections.length - before.sections.length,
      sections[1]!.barCount - second!.barCount + 1,
    ]
  }
  await expect.poll(longer).toEqual([1, 0, 1])
  await expect(page.getByRole('button', { name: `Undo “repeat bar ${bar}”` })).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect.poll(longer).toEqual([0, 0, 0])

  // The words of the first verse serve a later section as well.
  const later = (await song()).sections.filter(section => section.lines.length === 0).at(-1)!
  await page.getByRole('button', { name: later.name, exact: true }).last().click()
  await page.getByRole('button', { name: /^Copy .* into it$/ }).click()
  await expect.poll(async () => (await song()).sections.find(section => section.id === later.id)!.lines.length).toBeGreaterThan(0)

  // A chord is made another, then taken away.
  await page.getByRole('slider', { name: /^Chords/ }).press('ArrowRight')
  const chords = (await song()).beat.chords
  await page.getByLabel('Kind of chord').selectOption('diminished')
  await expect.poll(async () => (await song()).beat.chords[0]!.quality).toBe('diminished')
  await expect(page.getByText('Sits well on it:')).toBeVisible()
  await page.getByRole('button', { name: 'No chord here' }).click()
  await expect.poll(async () => (await song()).beat.chords.length).toBe(chords.length - 1)

  // The key that was heard instead of the one that was set, with a colour, in its own tuning, and as sound.
  await page
    .getByRole('button', { name: /^[A-G].* (major|minor) · / })
    .first()
    .click()
  await expect(page.getByText(/^heard, \d+ % sure$/)).toHaveCount(2)
  await page.getByLabel('Mode', { exact: true }).selectOption('minor')
  await page.getByLabel('Colour of the mode').selectOption('dorian')
  await page.getByLabel('Tuning of the beat').fill('-12')
  await page.getByLabel('Tuning of the beat').press('Enter')
  await expect.poll(async () => (({ key, colour, tuningCents }) => [key?.mode, colour, tuningCents])((await song()).beat)).toEqual(['minor', 'dorian', -12])
  await page.getByRole('button', { name: 'a drone' }).click()
  await page.getByRole('button', { name: 'stop the drone' }).click()
  await page.getByRole('button', { name: 'Both at half speed' }).click()
  await page.getByRole('button', { name: 'Stop', exact: true }).click({ timeout: 30_000 })
})

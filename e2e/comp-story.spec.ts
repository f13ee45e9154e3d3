/** Comp at full depth: ground, lines, words, seams, two comps, a line sung again, one file. By keys wherever a key is meant. */
import type { Page } from '@playwright/test'
import type { Pick, Song } from '../src/core/song/schema'
import { currentComp, placedLines } from '../src/core/song/select'
import { openPrepared, test, expect } from './prepared'
import { listened, openWav, room, storedSong, storedSounds } from './support'
import { violations } from './access'

test.use({ prepared: 'demo' })

const press = async (page: Page, ...keys: string[]) => {
  for (const key of keys) await page.keyboard.press(key)
}
const lead = (song: Song) => song.layers[0]!
const picksIn = (song: Song, from: number, to: number): Pick[] => currentComp(lead(song)).picks.filter(pick => pick.startFrame < to && pick.endFrame > from)

/** Which take plays most of each line. */
function playedTakes(song: Song): (string | null)[] {
  return placedLines(song).map(line => {
    const middle = (line.startFrame + line.endFrame) / 2
    const pick = currentComp(lead(song)).picks.find(entry => entry.startFrame <= middle && entry.endFrame > middle)
    return song.takes.find(take => take.id === pick?.takeId)?.name ?? null
  })
}

test('two verses and a hook by keys alone, a word from another take, two comps compared, a line sung again; the file is the picks, frame by frame', async ({
  page,
}) => {
  test.setTimeout(420_000)
  await openPrepared(page)
  await listened(page)
  // A ground for the first verse, then one for the hook and the second verse; sound goes on meanwhile.
  await press(page, ',')
  await expect(page.getByRole('heading', { level: 1, name: 'Verse 1' })).toBeVisible()
  await press(page, ' ', 'ArrowDown', 'ArrowDown', 'ArrowDown', 'p')
  await expect(page.getByText('Pass 4 is picked')).toBeVisible()
  await press(page, 'ArrowRight')
  await expect(page.getByRole('heading', { level: 1, name: 'Hook 1' })).toBeVisible()
  await press(page, 'ArrowUp', 'ArrowUp', 'ArrowUp', 'p')
  await expect(page.getByText('Pass 1 is picked')).toBeVisible()
  await press(page, 'ArrowRight', 'ArrowUp', 'ArrowUp', 'ArrowUp', 'ArrowDown', 'ArrowDown', 'p')
  await expect(page.getByText('Pass 3 is picked')).toBeVisible()
  await press(page, ' ')
  // Then lines: the second one of the hook from another take.
  await press(page, 'ArrowLeft', '.', 'ArrowRight')
  await expect(page.getByText('Lead · Hook 1, line 2')).toBeVisible()
  await press(page, 'ArrowDown', 'ArrowDown')
  await expect(page.getByText(/hearing Pass 3, matched by [+-]?\d/)).toBeVisible()
  await press(page, 'Enter')
  await expect(page.getByText('Lead · Hook 1, line 3')).toBeVisible()
  const takesPlayed = async () => playedTakes(await storedSong(page)).slice(0, 12)
  await expect
    .poll(takesPlayed)
    .toEqual(['Pass 4', 'Pass 4', 'Pass 4', 'Pass 4', 'Pass 1', 'Pass 3', 'Pass 1', 'Pass 1', 'Pass 3', 'Pass 3', 'Pass 3', 'Pass 3'])
  const grounded = await storedSong(page)

  // Then one word, between consonants.
  await press(page, '.', '.', 'ArrowRight', 'ArrowRight', 'ArrowRight')
  await expect(page.getByRole('heading', { level: 1, name: 'lamp' })).toBeVisible()
  await press(page, 'ArrowDown')
  await press(page, 'p')
  await expect(page.getByText('Pass 2 is picked')).toBeVisible()
  const line = placedLines(grounded)[6]!
  const worded = picksIn(await storedSong(page), line.startFrame + 24_000, line.endFrame - 24_000)
  expect(worded.map(pick => grounded.takes.find(take => take.id === pick.takeId)!.name)).toEqual(['Pass 1', 'Pass 2', 'Pass 1'])
  const [, word] = worded
  expect(word!.endFrame - word!.startFrame).toBeLessThan(1.2 * 48_000)
  // Its seam is looked at, heard, moved and moved back by undo.
  await press(page, ']')
  await expect(page.getByRole('group', { name: 'Seam' })).toContainText('Pass 1 to Pass 2')
  await press(page, 'j')
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible()
  await press(page, 'Shift+ArrowRight')
  await expect(page.getByRole('button', { name: /Undo “move a seam/ })).toBeVisible()
  await expect.poll(async () => picksIn(await storedSong(page), line.startFrame + 24_000, line.endFrame - 24_000)[1]!.startFrame).toBe(word!.startFrame + 480)
  await press(page, 'Control+z')

  // Two comps.
  await page.getByRole('button', { name: 'Comps', exact: true }).focus()
  await press(page, 'Enter')
  await page.getByLabel('Name for a copy of this comp').focus()
  await page.keyboard.type('first evening')
  await press(page, 'Enter')
  await page.getByRole('heading', { level: 1 }).click()
  await press(page, ',', ',', 'ArrowRight', 'ArrowDown', 'p')
  await expect(page.getByRole('button', { name: /Undo “pick pass 2/ })).toBeVisible()
  await page.getByRole('button', { name: 'Compare' }).click()
  await expect(page.getByText('1 line differs:')).toBeVisible()
  expect(await violations(page)).toEqual([])
  await page.getByRole('button', { name: 'Hear first evening' }).click()
  await page.getByRole('button', { name: 'Copy this line here' }).click()
  await expect(page.getByText('Nothing differs from first evening.')).toBeVisible()
  await page.getByRole('button', { name: 'Lock Comp 1' }).click()
  await page.getByRole('heading', { level: 1 }).click()
  await press(page, 'ArrowDown', 'p')
  await expect(page.getByText('Comp 1 is locked.')).toBeVisible()
  await page.getByRole('button', { name: 'Unlock it' }).click()

  // A line that no take gets right.
  await page.getByRole('heading', { level: 1 }).click()
  await press(page, 'Escape', 'ArrowLeft', 'm')
  await page.getByLabel('What is wrong').fill('flat on “lamp”')
  await press(page, 'Enter')
  await expect(page.getByRole('status').filter({ hasText: 'flat on “lamp”' })).toBeVisible()
  await expect(page.getByText('Sing again (1)')).toBeVisible()
  await page.getByRole('button', { name: 'Sing it now' }).click()
  await page.getByRole('button', { name: 'Practice singer' }).click()
  await expect(page.getByText(/Will record/)).toBeVisible({ timeout: 30_000 })
  // It was asked for already, and begins by itself if the singer came before the app gave up waiting for a microphone.
  await expect(async () => {
    if (await page.getByRole('button', { name: 'Record', exact: true }).isVisible()) await press(page, 'r')
    await expect(page.getByText('Lead · Hook 1, line 3')).toBeVisible({ timeout: 40_000 })
  }).toPass({ timeout: 120_000 })
  await expect(page.locator('[data-focused]')).toContainText('Pass 5')
  await press(page, 'p')
  await expect(page.getByText('Pass 5 is picked')).toBeVisible()
  await press(page, 'm')
  await expect(page.getByText('Sing again (1)')).toHaveCount(0)

  // One file: every sample is the picked take's, away from the seams.
  await page.getByRole('button', { name: 'Comps', exact: true }).click()
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save as WAV' }).click()])
  const file = await openWav(download)
  expect(file).toMatchObject({ sampleRateHz: 48_000, encoding: 'float32' })
  await page.getByRole('button', { name: 'Bounce to one take' }).click()
  await expect(page.getByText('It lies among the takes.')).toBeVisible({ timeout: 30_000 })
  const song = await storedSong(page)
  const sounds = await storedSounds(page, song)
  let compared = 0
  for (const pick of currentComp(lead(song)).picks) {
    const take = song.takes.find(entry => entry.id === pick.takeId)!
    const gain = 10 ** (pick.gainDecibels / 20)
    for (let frame = pick.startFrame + 1_000; frame < pick.endFrame - 1_000; frame++) {
      const expected = sounds[take.assetId]![frame - take.originFrame - pick.nudgeFrames]! * gain
      if (Math.abs(file.planes[0]![frame]! - expected) > 1e-6)
        throw new Error(`frame ${frame} of ${take.name}: ${file.planes[0]![frame]} instead of ${expected}`)
      compared++
    }
  }
  expect(compared).toBeGreaterThan(40 * 48_000)
  const bounce = song.takes.at(-1)!
  expect(bounce.bounceOf?.picks).toHaveLength(currentComp(lead(song)).picks.length)
  const bounced = sounds[bounce.assetId]!
  expect(bounced.findIndex((sample, i) => sample !== file.planes[0]![bounce.originFrame + i])).toBe(-1)
})

test('a first comp is proposed with reasons; blind listening hides the names; a used take is asked about; a stretch is put aside and called back', async ({
  page,
}) => {
  test.setTimeout(300_000)
  await openPrepared(page)
  await page.getByRole('button', { name: 'First comp' }).click()
  await page.getByRole('button', { name: 'Listen to all takes' }).click()
  await expect(page.getByRole('button', { name: /Take all 16 lines/ })).toBeVisible({ timeout: 120_000 })
  await expect(page.getByRole('list', { name: 'Proposed takes' })).toContainText(/% sure/)
  expect(await violations(page)).toEqual([])
  await page.getByRole('button', { name: 'Take this section' }).click()
  await expect(page.getByRole('button', { name: /Undo “take 4 proposed lines/ })).toBeVisible()
  await page.getByRole('button', { name: 'Leave it' }).click()

  // The last hook has takes of the lead only: four letters, no names, one is left.
  await page.locator('[data-line]').nth(14).click()
  await page.getByRole('button', { name: 'Blind', exact: true }).click()
  const blind = page.getByRole('group', { name: 'Blind listening' })
  await expect(blind).not.toContainText('Pass')
  expect(await violations(page)).toEqual([])
  await blind.getByRole('button', { name: 'Hear B' }).click()
  for (const letter of ['A', 'C', 'D']) await blind.getByRole('button', { name: `Knock out ${letter}` }).click()
  await blind.getByRole('button', { name: /^Pick Pass/ }).click()
  await expect(page.getByText(/^Pass \d is picked/)).toBeVisible()

  // A double wants what the lead plays: said, and marked when insisted upon.
  await page.locator('[data-line]').nth(6).click()
  await page.getByLabel('Layer').selectOption('Double left')
  await page
    .getByRole('group', { name: 'Bench tools' })
    .getByRole('button', { name: /Free takes/ })
    .click()
  await expect(page.locator('[data-row]').first()).toBeVisible()
  const names = await page.locator('[data-row]').evaluateAll(rows => rows.map(row => row.getAttribute('aria-label')))
  expect(names.some(name => name!.includes('used in'))).toBe(false)
  await page
    .getByRole('group', { name: 'Bench tools' })
    .getByRole('button', { name: /Free takes/ })
    .click()
  await page.getByLabel('Layer').selectOption('Lead')
  await page.getByRole('heading', { level: 1 }).click()
  await press(page, 'o')
  await page.getByLabel('Note').fill('for the bridge')
  await page.getByRole('button', { name: 'Put it aside' }).click()
  await page.getByLabel('Layer').selectOption('High 1')
  await expect(page.getByText('“for the bridge”')).toBeVisible()
  await page.getByRole('button', { name: 'Use it here' }).click()
  await expect(page.getByText(/plays in Lead as well: the same sound twice is only louder/)).toBeVisible()
  await page.getByRole('button', { name: 'Pick it all the same' }).click()
  await press(page, 'o')
  await expect(page.getByRole('group', { name: 'Pick' })).toContainText('plays in Lead as well')

  // A take that is played goes to the bin only after the question.
  await room(page, 'Booth')
  await page
    .getByRole('button', { name: /^Put Pass \d in the bin/ })
    .first()
    .click()
  const question = page.getByRole('alertdialog')
  await expect(question).toContainText('High 1')
  await question.getByRole('button', { name: 'Keep it' }).click()
  await expect(question).toHaveCount(0)
})

test('a cut snaps to a quiet place and can be free, its seam is dragged, and a dropped gesture changes nothing', async ({ page }) => {
  await openPrepared(page)
  await listened(page)
  const strip = page.getByTitle(/^Click to cut what is picked/)
  const box = (await strip.boundingBox())!
  const [mark] = await page.getByTitle('Quiet: in a consonant').all()
  const at = (await mark!.boundingBox())!
  const song = await storedSong(page)
  const [line] = placedLines(song)
  const edges = async () => picksIn(await storedSong(page), line!.startFrame - 24_000, line!.endFrame + 24_000).map(pick => pick.startFrame)
  // Eight pixels beside a mark it is the mark's place; with Alt it is where one clicked.
  await page.mouse.click(at.x + 10, box.y + 8)
  await expect(page.getByRole('group', { name: 'Seam' })).toContainText('Cut in Pass 1')
  await expect(page.getByRole('group', { name: 'Seam' })).toContainText('in a consonant')
  await press(page, 'Control+z')
  await page.keyboard.down('Alt')
  await page.mouse.click(box.x + box.width * 0.42, box.y + 8)
  await page.keyboard.up('Alt')
  await expect(page.getByRole('group', { name: 'Seam' })).toContainText('Cut in Pass 1')
  const view = { startFrame: line!.startFrame - 24_000, endFrame: line!.endFrame + 24_000 }
  await expect.poll(async () => (await edges()).length).toBe(2)
  const [, cut] = await edges()
  expect(Math.abs(cut! - (view.startFrame + 0.42 * (view.endFrame - view.startFrame)))).toBeLessThan(700)
  // Forty pixels to the right is a share of what is in view; Alt keeps it from snapping.
  const handle = page.getByRole('button', { name: /^Cut in Pass 1/ })
  const from = (await handle.boundingBox())!
  await page.keyboard.down('Alt')
  await page.mouse.move(from.x + 12, from.y + 12)
  await page.mouse.down()
  await page.mouse.move(from.x + 52, from.y + 12, { steps: 6 })
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
  await page.mouse.up()
  await page.keyboard.up('Alt')
  await expect(page.getByRole('button', { name: /Undo “move a seam/ })).toBeVisible()
  await expect.poll(async () => (await edges())[1]).not.toBe(cut)
  const [, moved] = await edges()
  expect(Math.abs(moved! - cut! - (40 / box.width) * (view.endFrame - view.startFrame))).toBeLessThan(700)
  await press(page, 'Control+z')
  await expect.poll(async () => (await edges())[1]).toBe(cut)
})

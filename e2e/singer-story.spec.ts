/** The whole story with the practice singer: from a dropped beat to files that open elsewhere. */
import { expect, test } from '@playwright/test'
import { scoreOfSheet } from '../src/core/rehearsal/score'
import { sing } from '../src/core/rehearsal/sing'
import { placedLines } from '../src/core/song/select'
import { bestLag, decibelsApart, deliverAll, downloadSongFile, openSongFile, room, stackSheet, startSong } from './support'

test('beat, template, words, three passes in a loop, comp, double, mix, files', async ({ page }) => {
  const foreign: string[] = []
  page.on('request', request => {
    const { hostname, protocol } = new URL(request.url())
    if (protocol !== 'blob:' && protocol !== 'data:' && hostname !== 'localhost') foreign.push(request.url())
  })
  const complaints: string[] = []
  page.on('console', message => void (message.type() === 'error' && complaints.push(message.text())))
  page.on('pageerror', error => complaints.push(error.message))
  await startSong(page)
  const next = page.getByRole('note', { name: 'What comes next' })
  await expect(next).toContainText('Sing.')

  // Booth: the practice singer, the first line, looping; stop in the third pass' end.
  await room(page, 'Booth')
  await expect(page.getByText('No microphone is open.').first()).toBeVisible()
  await expect(page.getByRole('button', { name: 'Record', exact: true })).toBeEnabled()
  await page.getByRole('button', { name: 'Practice singer' }).click()
  await page.locator('[data-line]').first().click()
  await page.getByLabel('How often').selectOption('loop')
  await expect(page.getByText(/Will record/)).toBeVisible()
  await page.keyboard.press('r')
  await expect(page.getByText('Pass 3')).toBeVisible({ timeout: 60_000 })
  await page.waitForTimeout(4_500)
  await page.keyboard.press('r')
  await expect(page.locator('[data-take]')).toHaveCount(3)
  await expect(page.locator('[data-take]').first()).toContainText('moved 23.0 ms earlier, simulated interface')

  // Comp: hear another take while playing, pick it by keys; it sounds at once and the undo says so.
  await expect(next).toContainText('Choose the best take of each line')
  await next.getByRole('button', { name: 'Take me there' }).click()
  await expect(next).toContainText('Thicken the hook')
  await expect(page.getByRole('button', { name: /^Loop L$/ })).toHaveAttribute('aria-pressed', 'true')
  await page.keyboard.press(' ')
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible()
  await page.keyboard.press('ArrowDown')
  await expect(page.getByText(/hearing Pass 2, matched by/)).toBeVisible()
  await page.keyboard.press('p')
  await expect(page.getByText('Pass 2 is picked')).toBeVisible()
  await expect(page.getByRole('button', { name: /Undo “pick pass 2/ })).toBeVisible()
  await page.keyboard.press(' ')

  // Stack: both doubles from what is left, at once.
  await stackSheet(page, 'Doubles')
  await page.getByRole('button', { name: 'Make the doubles of 2 patches' }).click({ timeout: 60_000 })
  await expect(page.getByLabel('Harbour radio hums in the rain, Double right: picked', { exact: true })).toBeVisible()
  await room(page, 'Comp')
  await page.getByRole('button', { name: /Pass 1: used in Double/ }).click()
  await expect(page.getByText(/Pass 1 plays in Double (left|right) as well/)).toBeVisible()
  await page.getByRole('button', { name: 'Leave it' }).click()

  await expect(next).toContainText('Lower the breaths')
  await next.getByRole('button', { name: 'No more hints' }).click()
  await expect(next).toBeHidden()

  // Mix: a typed level is one step of undo.
  await room(page, 'Mix')
  // Low enough that the ceiling is never touched: parts then sum to the mix.
  await page.getByRole('textbox', { name: 'Beat level' }).fill('-12')
  await page.keyboard.press('Enter')
  await page.getByRole('textbox', { name: 'Lead level' }).fill('-9')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: /Undo “set Lead's level/ })).toBeVisible()
  await page.getByRole('button', { name: 'Mute Double left' }).click()
  await page.getByRole('button', { name: 'Mute Double right' }).click()

  const { mix, vocals, beat } = await deliverAll(page)
  expect(mix).toMatchObject({ sampleRateHz: 48_000, encoding: 'pcm24' })
  const length = Math.min(mix.planes[0]!.length, beat.planes[0]!.length)
  const sum =
    vocals.planes[0]!.length > 0 ? Float32Array.from({ length }, (_, i) => (vocals.planes[0]![i] ?? 0) + beat.planes[0]![i]!) : new Float32Array(length)
  expect(decibelsApart(sum, mix.planes[0]!.subarray(0, length))).toBeLessThan(-100)

  // What was sung is where it was sung: the picked take against what the singer was given to sing in pass 2.
  const { song, sounds } = await openSongFile(await downloadSongFile(page))
  const line = placedLines(song)[0]!
  const range = { startFrame: line.startFrame - 48_000, endFrame: line.endFrame + 48_000 }
  const score = scoreOfSheet(song)
    .filter(entry => entry.startSeconds < range.endFrame / 48_000)
    .map(entry => ({
      startSeconds: entry.startSeconds - range.startFrame / 48_000,
      notes: entry.notes.map(note => ({
        ...note,
        startSeconds: note.startSeconds - range.startFrame / 48_000,
        endSeconds: note.endSeconds - range.startFrame / 48_000,
      })),
    }))
  const given = sing({ score, frames: range.endFrame - range.startFrame, seed: 7, take: 41 })
  const expected = given.subarray(48_000 + 24_000, 48_000 + 120_000)
  // The dry take itself: a mixed voice is as like itself one period of its pitch away. That the export holds it in place is the microphone's story.
  const take = song.takes.find(entry => entry.id === song.layers[0]!.comps[0]!.picks[0]!.takeId)!
  const from = line.startFrame + 24_000 - take.originFrame
  const { lag, correlation } = bestLag(expected, sounds[take.assetId]!.subarray(from - 480, from + 96_000 + 480), 960)
  expect(correlation).toBeGreaterThan(0.9)
  expect(Math.abs(lag - 480)).toBeLessThanOrEqual(48)

  // A reload loses nothing, and undo still knows its steps.
  await room(page, 'Mix')
  await page.reload()
  await expect(page.getByRole('button', { name: /Undo “mute Double right”/ })).toBeVisible()
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('textbox', { name: 'Lead level' })).toHaveValue('0')
  await page.keyboard.press('Control+Shift+z')
  await expect(page.getByRole('textbox', { name: 'Lead level' })).toHaveValue('-9')

  // The song file gives the same song back.
  await page.goto('/')
  await expect(page.getByRole('article')).toHaveCount(1)
  expect(foreign).toEqual([])
  expect(complaints).toEqual([])
})

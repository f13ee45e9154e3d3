import 'fake-indexeddb/auto'
import { afterEach, beforeEach, expect, jest, test } from '@jest/globals'
import { beginHistory } from '../../core/song/history'
import { setBeatMix } from '../../core/mix/commands'
import { renameSection } from '../../core/song/sections'
import { setTitle } from '../../core/song/title'
import type { Song, SongId } from '../../core/song/schema'
import { smallSong } from '../../core/song/song.test-kit'
import { database } from '../../storage/database'
import { addSong, loadSong } from '../../storage/songs'
import { currentGesture, isHeldFrom } from './gesture'
import { keptSoFar } from './keeper'
import { currentSong, edit, editBesideHistory, editWith, goToStep, openHistory, redoStep, tryOut, undoStep, useSongStore } from './song-store'

// No keyboard here: a key is held when a test says so.
jest.mock('./gesture', () => ({ currentGesture: jest.fn(() => 0), isHeldFrom: jest.fn(() => false) }))

const song = { ...smallSong(), id: 'one' as SongId, title: 'First' }
const call = (title: string) => (now: Song) => setTitle(now, title)
const gain = () => currentSong().beat.gainDecibels
let forget = () => {}
const labels = () => useSongStore.getState().history!.done.map(step => step.label)

beforeEach(async () => {
  await addSong(song, '2026-01-01T20:00:00.000Z')
  openHistory(beginHistory(song), false)
  jest.mocked(currentGesture).mockReturnValue(0)
  jest.mocked(isHeldFrom).mockReturnValue(false)
  globalThis.reportError = jest.fn()
})
afterEach(async () => {
  forget()
  await keptSoFar()
  await Promise.all(database.tables.map(table => table.clear()))
})

test('a command that breaks a limit changes nothing, and says which command and why', () => {
  edit('call it', call('Second'))
  const before = currentSong()
  expect(edit('make it long', now => ({ ...now, title: 'x'.repeat(5_000) }))).toMatchObject({ ok: false })
  expect(currentSong()).toBe(before)
  expect(useSongStore.getState().refused).toMatchObject({ label: 'make it long', problem: expect.anything() })
  edit('call it', call('Third'))
  expect(useSongStore.getState().refused).toBeNull()
  expect(labels()).toEqual(['call it', 'call it'])
})

test('a tab that only looks changes nothing, and says so; facts that come by themselves are left out in silence', () => {
  openHistory(beginHistory(song), true)
  expect(edit('call it', call('Second'))).toEqual({ ok: false, problem: null })
  expect(useSongStore.getState().refused).toEqual({ label: 'call it', problem: 'only-looking' })
  expect(currentSong()).toBe(song)
  openHistory(beginHistory(song), true)
  editBesideHistory(call('Third'))
  expect(useSongStore.getState().refused).toBeNull()
})

test('undo and redo say what they did and where; any step is gone to at once', () => {
  edit('name the hook', now => renameSection(now, { sectionId: now.sections[2]!.id, name: 'Chorus' }))
  edit('call it', call('Second'))
  undoStep()
  expect(useSongStore.getState().stepped).toEqual({ how: 'Undone', label: 'call it', place: null })
  undoStep()
  expect(useSongStore.getState().stepped).toEqual({ how: 'Undone', label: 'name the hook', place: 'Hook' })
  redoStep()
  expect(useSongStore.getState().stepped).toMatchObject({ how: 'Redone', label: 'name the hook', place: 'Chorus' })
  goToStep(null)
  expect(currentSong()).toEqual(song)
  goToStep(useSongStore.getState().history!.undone[1]!.id)
  expect(currentSong().title).toBe('Second')
  expect(labels()).toEqual(['name the hook', 'call it'])
})

test('a command that throws changes nothing; the next one works, and both are told apart', () => {
  const broken = () => {
    throw new TypeError('ours')
  }
  expect(edit('break', broken)).toEqual({ ok: false, problem: null })
  expect(useSongStore.getState().refused).toEqual({ label: 'break', problem: null })
  expect(globalThis.reportError).toHaveBeenCalledTimes(1)
  expect(edit('call it', call('Second'))).toEqual({ ok: true })
  expect(currentSong().title).toBe('Second')
})

test('who draws the song may fail: the command is carried out and stored all the same', async () => {
  forget = useSongStore.subscribe(() => {
    throw new Error('a view of something gone')
  })
  expect(edit('call it', call('Second'))).toEqual({ ok: true })
  undoStep()
  redoStep()
  await keptSoFar()
  expect(await loadSong(song.id)).toMatchObject({ kind: 'current', history: { song: { title: 'Second' } } })
})

test('what a held key repeats is one step; a new press is another; undo ends it', () => {
  const louder = () => edit('turn the beat up', now => setBeatMix(now, { gainDecibels: now.beat.gainDecibels + 0.5 }))
  const start = gain()
  louder()
  jest.mocked(isHeldFrom).mockReturnValue(true)
  for (let i = 0; i < 9; i++) louder()
  jest.mocked(isHeldFrom).mockReturnValue(false)
  louder()
  expect(labels()).toHaveLength(2)
  undoStep()
  expect(gain()).toBeCloseTo(start + 5, 6)
  undoStep()
  expect(gain()).toBe(start)
})

test('a fact that came by itself is no step, and no step takes it back', () => {
  edit('turn the beat down', now => setBeatMix(now, { gainDecibels: -9 }))
  editBesideHistory(call('Heard'))
  expect(labels()).toHaveLength(1)
  undoStep()
  expect([gain(), currentSong().title]).toEqual([song.beat.gainDecibels, 'Heard'])
})

test('what is worked out first is worked out anew if the song was changed meanwhile: nothing is lost', async () => {
  const seen: string[] = []
  const answer = await editWith('turn the beat down', async before => {
    seen.push(before.title)
    await Promise.resolve()
    if (seen.length === 1) edit('call it', call('Second'))
    return { song: setBeatMix(before, { gainDecibels: -9 }), answer: seen.length }
  })
  expect(seen).toEqual(['First', 'Second'])
  expect([answer, currentSong().title, gain()]).toEqual([2, 'Second', -9])
})

test('what is worked out for a song that was left meanwhile touches no other song', async () => {
  const other = { ...song, id: 'two' as SongId, title: 'Other' }
  await editWith('turn the beat down', async before => {
    await Promise.resolve()
    openHistory(beginHistory(other), false)
    return { song: setBeatMix(before, { gainDecibels: -9 }), answer: null }
  })
  expect(currentSong()).toBe(other)
  expect(labels()).toEqual([])
})

test('a trial is heard and not kept; one that cannot be made is not heard', () => {
  tryOut(now => setBeatMix(now, { gainDecibels: -9 }))
  expect(useSongStore.getState().trial?.beat.gainDecibels).toBe(-9)
  expect(gain()).toBe(song.beat.gainDecibels)
  tryOut(now => ({ ...now, title: 'x'.repeat(5_000) }))
  expect(useSongStore.getState().trial).toBeNull()
  expect(labels()).toEqual([])
})

test('a song that is only shown is not changed', () => {
  openHistory(beginHistory(song), true)
  expect(edit('call it', call('Second'))).toEqual({ ok: false, problem: null })
  expect(currentSong()).toBe(song)
})

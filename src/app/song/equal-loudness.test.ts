import { beforeEach, expect, jest, test } from '@jest/globals'
import { beginHistory } from '../../core/song/history'
import { smallSong } from '../../core/song/song.test-kit'
import type { View } from '../../core/mix/heard'
import { runJob } from '../../workers/run-job'
import { hearAsLoud, hearTheSong, useMatching } from './equal-loudness'
import { useSongStore } from './song-store'
import { useView } from './view-store'

jest.mock('../../workers/run-job', () => ({ runJob: jest.fn() }))
jest.mock('./keeper', () => ({ keepStep: jest.fn(), keep: jest.fn() }))

const song = smallSong()
const louder = (gainDecibels: number): View => ({ kind: 'without-recipe', gainDecibels })
let answer: (value: number | null) => void
beforeEach(() => {
  useSongStore.setState({ history: beginHistory(song) })
  hearTheSong()
  jest
    .mocked(runJob)
    .mockImplementation((() => new Promise(resolve => (answer = value => resolve(value === null ? { kind: 'failed' } : { kind: 'done', value })))) as never)
})
const view = () => useView.getState().view

test('it is heard as loud as was measured, by 12 dB at most; where nothing could be measured, as it is', async () => {
  for (const [measured, heard] of [
    [-3.5, -3.5],
    [40, 12],
    [null, 0],
  ] as const) {
    const hearing = hearAsLoud(song, louder)
    expect(useMatching.getState().matching).toBe(true)
    answer(measured)
    await hearing
    expect(view()).toEqual(louder(heard))
    expect(useMatching.getState().matching).toBe(false)
  }
})

test('whoever has left the room, or listens to something else by then, is not taken back', async () => {
  const hearing = hearAsLoud(song, louder)
  hearTheSong()
  answer(2)
  await hearing
  expect(view()).toEqual({ kind: 'song' })
  expect(useMatching.getState().matching).toBe(false)
})

test('while one is measured no other is', async () => {
  const hearing = hearAsLoud(song, louder)
  const before = jest.mocked(runJob).mock.calls.length
  await hearAsLoud(song, louder)
  expect(jest.mocked(runJob).mock.calls.length).toBe(before)
  answer(1)
  await hearing
})

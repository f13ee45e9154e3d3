import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals'
import type { Mono } from '../../../core/audio/frames'
import { makePeaks } from '../../../core/audio/peaks'
import { makeRandom } from '../../../core/audio/random'
import { describeComp } from '../../../core/comp/comps'
import { beginHistory } from '../../../core/song/history'
import type { Pick, Take } from '../../../core/song/schema'
import { currentComp, requireLayer } from '../../../core/song/select'
import { layerOf, lineRange, smallSong, withTakes } from '../../../core/song/song.test-kit'
import { closeSong, currentSong, openHistory, undoStep, useSongStore } from '../../song/song-store'
import { setBench, useBench } from './bench-store'
import { clearStretch, cutAt, keepSeam, matchPick, pickRow, pickRows, seamsIn, trySeam } from './comping'

/** Two takes of the same lines: noise all through, the second 6 dB softer. */
const random = makeRandom(3)
const noise = (level: number) => Float32Array.from({ length: 30 * 48_000 }, () => level * (2 * random() - 1))
const mockSounds: Record<string, Mono> = { 'asset-1': noise(0.2), 'asset-2': noise(0.1) }
const mockPeaks = new Map(Object.entries(mockSounds).map(([id, sound]) => [id, makePeaks([sound])]))
const mockRead = (id: string, from: number, to: number) => Float32Array.from({ length: to - from }, (_, i) => mockSounds[id]![from + i] ?? 0)
jest.mock('../../song/keeper', () => ({ keep: () => {} }))
jest.mock('../../../workers/run-job', () => ({ runJob: jest.fn() }))
jest.mock('../../song/voices', () => ({ analysedTake: () => null, knownVoice: () => null, sungBy: () => null }))
jest.mock('../../song/sounds', () => ({
  peaksLookup: () => Promise.resolve((take: Take) => ({ peaks: mockPeaks.get(take.assetId), originFrame: take.originFrame })),
}))
jest.mock('../../../storage/sounds', () => ({ readStretch: (id: string, from: number, to: number) => Promise.resolve([mockRead(id, from, to)]) }))

const song = withTakes(smallSong(), 'Lead', 2)
const lead = layerOf(song, 'Lead')
const [first, second] = song.takes.map(take => take.id) as [Take['id'], Take['id']]
const picks = (): readonly Pick[] => currentComp(requireLayer(currentSong(), lead)).picks
const steps = () => useSongStore.getState().history!.done.map(step => step.label)
const row = (takeId: Take['id']) => ({ layerId: lead, takeId })
const stretch = (line: number) => ({ ...lineRange(line), title: `line ${line}` })
const anywhere = { startFrame: -Infinity, endFrame: Infinity }

beforeEach(() => openHistory(beginHistory(song), false))
afterEach(() => closeSong())

const pickBoth = () =>
  pickRows('pick both', [
    { row: row(first), stretch: stretch(0) },
    { row: row(second), stretch: stretch(1) },
  ])

describe('picking', () => {
  test('is one step, however many are picked, and says how many could be', async () => {
    expect(await pickBoth()).toBe(2)
    expect(picks().map(pick => pick.takeId)).toEqual([first, second])
    expect(steps()).toEqual(['pick both'])
    undoStep()
    expect(picks()).toEqual([])
  })

  test('what cannot be picked changes nothing, is no step, and says why', async () => {
    expect(await pickRow(row(first), { ...stretch(0), startFrame: 0, endFrame: 9_600 })).toBe('not-sung-here')
    expect(steps()).toEqual([])
  })

  test('two at once are both made: the second is worked out again over the first', async () => {
    const outcomes = await Promise.all([pickRow(row(first), stretch(0)), pickRow(row(second), stretch(1))])
    expect(outcomes).toEqual(['picked', 'picked'])
    expect(picks().map(pick => pick.takeId)).toEqual([first, second])
    expect(picks()[0]!.endFrame).toBe(picks()[1]!.startFrame)
  })

  test('a song that was left meanwhile is not changed', async () => {
    const picking = pickRow(row(first), stretch(0))
    closeSong()
    await picking
    expect(useSongStore.getState().history).toBeNull()
  })
})

describe('cutting', () => {
  test('cuts what plays there and chooses the new seam; where nothing plays it says so', async () => {
    await pickRow(row(first), stretch(0))
    const at = lineRange(0).startFrame + 60_000
    expect(cutAt(lead, at, { snap: true })).toBe(true)
    expect(picks().map(pick => [pick.takeId, pick.startFrame])).toContainEqual([first, at])
    expect(useBench.getState().seam).toEqual({ pickId: picks()[1]!.id, edge: 'start' })
    expect(cutAt(lead, 0, { snap: true })).toBe(false)
  })

  test('every edge of a pick is one seam, shared where two picks meet', async () => {
    await pickBoth()
    const seams = seamsIn(currentSong(), lead, anywhere)
    expect(seams.map(({ before, after }) => [before?.takeId ?? null, after?.takeId ?? null])).toEqual([
      [null, first],
      [first, second],
      [second, null],
    ])
    expect(seamsIn(currentSong(), lead, { startFrame: seams[1]!.frame, endFrame: seams[1]!.frame })).toHaveLength(1)
  })
})

describe('a seam', () => {
  test('is heard where it is tried, and kept as one step with a crossfade by the sound there', async () => {
    await pickBoth()
    const { id, frame } = seamsIn(currentSong(), lead, anywhere)[1]!
    trySeam(lead, id, frame + 20_000)
    expect(currentComp(requireLayer(useSongStore.getState().trial!, lead)).picks[0]!.endFrame).toBe(frame + 20_000)
    expect(picks()[0]!.endFrame).toBe(frame)
    await keepSeam(lead, id, frame + 20_000)
    expect(picks()[0]!.endFrame).toBe(frame + 20_000)
    expect(steps()).toEqual(['pick both', 'move a seam'])
    // Unlike noises in the middle of a sound are crossed within 15 ms.
    expect(picks()[1]!.seam).toEqual({ frames: 720, alike: false, byHand: false })
  })

  test('whose pick was undone while its crossfade was chosen stays gone, and nothing fails', async () => {
    await pickBoth()
    const { id, frame } = seamsIn(currentSong(), lead, anywhere)[1]!
    const keeping = keepSeam(lead, id, frame + 20_000)
    undoStep()
    await keeping
    expect(picks()).toEqual([])
    expect(useSongStore.getState().refused).toBeNull()
  })
})

describe('a level', () => {
  test('follows what a pick meets, or is left as it was sung', async () => {
    await pickBoth()
    const { id } = picks()[1]!
    expect(picks()[1]!.gainDecibels).toBeCloseTo(6, 0)
    await matchPick(lead, id, false)
    expect(picks()[1]).toMatchObject({ gainDecibels: 0, levelMatched: false })
    await matchPick(lead, id, true)
    expect(picks()[1]!.gainDecibels).toBeCloseTo(6, 0)
    expect(steps().slice(1)).toEqual(['leave its level', 'match its level'])
  })

  test('of a pick that is gone changes nothing', async () => {
    await pickBoth()
    const { id } = picks()[1]!
    undoStep()
    await matchPick(lead, id, true)
    expect(steps()).toEqual([])
  })
})

test('silence in a stretch reaches from seam to seam', async () => {
  await pickBoth()
  const { frame } = seamsIn(currentSong(), lead, anywhere)[1]!
  clearStretch(lead, { startFrame: lineRange(0).startFrame, endFrame: frame + 9_600 })
  expect(picks().map(pick => pick.takeId)).toEqual([second])
  expect(picks()[0]!.startFrame).toBe(frame)
})

test('a word beside a cut is silenced too, however short it is; where nothing plays, it is said', async () => {
  await pickRow(row(first), stretch(0))
  const at = lineRange(0).startFrame + 60_000
  cutAt(lead, at, { snap: false })
  expect(clearStretch(lead, { startFrame: at - 2_000, endFrame: at + 12_000 })).toBe(true)
  expect(picks().some(pick => pick.startFrame < at + 11_000 && pick.endFrame > at + 1_000)).toBe(false)
  expect(picks()).toHaveLength(2)
  const before = currentSong()
  expect(clearStretch(lead, lineRange(3))).toBe(false)
  expect(currentSong()).toBe(before)
})

test('a locked comp is left as it is by all of them, and the room asks', async () => {
  await pickBoth()
  const before = describeComp(currentSong(), { layerId: lead, compId: requireLayer(currentSong(), lead).currentCompId, locked: true })
  openHistory(beginHistory(before), false)
  const { id, frame } = seamsIn(currentSong(), lead, anywhere)[1]!
  for (const act of [
    () => cutAt(lead, lineRange(0).startFrame + 60_000, { snap: false }),
    () => keepSeam(lead, id, frame + 5_000),
    () => matchPick(lead, id.pickId, false),
    () => clearStretch(lead, lineRange(0)),
  ]) {
    setBench({ lockedAsked: false })
    await act()
    expect(useBench.getState().lockedAsked).toBe(true)
  }
  trySeam(lead, id, frame + 5_000)
  expect(await pickRow(row(second), stretch(0))).toBe('locked')
  expect(currentSong()).toBe(before)
  expect(useSongStore.getState().trial).toBeNull()
})

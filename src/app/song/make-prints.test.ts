import { beforeEach, expect, jest, test } from '@jest/globals'
import { pickTake } from '../../core/comp/picks'
import { setNoteEdit } from '../../core/edits/commands'
import { keyOfJob, type PrintJob } from '../../core/prints/jobs'
import { planPrints } from '../../core/prints/plan-prints'
import { beginHistory, type History } from '../../core/song/history'
import type { EditId } from '../../core/song/edit-schema'
import type { AssetId, Song, SongId } from '../../core/song/schema'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../../core/song/song.test-kit'
import { runJob } from '../../workers/run-job'
import { tryPrintsAgain } from './make-prints'
import { dropPrint, NO_PRINT_STATE, usePrints } from './prints'
import { useSongStore } from './song-store'
import { useView } from './view-store'

jest.mock('../../workers/run-job', () => ({ runJob: jest.fn() }))
jest.mock('./keeper', () => ({ keepStep: jest.fn(), keep: jest.fn() }))

const taken = withTakes(smallSong(), 'Lead', 1)
const lead = layerOf(taken, 'Lead')
const [take] = taken.takes
const picked = [0, 1].reduce((s, line) => pickTake(s, { layerId: lead, takeId: take!.id, ...lineRange(line), makeId }), {
  ...taken,
  takes: [{ ...take!, startFrame: 0, endFrame: 48_000 * 30, originFrame: 0 }],
})
const tuned = (of: Song, line: number, shiftCents = 50) => {
  const startFrame = lineRange(line).startFrame + 9_600
  return setNoteEdit(of, { takeId: take!.id, edit: { id: `note-${line}` as EditId, startFrame, endFrame: startFrame + 4_800, shiftCents, rungCents: null } })
}
const both = tuned(tuned(picked, 0), 1)
const [first, second] = planPrints(both)

/** Jobs asked for, in order, each with what answers it. */
let asked: { job: PrintJob; answer: (kind: 'made' | 'storage-full' | 'cancelled') => void }[] = []
const settle = () => new Promise(resolve => setTimeout(resolve))
const show = (song: Song | null) => useSongStore.setState({ history: song && ({ ...beginHistory(song) } as History) })
const printOf = (job: PrintJob) => usePrints.getState().table.get(keyOfJob(job))

beforeEach(async () => {
  // What the last test left running ends.
  show(null)
  for (const { answer } of asked) answer('cancelled')
  await settle()
  asked = []
  jest.mocked(runJob).mockImplementation(((_: string, { job }: { job: PrintJob }) => {
    const made = { kind: 'made', assetId: `print-${asked.length}` as AssetId }
    return new Promise(resolve =>
      asked.push({
        job,
        answer: kind => resolve(kind === 'cancelled' ? { kind } : { kind: 'done', value: kind === 'made' ? made : { kind } }),
      }),
    )
  }) as unknown as typeof runJob)
  usePrints.setState(NO_PRINT_STATE)
  useView.setState({ cursorFrame: 0 })
})

test('what a song lacks is made one by one, the nearest first; each is there as soon as it is made', async () => {
  useView.setState({ cursorFrame: lineRange(1).startFrame })
  show(both)
  expect(asked.map(({ job }) => job)).toEqual([second])
  expect(usePrints.getState().waiting).toBe(2)
  asked[0]!.answer('made')
  await settle()
  expect(printOf(second!)).toBe('print-0')
  expect(asked.map(({ job }) => job)).toEqual([second, first])
  asked[1]!.answer('made')
  await settle()
  expect(usePrints.getState()).toMatchObject({ waiting: 0 })
  // A change that needs no other print asks for none.
  show({ ...both, title: 'Otherwise' })
  await settle()
  expect(asked).toHaveLength(2)
})

test('what was changed again before its turn came is not made', async () => {
  show(both)
  show(tuned(both, 1, 70))
  show(tuned(both, 1, 90))
  asked[0]!.answer('made')
  await settle()
  expect(asked.map(({ job }) => job)).toEqual([first, planPrints(tuned(both, 1, 90))[1]])
})

test('what cannot be made is told and not tried again and again; asked to, it is', async () => {
  show(tuned(picked, 0))
  asked[0]!.answer('storage-full')
  await settle()
  show({ ...tuned(picked, 0), title: 'Otherwise' })
  await settle()
  expect(asked).toHaveLength(1)
  expect(usePrints.getState()).toMatchObject({ waiting: 0, failed: new Set([keyOfJob(first!)]) })
  tryPrintsAgain()
  asked[1]!.answer('made')
  await settle()
  expect(printOf(first!)).toBe('print-1')
  expect(usePrints.getState().failed.size).toBe(0)
})

test('one that is not stored any more is left out, and made again', async () => {
  show(tuned(picked, 0))
  asked[0]!.answer('made')
  await settle()
  dropPrint('print-0' as AssetId)
  expect(printOf(first!)).toBeUndefined()
  asked[1]!.answer('made')
  await settle()
  expect(printOf(first!)).toBe('print-1')
})

test('another song begins with none; what was being made for the last is not laid into it', async () => {
  show(both)
  show({ ...picked, id: 'other' as SongId })
  expect(usePrints.getState().table.size).toBe(0)
  asked[0]!.answer('made')
  await settle()
  expect(asked).toHaveLength(1)
  // Its key names a sound that the other song may share: then it is right there too.
  expect([...usePrints.getState().table.keys()]).toEqual([keyOfJob(first!)])
})

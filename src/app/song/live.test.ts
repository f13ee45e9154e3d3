import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals'
import { beginHistory } from '../../core/song/history'
import { setTitle } from '../../core/song/title'
import { setBeatMix } from '../../core/mix/commands'
import { placedLines } from '../../core/song/select'
import type { AssetId, SongId } from '../../core/song/schema'
import { smallSong } from '../../core/song/song.test-kit'
import { Engine, type DeviceEvent } from '../../engine/engine'
import type { FromMix, PlayCommand } from '../../engine/messages'
import type * as Live from './live'
import type * as SongStore from './song-store'
import type * as ViewStore from './view-store'

jest.mock('../../engine/engine', () => ({ Engine: { start: jest.fn() } }))
jest.mock('./keeper', () => ({ keepStep: jest.fn(), keep: jest.fn() }))

/** The page's own events, which Node does not have. */
let page: EventTarget

class StandInEngine {
  awake = true
  /** It is asked to play, and has not begun yet. */
  startsLate = false
  audibleFrame = 4_321
  plans = 0
  played: Omit<PlayCommand, 'kind'>[] = []
  stops = 0
  closed = false
  private tellMix: (message: FromMix) => void = () => {}
  tell: (event: DeviceEvent) => void = () => {}

  listen(listener: (message: FromMix) => void) {
    this.tellMix = listener
  }
  listenToDevices(listener: (event: DeviceEvent) => void) {
    this.tell = listener
  }
  setPlan() {
    this.plans++
  }
  setClick() {}
  wake() {
    return Promise.resolve(this.awake)
  }
  play(command: Omit<PlayCommand, 'kind'>) {
    if (this.awake) this.played.push(command)
    if (this.awake && !this.startsLate) this.tellMix({ kind: 'started', contextFrame: 0, songFrame: command.fromFrame })
    return Promise.resolve(this.awake)
  }
  stop() {
    this.stops++
    this.tellMix({ kind: 'stopped', songFrame: 0 })
  }
  close() {
    this.closed = true
    return Promise.resolve()
  }
}

const song = smallSong()
const lines = placedLines(song)
const [second, fifth] = [lines[1]!, lines[4]!]
let engine: StandInEngine
let live: typeof Live
let store: typeof SongStore
let views: typeof ViewStore

const settle = () => new Promise(resolve => setTimeout(resolve, 5))
const status = () => live.useLive.getState().status
const starts = () => jest.mocked(Engine.start)

beforeEach(async () => {
  // The engine of the page is one for good: each test has a page of its own.
  jest.resetModules()
  page = new EventTarget()
  globalThis.addEventListener = page.addEventListener.bind(page)
  engine = new StandInEngine()
  const { Engine: fresh } = await import('../../engine/engine')
  jest.mocked(fresh.start).mockImplementation(() => Promise.resolve(engine as unknown as Engine))
  Object.assign(Engine, { start: fresh.start })
  ;[live, store, views] = await Promise.all([import('./live'), import('./song-store'), import('./view-store')])
  store.openHistory(beginHistory(song), true)
  views.resetView(song)
})
afterEach(() => void jest.clearAllMocks())

describe('starting', () => {
  test('one engine is started for all who ask, and gets the song that is open', async () => {
    const [one, other] = await Promise.all([live.ensureEngine(), live.ensureEngine()])
    expect(one).toBe(other)
    expect(starts()).toHaveBeenCalledTimes(1)
    await settle()
    expect(status()).toBe('ready')
    expect(engine.plans).toBe(1)
  })

  test.each([
    ['not-isolated', 'not-isolated'],
    ['the sound system gave no answer', 'no-audio'],
  ])('a start that fails (%s) is told, and can be tried again', async (message, told) => {
    starts().mockRejectedValueOnce(new Error(message))
    expect(await live.ensureEngine()).toBeNull()
    expect(status()).toBe(told)
    expect(await live.ensureEngine()).not.toBeNull()
    await settle()
    expect(status()).toBe('ready')
  })

  test('where the browser waits for a gesture it is asleep; any click or key wakes it, and playing works then', async () => {
    engine.awake = false
    await live.ensureEngine()
    await settle()
    expect(status()).toBe('asleep')
    await live.play()
    expect([status(), engine.played]).toEqual(['asleep', []])
    engine.awake = true
    page.dispatchEvent(new Event('pointerdown'))
    await settle()
    expect(status()).toBe('ready')
    await live.play()
    expect(engine.played).toHaveLength(1)
  })

  test('one that broke is not called ready by a wake that was under way, and is replaced by a new one on demand', async () => {
    await live.ensureEngine()
    engine.tell({ kind: 'broken', detail: 'a sound processor stopped' })
    await live.wake()
    expect(status()).toBe('broken')
    const before = engine
    engine = new StandInEngine()
    await live.startAnew()
    await settle()
    expect(before.closed).toBe(true)
    expect(status()).toBe('ready')
    // What the old one still says is of no concern.
    before.tell({ kind: 'broken', detail: 'late' })
    expect(status()).toBe('ready')
  })
})

describe('what the page is told', () => {
  test('no missing print, for that is made again', async () => {
    const { addPrint, usePrints } = await import('./prints')
    await live.ensureEngine()
    addPrint('job', 'print-1' as AssetId)
    engine.tell({ kind: 'missing-sound', assetId: 'print-1' as AssetId, startFrame: 0, endFrame: 1 })
    expect(live.useLive.getState().trouble.missing).toEqual([])
    expect(usePrints.getState().table.size).toBe(0)
  })

  test('missing sound once an asset, failed reading as well, until another song is opened', async () => {
    await live.ensureEngine()
    const missing = (assetId: string) => engine.tell({ kind: 'missing-sound', assetId: assetId as AssetId, startFrame: 0, endFrame: 1 })
    ;['a', 'b', 'a'].forEach(missing)
    engine.tell({ kind: 'read-failed', detail: 'the disk' })
    expect(live.useLive.getState().trouble).toEqual({ missing: ['a', 'b'], unread: true })
    store.edit('call it', now => setTitle(now, 'Second'))
    expect(live.useLive.getState().trouble.unread).toBe(true)
    store.openHistory(beginHistory({ ...song, id: 'other' as SongId }), true)
    expect(live.useLive.getState().trouble).toEqual({ missing: [], unread: false })
  })
})

describe('playing', () => {
  test('begins at the cursor and ends two seconds after the last sound', async () => {
    views.useView.setState({ cursorFrame: 96_000 })
    await live.play()
    expect(engine.played).toEqual([{ fromFrame: 96_000, loop: null, silentBeforeFrame: null, stopAtFrame: song.beat.frames + 96_000 }])
  })

  test.each([
    ['inside the loop', fifth.startFrame + 1_000, fifth.startFrame + 1_000],
    ['shortly before it, as after a count-in', fifth.startFrame - 96_000, fifth.startFrame - 96_000],
    ['more than ten seconds before it', fifth.startFrame - 481_000, fifth.startFrame],
    ['at its end', fifth.endFrame, fifth.startFrame],
  ])('looping, with the cursor %s', async (_, cursorFrame, fromFrame) => {
    views.useView.setState({ selection: { kind: 'lines', lineIds: [fifth.line.id] }, looping: true, cursorFrame })
    await live.play()
    const loop = { startFrame: fifth.startFrame, endFrame: fifth.endFrame }
    expect(engine.played).toEqual([{ fromFrame, loop, silentBeforeFrame: null, stopAtFrame: null }])
  })

  test('another selection while it loops begins anew, once, however many steps the change had; while recording nothing does', async () => {
    views.useView.setState({ looping: true })
    await live.play()
    const change = () => {
      views.select(song, { kind: 'lines', lineIds: [second.line.id] })
      views.useView.setState({ loopRange: { startFrame: second.startFrame, endFrame: second.startFrame + 48_000 } })
    }
    change()
    await settle()
    expect(engine.played).toHaveLength(2)
    expect(engine.played[1]!.loop).toEqual({ startFrame: second.startFrame, endFrame: second.startFrame + 48_000 })
    live.useLive.setState({ recording: true })
    views.useView.setState({ loopRange: null })
    live.seek(0)
    await settle()
    expect(engine.played).toHaveLength(2)
  })

  test('moving the cursor moves what plays; at rest it only moves', async () => {
    live.seek(48_000)
    await settle()
    expect(engine.played).toHaveLength(0)
    expect(live.playheadFrame()).toBe(48_000)
    live.togglePlaying()
    await settle()
    live.seek(144_000)
    await settle()
    expect(engine.played.map(({ fromFrame }) => fromFrame)).toEqual([48_000, 144_000])
    expect(live.playheadFrame()).toBe(engine.audibleFrame)
    live.togglePlaying()
    expect(live.useLive.getState().playing).toBe(false)
  })

  test.each([
    [1, true],
    [2, false],
    [3, true],
    [4, false],
  ])('%d quick presses, before the engine is even there, end as they should', async (presses, plays) => {
    for (let i = 0; i < presses; i++) live.togglePlaying()
    await settle()
    expect(live.useLive.getState().playing).toBe(plays)
    expect(engine.played.length).toBeLessThanOrEqual(1)
  })

  test('stopped while the browser is still waking, it does not begin afterwards', async () => {
    await live.ensureEngine()
    let wakeUp = (_: boolean) => {}
    engine.wake = () => new Promise(resolve => (wakeUp = resolve))
    live.togglePlaying()
    await settle()
    live.togglePlaying()
    wakeUp(true)
    await settle()
    expect(engine.played).toEqual([])
  })

  test('stopped while it begins, it stops, whatever the transport says in between', async () => {
    await live.ensureEngine()
    engine.startsLate = true
    live.togglePlaying()
    await settle()
    expect(live.useLive.getState().playing).toBe(false)
    live.togglePlaying()
    expect(engine.stops).toBe(1)
    live.togglePlaying()
    await settle()
    expect(engine.played).toHaveLength(2)
  })

  test('every change of the song is heard; leaving it stops the sound', async () => {
    store.openHistory(beginHistory(song), false)
    await live.play()
    const { plans } = engine
    store.edit('turn the beat down', now => setBeatMix(now, { gainDecibels: -9 }))
    expect(engine.plans).toBe(plans + 1)
    store.useSongStore.setState({ history: null })
    expect(engine.stops).toBe(1)
  })
})

import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals'
import { setBeatMix } from '../core/mix/commands'
import { withoutKnown } from '../core/mix/packed-plan'
import { planMix } from '../core/mix/plan'
import { levelsOf } from '../core/mix/levels'
import { FIELDS } from '../core/mix/spans'
import type { AssetStore } from '../core/mix/render-offline'
import type { Song } from '../core/song/schema'
import { smallSong } from '../core/song/song.test-kit'
import { planMessage } from './plan-message'
import { Feed } from './feed'
import type { FromFeeder } from './messages'
import { makeTransportState, TRANSPORT } from './shared-state'

const song: Song = { ...smallSong(), beat: { ...smallSong().beat, frames: 480_000 } }
const plan = planMix(song)
const play = (fromFrame: number) => ({ kind: 'play', fromFrame, loop: null, silentBeforeFrame: null, stopAtFrame: null }) as const

/** A store of one long beat, whose reading can be made to fail or to hang. */
function feedOn(trouble: { read: 'fine' | 'fails' | 'hangs' } = { read: 'fine' }) {
  const sent: FromFeeder[] = []
  const failures: string[] = []
  const transport = makeTransportState()
  const store: AssetStore = {
    framesOf: () => Promise.resolve(480_000),
    readChunks: (_, indices) =>
      trouble.read === 'hangs'
        ? new Promise(() => {})
        : trouble.read === 'fails'
          ? Promise.reject(new Error('the disk is gone'))
          : Promise.resolve(indices.map(index => [new Float32Array(12_000).fill(index)])),
  }
  const feed = new Feed({ store, transport, send: message => void sent.push(message), onFailure: detail => void failures.push(detail) })
  const said = () => sent.map(message => (message.kind === 'chunk' || message.kind === 'drop' ? `${message.kind} ${message.index}` : message.kind))
  return { feed, said, sent, failures, transport, trouble }
}

test('the sound that a command needs goes ahead of it, each chunk once', async () => {
  const { feed, said } = feedOn()
  await feed.receive({ kind: 'plan', plan })
  await feed.receive(play(120_000))
  await feed.tick()
  expect(said()).toEqual(['chunk 0', 'chunk 1', 'chunk 2', 'plan', 'chunk 9', 'chunk 10', 'chunk 11', 'chunk 12', 'play', 'drop 0', 'drop 1', 'drop 2'])
})

test('of a fader that moves, no spans are sent again, and what it plays is read ahead as before; of a layer that changes, its own are', async () => {
  const { feed, said, sent } = feedOn()
  await feed.receive({ kind: 'plan', plan })
  const softer = planMix({ ...setBeatMix(song, { gainDecibels: -12 }), spaces: [] })
  await feed.receive({ kind: 'plan', plan: withoutKnown(softer, plan) })
  await feed.receive(play(240_000))
  const shorter = { ...song, beat: { ...song.beat, pieces: song.beat.pieces.map(piece => ({ ...piece, frames: 96_000 })) } }
  await feed.receive({ kind: 'plan', plan: withoutKnown(planMix(shorter), softer) })
  const plans = sent.flatMap(message => (message.kind === 'plan' ? [message.plan.channels.find(channel => channel.id === 'beat')!] : []))
  expect(plans.map(beat => beat.spans?.numbers.length ?? null)).toEqual([FIELDS, null, FIELDS])
  expect(plans[1]!.gain / plans[0]!.gain).toBeCloseTo(10 ** (-8 / 20), 6)
  expect(said().slice(5, 9)).toEqual(['chunk 19', 'chunk 20', 'chunk 21', 'chunk 22'])
})

test('of levels alone no plan is sent; what is heard again by them is read first', async () => {
  const { feed, said, sent } = feedOn()
  const muted = planMix(setBeatMix(song, { muted: true }))
  await feed.receive({ kind: 'plan', plan: muted })
  expect(said()).toEqual(['plan'])
  const message = planMessage(plan, muted)
  expect(message.kind).toBe('levels')
  await feed.receive(message)
  expect(said()).toEqual(['plan', 'chunk 0', 'chunk 1', 'chunk 2', 'levels'])
  expect(sent.at(-1)).toEqual({ kind: 'levels', levels: levelsOf(plan) })
})

test('while it plays, three seconds are held ahead and what is past goes', async () => {
  const { feed, said, transport } = feedOn()
  await feed.receive({ kind: 'plan', plan })
  transport[TRANSPORT.playing] = 1
  transport[TRANSPORT.songFrame] = 240_000
  await feed.tick()
  expect(said().slice(4)).toEqual([...Array.from({ length: 13 }, (_, i) => `chunk ${19 + i}`), 'drop 0', 'drop 1', 'drop 2'])
})

describe('when reading fails', () => {
  beforeEach(() => void jest.useFakeTimers())
  afterEach(() => void jest.useRealTimers())

  test.each(['fails', 'hangs'] as const)('every command goes through all the same, it is told once, and the next reading works (%s)', async read => {
    const { feed, said, failures, trouble } = feedOn({ read })
    const commands = [feed.receive({ kind: 'plan', plan }), feed.receive(play(0)), feed.tick(), feed.receive({ kind: 'stop' })]
    await jest.advanceTimersByTimeAsync(20_000)
    await Promise.all(commands)
    expect(said()).toEqual(['plan', 'play', 'stop'])
    expect(failures).toHaveLength(1)
    trouble.read = 'fine'
    await feed.receive(play(0))
    expect(said().slice(3)).toEqual(['chunk 0', 'chunk 1', 'chunk 2', 'play'])
    trouble.read = 'fails'
    await feed.receive(play(240_000))
    expect(failures).toHaveLength(2)
  })

  test('a reading that was given up and comes late brings nothing twice', async () => {
    const { feed, sent, said, trouble } = feedOn()
    let release = () => {}
    const held = new Promise<void>(resolve => (release = resolve))
    const { store } = feed['options']
    const quick = store.readChunks.bind(store)
    store.readChunks = async (assetId, indices) => {
      await held
      return quick(assetId, indices)
    }
    const first = feed.receive({ kind: 'plan', plan })
    await jest.advanceTimersByTimeAsync(4_000)
    await first
    store.readChunks = quick
    await feed.receive(play(0))
    release()
    await jest.advanceTimersByTimeAsync(10)
    expect(said()).toEqual(['plan', 'chunk 0', 'chunk 1', 'chunk 2', 'play'])
    expect(sent).toHaveLength(5)
    expect(trouble.read).toBe('fine')
  })
})

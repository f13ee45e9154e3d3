import { afterEach, beforeEach, expect, jest, test } from '@jest/globals'
import type { Planar } from '../core/audio/frames'
import { StuckError } from '../core/files/import-sound'
import type { FromDecoder, ToDecoder } from './decoder'
import { openBeside, readyDecoder } from './open-beside'
import { startDecoderThread } from './threads'

jest.mock('./threads', () => ({ startDecoderThread: jest.fn() }))

/** A decoder at the other end: `answer` says what it makes of each message. */
class StandInDecoder {
  onmessage!: (event: { data: FromDecoder }) => void
  onerror!: (event: { message: string }) => void
  ended = false
  asked = 0
  constructor() {
    decoders.push(this)
  }
  postMessage(message: ToDecoder): void {
    if (message.kind === 'more') this.asked++
    answer(message, this)
  }
  tell(data: FromDecoder): void {
    void Promise.resolve().then(() => this.onmessage({ data }))
  }
  terminate(): void {
    this.ended = true
  }
}

let decoders: StandInDecoder[] = []
let answer: (message: ToDecoder, decoder: StandInDecoder) => void
const FILE = new Blob([])
const OPENED: FromDecoder = { kind: 'opened', result: { ok: true, sound: { format: 'flac', sampleRateHz: 48_000, channels: 1, promisedFrames: null } } }
const piece = (value: number): FromDecoder => ({ kind: 'piece', planes: [Float32Array.of(value)] as Planar, fraction: 0 })

/** Opens, gives so many pieces as they are asked for, and then says or does what comes last. */
function gives(pieces: number, last: FromDecoder | null): void {
  answer = (message, decoder) => {
    if (message.kind === 'open') decoder.tell(OPENED)
    else if (decoder.asked <= pieces) decoder.tell(piece(decoder.asked))
    else if (last && decoder.asked === pieces + 1) decoder.tell(last)
  }
}

async function readAll(): Promise<number[]> {
  const opened = await openBeside(FILE)
  if (!opened.ok) throw new Error(opened.reason)
  const read: number[] = []
  for await (const { planes } of opened.sound.chunks()) read.push(planes[0]![0]!)
  return read
}

beforeEach(() => {
  decoders = []
  jest.mocked(startDecoderThread).mockImplementation(() => new StandInDecoder() as unknown as Worker)
})
afterEach(() => void jest.useRealTimers())

test('every piece comes, in order, and the decoder is let go of', async () => {
  gives(20, { kind: 'end' })
  expect(await readAll()).toEqual(Array.from({ length: 20 }, (_, i) => i + 1))
  expect(decoders[0]!.ended).toBe(true)
})

test('no more lies decoded than a few pieces ahead of what is used', async () => {
  gives(100, { kind: 'end' })
  const opened = await openBeside(FILE)
  if (!opened.ok) throw new Error(opened.reason)
  let used = 0
  for await (const { planes } of opened.sound.chunks()) {
    used++
    expect(planes).toHaveLength(1)
    expect(decoders[0]!.asked).toBeLessThanOrEqual(used + 6)
    if (used === 10) break
  }
  // Left in the middle, it is ended too.
  expect(decoders[0]!.ended).toBe(true)
})

test('one that was made ready beforehand is used, once', async () => {
  gives(1, { kind: 'end' })
  readyDecoder()
  readyDecoder()
  expect(decoders).toHaveLength(1)
  await readAll()
  expect(decoders).toHaveLength(1)
  await readAll()
  expect(decoders).toHaveLength(2)
})

test('a file it refuses is refused with its reason; one it breaks on while opening is no sound', async () => {
  answer = (_, decoder) => decoder.tell({ kind: 'opened', result: { ok: false, reason: 'not-sound', format: 'text' } as never })
  expect(await openBeside(FILE)).toEqual({ ok: false, reason: 'not-sound', format: 'text' })
  answer = (_, decoder) => decoder.onerror({ message: 'unreachable executed' })
  expect(await openBeside(FILE)).toEqual({ ok: false, reason: 'not-sound', format: 'unknown' })
  expect(decoders.every(decoder => decoder.ended)).toBe(true)
})

test('an error in the middle comes out as it was; what came before it was given', async () => {
  gives(3, { kind: 'failed', error: new RangeError('block 4') })
  await expect(readAll()).rejects.toThrow(RangeError)
  expect(decoders[0]!.ended).toBe(true)
})

test.each([
  ['before anything', () => (answer = () => {})],
  ['in the middle', () => gives(3, null)],
])('one that gives nothing %s for five seconds is ended', async (_, silence) => {
  jest.useFakeTimers()
  silence()
  const stuck = expect(readAll()).rejects.toThrow(StuckError)
  await jest.advanceTimersByTimeAsync(5_000)
  await stuck
  expect(decoders[0]!.ended).toBe(true)
})

import { beforeEach, describe, expect, test } from '@jest/globals'
import type { Grid } from '../core/beat/grid'
import { planMix } from '../core/mix/plan'
import { MONITOR_OFF } from '../core/monitor/monitor-chain'
import { USUAL_INTERFACE } from '../core/rehearsal/simulated-interface'
import type { Song } from '../core/song/schema'
import { smallSong } from '../core/song/song.test-kit'
import type { PlayCommand, ToInterface, ToOutput } from './messages'
import { clock, make, rollingMix as rollWith, scope } from './worklets.test-kit'
import {
  ARMED,
  BEFORE_SOUND_FRAMES,
  CAPTURE,
  LEVEL,
  makeCaptureState,
  makeTransportState,
  RING_FRAMES,
  songFrameAt,
  TRANSPORT,
  wrapIntoLoop,
} from './shared-state'

beforeEach(async () => {
  clock.set(9_600)
  await import('./worklet')
})

/** A beat whose every sample tells its frame, so that any shift shows. */
const FRAMES = 240_000
const ramp = Float32Array.from({ length: FRAMES }, (_, i) => (i % 9_973) / 20_000)

const rampSong: Song = { ...smallSong(), beat: { ...smallSong().beat, frames: FRAMES, gainDecibels: 0 } }
const rollingMix = (command: Partial<PlayCommand>, grid?: Grid) => rollWith(command, planMix(rampSong), { beat: [ramp, ramp] }, grid)

describe('the transport', () => {
  test('begins at the frame asked for, with the clock’s frame of the block that first sounds', () => {
    const mix = rollingMix({ fromFrame: 48_000 })
    clock.next()
    const left = mix.run(6_400)
    expect(mix.told).toEqual([{ kind: 'started', contextFrame: 9_728, songFrame: 48_000 }])
    // After the fade in every sample is the beat's own at its frame.
    for (const i of [512, 1_000, 6_000]) expect(left[i]).toBeCloseTo(ramp[48_000 + i]!, 6)
    expect(Math.abs(left[1]!)).toBeLessThan(0.01)
    expect(mix.transport[TRANSPORT.songFrame]).toBe(48_000 + 6_400)
    expect(songFrameAt(mix.transport, 9_728 + 1_000)).toBe(49_000)
  })

  test('in the count-in only the click sounds, before the song begins too; then the beat, to the frame', () => {
    const mix = rollingMix({ fromFrame: -48_000, silentBeforeFrame: 24_000 })
    const left = mix.run(48_000 + 24_000 + 6_400)
    const peak = (from: number, to: number) => Math.max(...left.subarray(from, to).map(Math.abs))
    // Beats fall every half second: at -48 000, -24 000, 0.
    for (const beat of [24_000, 48_000]) expect(peak(beat, beat + 1_000)).toBeGreaterThan(0.2)
    expect(peak(2_000, 23_900)).toBe(0)
    for (const i of [24_000 + 2_000, 24_000 + 6_000]) expect(left[48_000 + i]).toBeCloseTo(ramp[i]!, 6)
  })

  test('a loop turns at its exact frame, again and again, with a dip of a few milliseconds and no jump', () => {
    const loop = { startFrame: 20_000, endFrame: 29_037 }
    const mix = rollingMix({ fromFrame: 20_000, loop })
    const left = mix.run(40_064)
    const length = loop.endFrame - loop.startFrame
    for (const pass of [1, 2, 3]) for (const into of [200, 3_000, 8_800]) expect(left[pass * length + into]).toBeCloseTo(ramp[20_000 + into]!, 6)
    expect(Math.abs(left[length]!)).toBeLessThan(0.02)
    expect(mix.transport[TRANSPORT.songFrame]).toBe(wrapIntoLoop(20_000 + 40_064, loop.startFrame, loop.endFrame))
  })

  test('blocks that the browser passes over are passed over in the song: clock and song stay together', () => {
    const mix = rollingMix({ fromFrame: 0 })
    mix.run(6_400)
    clock.set((scope.currentFrame as number) + 5 * 128)
    const after = mix.run(6_400)
    for (const i of [256, 5_000]) expect(after[i]).toBeCloseTo(ramp[6_400 + 640 + i]!, 6)
    expect(mix.transport[TRANSPORT.songFrame]).toBe(songFrameAt(mix.transport, scope.currentFrame as number))
  })

  test('a block at whose edge the browser leaves its clock standing counts all the same: the song neither leaps nor clicks', () => {
    const mix = rollingMix({ fromFrame: 0 })
    const frames = mix.run(6_400)
    clock.set((scope.currentFrame as number) - 128)
    const standing = mix.run(128)
    clock.set((scope.currentFrame as number) + 128)
    const after = mix.run(6_400)
    expect(standing[64]).toBeCloseTo(ramp[frames.length + 64]!, 6)
    for (const i of [0, 256, 5_000]) expect(after[i]).toBeCloseTo(ramp[6_528 + i]!, 6)
    expect(mix.transport[TRANSPORT.songFrame]).toBe(songFrameAt(mix.transport, scope.currentFrame as number))
  })

  test('a stop is faded, told once, and leaves silence; the end of a range stops by itself', () => {
    const mix = rollingMix({ fromFrame: 0 })
    mix.run(12_800)
    mix.send({ kind: 'stop' })
    const tail = mix.run(1_280)
    let jump = 0
    for (let i = 1; i < tail.length; i++) jump = Math.max(jump, Math.abs(tail[i]! - tail[i - 1]!))
    expect(jump).toBeLessThan(0.01)
    expect(tail.subarray(512).every(sample => sample === 0)).toBe(true)
    expect(mix.told.filter(message => message.kind === 'stopped')).toHaveLength(1)
    const ranged = rollingMix({ fromFrame: 0, stopAtFrame: 9_600 })
    ranged.run(12_800)
    expect(ranged.told.at(-1)).toMatchObject({ kind: 'stopped' })
    expect(ranged.transport[TRANSPORT.playing]).toBe(0)
  })
})

describe('capture', () => {
  const input = (from: number) => [[Float32Array.from({ length: 128 }, (_, i) => (from + i) / 100_000), new Float32Array(128).fill(0.25)]]

  test('nothing is written until it is armed; then every block, stamped with the clock', () => {
    const state = makeCaptureState()
    const processor = make('plush-capture', state)
    processor.process(input(0), [])
    expect(state.control[CAPTURE.writtenFrames]).toBe(0)
    expect(state.levels[LEVEL.peak]).toBeGreaterThan(0)
    Atomics.store(state.control, CAPTURE.armed, 1)
    clock.set(50_048)
    for (let block = 0; block < 3; block++) {
      processor.process(input(block * 128), [])
      clock.next()
    }
    expect([state.control[CAPTURE.firstContextFrame], state.control[CAPTURE.writtenFrames]]).toEqual([50_048, 384])
    expect([...state.ring.subarray(0, 384)].every((sample, i) => Math.abs(sample - i / 100_000) < 1e-7)).toBe(true)
  })

  test('the chosen channel is taken; a block that never came is silence of the same length, and counted', () => {
    const state = makeCaptureState()
    Atomics.store(state.control, CAPTURE.channel, 1)
    Atomics.store(state.control, CAPTURE.armed, 1)
    const processor = make('plush-capture', state)
    for (const block of [input(0), [[]], input(0)]) {
      processor.process(block, [])
      clock.next()
    }
    expect([state.ring[0], state.ring[128], state.ring[256]]).toEqual([0.25, 0, 0.25])
    expect([state.control[CAPTURE.gapBlocks], state.control[CAPTURE.writtenFrames]]).toEqual([1, 384])
    // Two blocks for which the processor was never called.
    clock.set((scope.currentFrame as number) + 256)
    processor.process(input(0), [])
    expect([state.control[CAPTURE.gapBlocks], state.control[CAPTURE.writtenFrames]]).toEqual([3, 768])
    expect([state.ring[384], state.ring[512], state.ring[640]]).toEqual([0, 0, 0.25])
  })

  test('a block at whose edge the browser leaves its clock standing is written once; nothing is missing, nothing after it is late', () => {
    const state = makeCaptureState()
    Atomics.store(state.control, CAPTURE.armed, 1)
    const processor = make('plush-capture', state)
    const run = (from: number) => {
      processor.process(input(from), [])
      clock.next()
    }
    run(0)
    clock.set((scope.currentFrame as number) - 128)
    run(128)
    clock.set((scope.currentFrame as number) + 128)
    run(256)
    expect([state.control[CAPTURE.gapBlocks], state.control[CAPTURE.writtenFrames]]).toEqual([0, 384])
    expect([...state.ring.subarray(0, 384)].every((sample, i) => Math.abs(sample - i / 100_000) < 1e-7)).toBe(true)
    expect(processor.port.told).toEqual([])
  })

  test('while it waits for sound it keeps the last second, and begins with the block that passes the threshold', () => {
    const state = makeCaptureState()
    state.levels[LEVEL.threshold] = 0.1
    Atomics.store(state.control, CAPTURE.armed, ARMED.waiting)
    const processor = make('plush-capture', state)
    clock.set(0)
    const run = (blocks: number, level: number) => {
      for (let block = 0; block < blocks; block++) {
        processor.process([[new Float32Array(128).fill(level)]], [])
        clock.next()
      }
    }
    run(1_000, 0.01)
    expect(state.control[CAPTURE.armed]).toBe(ARMED.waiting)
    run(1, 0.2)
    run(10, 0.02)
    expect(state.control[CAPTURE.armed]).toBe(ARMED.yes)
    const first = state.control[CAPTURE.readFrames]!
    // The second that ends with the loud block, stamped with its own time.
    expect(1_001 * 128 - first).toBe(BEFORE_SOUND_FRAMES)
    expect(state.control[CAPTURE.firstContextFrame]).toBe(1_001 * 128 - BEFORE_SOUND_FRAMES)
    expect(state.control[CAPTURE.writtenFrames]).toBe(1_011 * 128)
    expect([state.ring[(1_000 * 128 - 1) % RING_FRAMES], state.ring[(1_000 * 128) % RING_FRAMES]].map(sample => sample!.toFixed(2))).toEqual(['0.01', '0.20'])
  })

  test('a sound that breaks off to nothing and comes back is a hole, told with its place; a pause between words is none', () => {
    const state = makeCaptureState()
    Atomics.store(state.control, CAPTURE.armed, ARMED.yes)
    const processor = make('plush-capture', state)
    const run = (block: Float32Array) => {
      processor.process([[block]], [])
      clock.next()
    }
    const loud = new Float32Array(128).fill(0.2)
    const fading = Float32Array.from({ length: 128 }, (_, i) => 0.2 * (1 - i / 127))
    for (const block of [
      loud,
      fading,
      new Float32Array(128),
      new Float32Array(128),
      fading.slice().reverse(),
      loud,
      new Float32Array(128),
      new Float32Array(128),
      loud,
    ])
      run(block)
    expect(processor.port.told).toEqual([{ atFrame: 6 * 128, frames: 256, kind: 'missing' }])
  })

  test('where the ring was full silence of the same length stands, and is told', () => {
    const state = makeCaptureState()
    Atomics.store(state.control, CAPTURE.armed, ARMED.yes)
    const processor = make('plush-capture', state)
    const run = (blocks: number) => {
      for (let block = 0; block < blocks; block++) {
        processor.process([[new Float32Array(128).fill(0.5)]], [])
        clock.next()
      }
    }
    run(RING_FRAMES / 128 + 3)
    expect(state.control[CAPTURE.lostFrames]).toBe(3 * 128)
    // The reader catches up.
    Atomics.store(state.control, CAPTURE.readFrames, RING_FRAMES)
    run(2)
    expect(state.control[CAPTURE.writtenFrames]).toBe(RING_FRAMES + 5 * 128)
    expect([0, 128, 256, 384, 512].map(at => state.ring[at])).toEqual([0, 0, 0, 0.5, 0.5])
    expect(processor.port.told).toEqual([{ atFrame: RING_FRAMES, frames: 384, kind: 'missing' }])
  })

  test('a reader that falls behind costs frames that are counted, never frames overwritten', () => {
    const state = makeCaptureState()
    Atomics.store(state.control, CAPTURE.armed, 1)
    const processor = make('plush-capture', state)
    for (let block = 0; block < RING_FRAMES / 128 + 5; block++) {
      processor.process(input(block * 128), [])
      clock.next()
    }
    expect(state.control[CAPTURE.writtenFrames]! + state.control[CAPTURE.lostFrames]!).toBe(RING_FRAMES + 5 * 128)
    expect(state.control[CAPTURE.lostFrames]).toBeGreaterThan(0)
    expect(state.ring[0]).toBe(0)
  })
})

test('the practice singer answers what it hears one round trip later, and sings the next pass after the loop has turned', () => {
  const transport = makeTransportState()
  const processor = make('plush-interface', { transport })
  const voice = Float32Array.from({ length: 2 * 4_000 }, (_, i) => i + 1)
  processor.port.onmessage!({ data: { kind: 'voice', voice, originFrame: 10_000, passFrames: 4_000 } satisfies ToInterface })
  processor.port.onmessage!({ data: { kind: 'settings', settings: { ...USUAL_INTERFACE, noiseDbfs: -120 } } satisfies ToInterface })
  transport.set([1, 0, 20_000, 10_000, 10_000, 14_000])
  clock.set(20_000)
  const heard = new Float32Array(128 * 60)
  for (let block = 0; block < 60; block++) {
    const output = [new Float32Array(128)]
    processor.process([], [output])
    heard.set(output[0]!, block * 128)
    clock.next()
  }
  expect(heard[1_104]).toBe(0)
  expect([heard[1_105], heard[1_105 + 3_999], heard[1_105 + 4_000]]).toEqual([1, 4_000, 4_001])
})

describe('to the ears', () => {
  const stereo = () => [new Float32Array(128), new Float32Array(128)]
  test('nothing leaves above full scale, and a probe goes out at its exact frame', () => {
    const output = make('plush-output', {})
    clock.set(96_000)
    output.port.onmessage!({ data: { samples: Float32Array.of(0.5, -0.25), atFrame: 96_000 + 127 } satisfies ToOutput })
    const first = stereo()
    output.process([[new Float32Array(128).fill(0.9), new Float32Array(128).fill(-3)]], [first])
    clock.next()
    const second = stereo()
    output.process([[new Float32Array(128), new Float32Array(128)]], [second])
    expect([first[0]![0], first[1]![0], first[0]![126]].map(sample => sample!.toFixed(2))).toEqual(['0.90', '-1.00', '0.90'])
    expect(first[0]![127]).toBe(1)
    expect([second[0]![0], second[0]![1]]).toEqual([-0.25, 0])
  })
  test('what goes out comes back through the simulated interface one round trip later, as loud as it leaks', () => {
    const output = make('plush-output', {})
    const input = make('plush-interface', { transport: makeTransportState() })
    input.port.onmessage!({
      data: { kind: 'settings', settings: { roundTripFrames: 640, leakDecibels: -20, noiseDbfs: -120, humDbfs: -120 } } satisfies ToInterface,
    })
    clock.set(192_000)
    const heard: number[] = []
    for (let block = 0; block < 8; block++) {
      const sound = new Float32Array(128)
      if (block === 0) sound[5] = 1
      output.process([[sound, sound]], [stereo()])
      const back = [new Float32Array(128)]
      input.process([], [back])
      heard.push(...back[0]!)
      clock.next()
    }
    const loudest = heard.indexOf(Math.max(...heard))
    expect(loudest).toBe(640 + 5)
    expect(heard[loudest]).toBeCloseTo(0.1, 2)
    expect(heard.slice(0, 640 + 5).every(sample => sample === 0)).toBe(true)
  })
  test('the singer is sent back only while hearing through the app is on, from the channel that is taken', () => {
    const state = makeCaptureState()
    Atomics.store(state.control, CAPTURE.channel, 1)
    const monitor = make('plush-monitor', { control: state.control })
    const microphone = [new Float32Array(128).fill(0.9), new Float32Array(128).fill(0.1)]
    const run = () => {
      const out = stereo()
      for (let block = 0; block < 60; block++) monitor.process([microphone], [out])
      return out[0]![127]!
    }
    expect(run()).toBe(0)
    monitor.port.onmessage!({ data: { ...MONITOR_OFF, on: true, gainDecibels: 0, roomDecibels: -60, compress: false } })
    expect(run()).toBeCloseTo(0.1, 5)
    monitor.port.onmessage!({ data: MONITOR_OFF })
    expect(run()).toBe(0)
  })
})

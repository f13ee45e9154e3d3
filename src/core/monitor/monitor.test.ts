import { describe, expect, test } from '@jest/globals'
import { peakOf } from '../audio/decibels'
import { makeRandom } from '../audio/random'
import { SimulatedInterface, USUAL_INTERFACE } from '../rehearsal/simulated-interface'
import { makeDemoSheet } from '../rehearsal/demo-song'
import { scoreOfSheet } from '../rehearsal/score'
import { NO_FAULTS, sing } from '../rehearsal/sing'
import { FeedbackGuard } from './feedback-guard'
import { MONITOR_OFF, MonitorChain } from './monitor-chain'

const ON = { ...MONITOR_OFF, on: true, gainDecibels: 0, roomDecibels: -60, compress: false }

/** Loudspeakers instead of headphones: what is sent comes back louder than it left. @returns when it was muted, and the loudest since it was first heard. */
function loop(leakDecibels: number, seconds: number): { mutedAt: number | null; firstHeardAt: number; loudest: number } {
  const simulated = new SimulatedInterface()
  simulated.set({ ...USUAL_INTERFACE, leakDecibels, noiseDbfs: -70 })
  const chain = new MonitorChain()
  chain.set(ON)
  let mutedAt: number | null = null
  let firstHeardAt = Infinity
  let loudest = 0
  for (let frame = 0; frame < seconds * 48_000; frame += 128) {
    const input = new Float32Array(128)
    simulated.addInto(input, frame)
    const left = new Float32Array(128)
    const right = new Float32Array(128)
    if (chain.process(input, left, right) && mutedAt === null) mutedAt = frame / 48_000
    const level = peakOf(left)
    // Heard as a howl: -30 dBFS, well above the room's noise.
    if (level > 0.03) firstHeardAt = Math.min(firstHeardAt, frame / 48_000)
    loudest = Math.max(loudest, level)
    simulated.send(frame, left, right)
  }
  return { mutedAt, firstHeardAt, loudest }
}

describe('hearing oneself', () => {
  test('a loop that grows is muted within 300 ms of being heard, and never passes the ceiling', () => {
    for (const leakDecibels of [-5, -3, 3]) {
      const { mutedAt, firstHeardAt, loudest } = loop(leakDecibels, 12)
      expect(mutedAt).not.toBeNull()
      expect(mutedAt! - firstHeardAt).toBeLessThan(0.3)
      expect(loudest).toBeLessThanOrEqual(0.71)
    }
  })
  test('a loop that dies away is left alone', () => {
    expect(loop(-12, 6).mutedAt).toBeNull()
  })
  test('singing is never taken for a howl', () => {
    const score = scoreOfSheet(makeDemoSheet(5_000_000)).slice(0, 4)
    const voice = sing({
      score,
      frames: Math.ceil((score[3].notes.at(-1)!.endSeconds + 1) * 48_000),
      seed: 7,
      take: 1,
      faults: { ...NO_FAULTS, vibratoCents: 30 },
    })
    const guard = new FeedbackGuard()
    let howls = 0
    for (let at = 0; at + 128 <= voice.length; at += 128) if (guard.process(voice.subarray(at, at + 128))) howls++
    expect(howls).toBe(0)
  })
  test('adds no delay of its own, opens without a jump, and once muted stays so until it is switched on anew', () => {
    const chain = new MonitorChain()
    chain.set(ON)
    const random = makeRandom(1)
    const outputs: number[] = []
    const inputs: number[] = []
    for (let block = 0; block < 60; block++) {
      const input = Float32Array.from({ length: 128 }, () => 0.2 * (2 * random() - 1))
      const left = new Float32Array(128)
      chain.process(input, left, new Float32Array(128))
      inputs.push(...input)
      outputs.push(...left)
    }
    expect(Math.abs(outputs[40])).toBeLessThan(0.01)
    expect(outputs.slice(6_000)).toEqual(inputs.slice(6_000))
    chain.set({ ...ON, on: false })
    const left = new Float32Array(128).fill(1)
    chain.process(new Float32Array(128).fill(0.5), left, new Float32Array(128))
    expect(peakOf(left)).toBe(0)
  })
  test('room and echo ring on after the voice', () => {
    const ring = (change: object) => {
      const chain = new MonitorChain()
      chain.set({ ...ON, ...change })
      let tail = 0
      for (let block = 0; block < 400; block++) {
        const left = new Float32Array(128)
        chain.process(new Float32Array(128).fill(block > 40 && block < 80 ? 0.3 : 0), left, new Float32Array(128))
        if (block > 150) tail = Math.max(tail, peakOf(left))
      }
      return tail
    }
    expect(ring({})).toBe(0)
    expect(ring({ roomDecibels: -6 })).toBeGreaterThan(0.001)
    expect(ring({ echoDecibels: -6, echoSeconds: 0.4 })).toBeGreaterThan(0.05)
  })
})

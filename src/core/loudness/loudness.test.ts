import { expect, test } from '@jest/globals'
import { decibelsToGain } from '../audio/decibels'
import { sine } from '../audio/signals.test-kit'
import { measureLoudness } from './loudness'

const tone = (dbfs: number, seconds: number) => sine({ hz: 1_000, frames: seconds * 48_000, amplitude: decibelsToGain(dbfs) })
const join = (...parts: Float32Array[]) => Float32Array.from(parts.flatMap(part => [...part]))

test.each([-23, -33])('a stereo 1 kHz tone at %i dBFS reads its level in LUFS (EBU Tech 3341, cases 1 and 2)', dbfs => {
  const plane = tone(dbfs, 20)
  expect(Math.abs(measureLoudness([plane, plane]).integratedLufs - dbfs)).toBeLessThan(0.1)
})

test('quiet stretches are gated out (EBU Tech 3341, case 3)', () => {
  const plane = join(tone(-36, 10), tone(-23, 60), tone(-36, 10))
  expect(Math.abs(measureLoudness([plane, plane]).integratedLufs - -23)).toBeLessThan(0.1)
})

test('loud and soft halves join by power (EBU Tech 3341, case 5)', () => {
  const plane = join(tone(-26, 20), tone(-20, 20.1), tone(-26, 20))
  expect(Math.abs(measureLoudness([plane, plane]).integratedLufs - -23)).toBeLessThan(0.1)
})

test('a peak between the samples is found (EBU Tech 3341, case 16: a quarter of the rate, 45 degrees off)', () => {
  const plane = sine({ hz: 12_000, frames: 48_000, amplitude: 0.5, phase: Math.PI / 4 })
  const { samplePeakDbfs, truePeakDbtp } = measureLoudness([plane, plane])
  expect(samplePeakDbfs).toBeCloseTo(-9.03, 1)
  expect(truePeakDbtp).toBeGreaterThan(-6.4)
  expect(truePeakDbtp).toBeLessThan(-5.8)
})

test('silence has no loudness and no peak, and no NaN', () => {
  const silence = new Float32Array(48_000)
  expect(measureLoudness([silence])).toEqual({ integratedLufs: -Infinity, samplePeakDbfs: -Infinity, truePeakDbtp: -Infinity })
})

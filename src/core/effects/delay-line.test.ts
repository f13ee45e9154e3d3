import { expect, test } from '@jest/globals'
import { DelayLine } from './delay-line'

test('what was written comes back after exactly the delay that is asked for, round the ring and at any time', () => {
  const line = new DelayLine(1_000)
  const written: number[] = []
  const block = new Float32Array(128)
  for (let turn = 0; turn < 40; turn++) {
    for (const delay of [128, 129, 500, 1_000]) {
      line.read(block, delay)
      expect(Array.from(block)).toEqual(Array.from({ length: 128 }, (_, i) => written[written.length - delay + i] ?? 0))
    }
    for (let i = 0; i < 128; i++) block[i] = turn * 128 + i + 1
    line.write(block)
    written.push(...block)
  }
  line.reset()
  line.read(block, 700)
  expect(block.every(sample => sample === 0)).toBe(true)
})

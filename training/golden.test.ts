import { beforeAll, describe, expect, test } from '@jest/globals'
import { analyseBeat, type BeatAnalysis } from '../src/core/beat/analyse'
import { TONICS } from '../src/core/beat/key-names'
import { compose, type Composition } from './compose'
import { playPlainly } from './synth'

/** Beats that no fit has seen, of every kind, played by plain synthesis; the score is printed so that a change that makes it worse is seen. */
describe('beats of many kinds', () => {
  const scores = { tempo: 0, octave: 0, meter: 0, barOne: 0, key: 0 }
  const SEEDS = Array.from({ length: 14 }, (_, i) => 90_000 + i)
  beforeAll(() => {
    for (const seed of SEEDS) {
      const composition = compose(seed)
      judge(analyseBeat([playPlainly(composition, seed)]), composition)
    }
    process.stdout.write(`beats of many kinds, right of ${SEEDS.length}: ${JSON.stringify(scores)}\n`)
  }, 300_000)

  function judge({ tempo, key }: BeatAnalysis, { truth }: Composition): void {
    const best = tempo.readings[0]
    if (best) {
      const near = (factor: number) => Math.abs(best.tempoBpm / (truth.tempoBpm * factor) - 1) < 0.01
      scores.tempo += Number(near(1))
      scores.octave += Number([1, 2, 0.5, 3, 1 / 3].some(near))
      scores.meter += Number(best.meter.join() === truth.meter.join())
      const bar = (60 / truth.tempoBpm) * truth.beatsPerBar
      const distance = best.barOnes[0].seconds - truth.beats[truth.firstDownbeatIndex]
      scores.barOne += Number(near(1) && Math.abs(distance - Math.round(distance / bar) * bar) < 0.05)
    }
    const heardKey = key.readings[0]?.key
    scores.key += Number(heardKey !== undefined && TONICS.indexOf(heardKey.tonic) === truth.tonic && heardKey.mode === truth.mode)
  }

  test('are heard as they were composed, most of them in every respect', () => {
    expect(scores.octave).toBeGreaterThanOrEqual(13)
    expect(scores.tempo).toBeGreaterThanOrEqual(11)
    expect(scores.meter).toBeGreaterThanOrEqual(11)
    expect(scores.barOne).toBeGreaterThanOrEqual(9)
    expect(scores.key).toBeGreaterThanOrEqual(10)
  })
})

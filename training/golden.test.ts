import { afterAll, expect, test } from '@jest/globals'
import { analyseBeat } from '../src/core/beat/analyse'
import { INTERVALS } from '../src/core/beat/chord-names'
import { TONICS } from '../src/core/beat/key-names'
import { compose } from './compose'
import { KITS } from './kits'
import { playPlainly } from './synth'

/** Beats that no fit has seen, played by plain synthesis; the scores are printed so that a change that makes them worse is seen. */
const COUNT = 14
const scores: Record<string, ReturnType<typeof scoreOf>> = {}

afterAll(() => {
  for (const [what, score] of Object.entries(scores)) process.stdout.write(`${what}: ${JSON.stringify(score)}\n`)
})

function scoreOf(what: string, firstSeed: number, kits = KITS) {
  const score = { of: COUNT, tempo: 0, octave: 0, meter: 0, barOne: 0, key: 0, starts: 0, ofStarts: 0, proposed: 0, rightlyProposed: 0, chords: 0, ofChords: 0 }
  for (let seed = firstSeed; seed < firstSeed + COUNT; seed++) {
    const composition = compose(seed, kits)
    const { truth } = composition
    const { tempo, key, chords, sections } = analyseBeat([playPlainly(composition, seed)])
    const best = tempo.readings[0]
    if (best) {
      const near = (factor: number) => Math.abs(best.tempoBpm / (truth.tempoBpm * factor) - 1) < 0.01
      score.tempo += Number(near(1))
      score.octave += Number([1, 2, 0.5, 3, 1 / 3, 1.5, 2 / 3].some(near))
      score.meter += Number(best.meter.join() === truth.meter.join())
      const bar = (60 / truth.tempoBpm) * truth.beatsPerBar
      const distance = best.barOnes[0].seconds - truth.beats[truth.firstDownbeatIndex]
      score.barOne += Number(near(1) && Math.abs(distance - Math.round(distance / bar) * bar) < 0.05)
      // Root and third of what sounds in the middle of each chord.
      truth.chords.forEach(({ seconds, root, quality }, i) => {
        const middle = (seconds + (truth.chords[i + 1]?.seconds ?? seconds)) / 2
        const beat = ((middle - best.barOnes[0].seconds) * best.tempoBpm) / 60
        const heard = chords.find(({ startBeat, beatCount }) => beat >= startBeat && beat < startBeat + beatCount)?.chord
        score.ofChords++
        score.chords += Number(heard?.root === root % 12 && INTERVALS[heard.quality].includes(3) === /min|dim/.test(quality))
      })
      // Starts of sections; those that play on as before cannot be heard.
      const heardBar = (60 / best.tempoBpm) * best.beatsPerBar
      const proposed = sections.slice(1).map(({ startBar }) => best.barOnes[0].seconds + (startBar - 1) * heardBar)
      const starts = truth.sections
        .slice(1)
        .filter(({ plays }, i) => plays !== truth.sections[i].plays)
        .map(({ seconds }) => seconds)
      const isAmong = (second: number, others: number[]) => others.some(other => Math.abs(other - second) < bar / 2)
      score.ofStarts += starts.length
      score.starts += starts.filter(second => isAmong(second, proposed)).length
      score.proposed += proposed.length
      score.rightlyProposed += proposed.filter(second =>
        isAmong(
          second,
          truth.sections.map(({ seconds }) => seconds),
        ),
      ).length
    }
    const heardKey = key.readings[0]?.key
    score.key += Number(heardKey !== undefined && TONICS.indexOf(heardKey.tonic) === truth.tonic && heardKey.mode === truth.mode)
  }
  scores[what] = score
  return score
}

test('beats of every kind are heard as they were composed, most of them in every respect', () => {
  const score = scoreOf('beats of every kind', 90_000)
  expect(score.octave).toBeGreaterThanOrEqual(13)
  expect(score.tempo).toBeGreaterThanOrEqual(12)
  expect(score.meter).toBeGreaterThanOrEqual(11)
  expect(score.barOne).toBeGreaterThanOrEqual(9)
  expect(score.key).toBeGreaterThanOrEqual(10)
  expect(score.starts / score.ofStarts).toBeGreaterThan(0.5)
  expect(score.chords / score.ofChords).toBeGreaterThan(0.8)
  expect(score.rightlyProposed / score.proposed).toBeGreaterThan(0.8)
}, 300_000)

test('beats in threes with drums are heard in theirs', () => {
  const score = scoreOf(
    '3/4, 6/8 and 12/8',
    91_000,
    KITS.filter(({ meter, drumless }) => meter[0] !== 4 && !drumless),
  )
  expect(score.tempo).toBeGreaterThanOrEqual(13)
  expect(score.meter).toBeGreaterThanOrEqual(11)
  expect(score.barOne).toBeGreaterThanOrEqual(11)
}, 300_000)

test('beats without drums are heard at some octave of their tempo at least', () => {
  const score = scoreOf(
    'beats without drums',
    92_000,
    KITS.filter(({ drumless }) => drumless),
  )
  expect(score.octave).toBeGreaterThanOrEqual(12)
  expect(score.tempo).toBeGreaterThanOrEqual(11)
  expect(score.key).toBeGreaterThanOrEqual(11)
  expect(score.starts / score.ofStarts).toBeGreaterThan(0.7)
}, 300_000)

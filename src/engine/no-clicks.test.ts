import { beforeEach, expect, test } from '@jest/globals'
import { sine } from '../core/audio/signals.test-kit'
import type { Planar } from '../core/audio/frames'
import { pickTake } from '../core/comp/picks'
import { removeLayer } from '../core/layers/template'
import { setBeatMix, setLayerMix, setSpace, setVocalBus } from '../core/mix/commands'
import { planMix, type MixPlan } from '../core/mix/plan'
import type { Song } from '../core/song/schema'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../core/song/song.test-kit'
import { clock, rollingMix } from './worklets.test-kit'

beforeEach(async () => {
  clock.set(9_600)
  await import('./worklet')
})

/** Low tones: the lower a tone, the less it moves from sample to sample, and the more a jump stands out. */
const tone = (hz: number, amplitude: number): Planar => [sine({ hz, frames: 24 * 48_000, amplitude })]
const sounds: Record<string, Planar> = { beat: [tone(110, 0.2)[0]!, tone(110, 0.2)[0]!], 'asset-1': tone(220, 0.5), 'asset-2': tone(221, 0.5) }

const bare = withTakes(smallSong(), 'Lead', 2)
const lead = layerOf(bare, 'Lead')
const double = layerOf(bare, 'Double left')
const range = { startFrame: lineRange(0).startFrame, endFrame: lineRange(1).endFrame }
const song: Song = [
  (s: Song) => pickTake(s, { layerId: lead, takeId: s.takes[0]!.id, ...range, makeId }),
  (s: Song) => pickTake(s, { layerId: double, takeId: s.takes[1]!.id, ...range, makeId }),
  (s: Song) =>
    setVocalBus(s, {
      recipe: { ...s.vocalBus.recipe, enabled: true, compressor: { ...s.vocalBus.recipe.compressor, attackSeconds: 0.001, releaseSeconds: 0.2 } },
    }),
].reduce((s, change) => change(s), bare)

const FROM = lineRange(0).startFrame + 24_000
const withRecipe = (change: (recipe: Song['vocalBus']['recipe']) => Partial<Song['vocalBus']['recipe']>) => (s: Song) =>
  setVocalBus(s, { recipe: { ...s.vocalBus.recipe, ...change(s.vocalBus.recipe) } })
const withCompressor = (settings: Partial<Song['vocalBus']['recipe']['compressor']>) =>
  withRecipe(recipe => ({ compressor: { ...recipe.compressor, ...settings } }))
const withCeiling =
  (ceilingDbfs: number) =>
  (s: Song): Song => ({ ...s, output: { ceilingDbfs } })

const CHANGES: [string, ((s: Song) => Song)[]][] = [
  ['make-up gain up and down by 12 dB', [withCompressor({ makeupDecibels: 12 }), withCompressor({ makeupDecibels: 0 })]],
  ['threshold and ratio', [withCompressor({ thresholdDecibels: -50, ratio: 20 }), withCompressor({ thresholdDecibels: 0, ratio: 1 })]],
  ['low cut', [withRecipe(() => ({ lowCut: { cutoffHz: 400 } })), withRecipe(() => ({ lowCut: { cutoffHz: 20 } }))]],
  ['air', [withRecipe(() => ({ shelf: { cornerHz: 1_000, gainDecibels: 12 } })), withRecipe(() => ({ shelf: { cornerHz: 16_000, gainDecibels: -12 } }))]],
  ['recipe off and on', [withRecipe(() => ({ enabled: false })), withRecipe(() => ({ enabled: true }))]],
  ['ceiling', [withCeiling(-12), withCeiling(0)]],
  [
    'level of a layer, the beat, the voices',
    [s => setLayerMix(s, { layerId: lead, gainDecibels: -60 }), s => setBeatMix(s, { gainDecibels: 6 }), s => setVocalBus(s, { gainDecibels: -20 })],
  ],
  ['place', [s => setLayerMix(s, { layerId: lead, pan: -1 }), s => setLayerMix(s, { layerId: lead, pan: 1 }), s => setBeatMix(s, { pan: 1 })]],
  ['send', [s => setLayerMix(s, { layerId: lead, sendDecibels: 12 }), s => setLayerMix(s, { layerId: lead, sendDecibels: -60 })]],
  [
    'space',
    [
      s => setSpace(s, { decaySeconds: 10 }),
      s => setSpace(s, { decaySeconds: 0.2 }),
      s => setSpace(s, { preDelaySeconds: 0.2 }),
      s => setSpace(s, { preDelaySeconds: 0 }),
      s => setSpace(s, { dampingHz: 500 }),
      s => setSpace(s, { gainDecibels: 12 }),
      s => setSpace(s, { gainDecibels: -60 }),
    ],
  ],
  [
    'mute and solo',
    [
      s => setLayerMix(s, { layerId: double, muted: true }),
      s => setLayerMix(s, { layerId: double, muted: false, soloed: true }),
      s => setLayerMix(s, { layerId: double, soloed: false }),
    ],
  ],
  ['a layer that goes', [s => removeLayer(s, { layerId: double })]],
  [
    'another take, twice within one fade',
    [
      s => pickTake(s, { layerId: lead, takeId: s.takes[1]!.id, ...range, insist: true, makeId }),
      s => pickTake(s, { layerId: lead, takeId: s.takes[0]!.id, ...range, insist: true, makeId }),
    ],
  ],
]

function largestStep(sound: Float32Array): number {
  let step = 0
  for (let i = 1; i < sound.length; i++) step = Math.max(step, Math.abs(sound[i]! - sound[i - 1]!))
  return step
}

/** The largest step while changes come every `apart` frames, over the largest in the steady sound before the first or after the last. */
function stepRatio(songs: readonly Song[], apart: number): number {
  const mix = rollingMix({ fromFrame: FROM }, planMix(songs[0]!), sounds)
  mix.run(24_000)
  const steady = largestStep(mix.run(19_200))
  const sounded = songs.slice(1).map(changed => {
    mix.send({ kind: 'plan', plan: planMix(changed) as MixPlan })
    return largestStep(mix.run(apart))
  })
  // What the change leads to may be louder, and then moves more by right.
  const after = [...songs.slice(1)].map(changed => {
    const settled = rollingMix({ fromFrame: FROM }, planMix(changed), sounds)
    settled.run(24_000)
    return largestStep(settled.run(19_200))
  })
  return Math.max(...sounded) / Math.max(steady, ...after)
}

test.each(CHANGES)('%s while playing: no step above 1.5 times the steady one', (_, changes) => {
  const songs = changes.reduce<Song[]>((all, change) => [...all, change(all.at(-1)!)], [song])
  for (const apart of [12_800, 128, 256]) expect(stepRatio(songs, apart)).toBeLessThan(1.5)
})

test.each([
  ['forward', FROM + 50_000, null],
  ['back', FROM - 9_000, null],
  ['into a loop', FROM + 10_000, { startFrame: FROM + 10_000, endFrame: FROM + 13_333 }],
] as const)('a seek %s while playing fades, and the clock tells the new place once', (_, fromFrame, loop) => {
  const mix = rollingMix({ fromFrame: FROM }, planMix(song), sounds)
  mix.run(24_000)
  const steady = largestStep(mix.run(19_200))
  for (let i = 0; i < 5; i++) {
    mix.send({ kind: 'play', fromFrame, loop, silentBeforeFrame: null, stopAtFrame: null })
    expect(largestStep(mix.run(19_200 + 37 * i)) / steady).toBeLessThan(1.5)
  }
  expect(mix.told.filter(message => message.kind === 'started')).toHaveLength(6)
  expect(mix.told.at(-1)).toMatchObject({ kind: 'started', songFrame: fromFrame })
  expect(mix.told.some(message => message.kind === 'stopped')).toBe(false)
})

test('a stop right after a seek stops, and what was to begin does not', () => {
  const mix = rollingMix({ fromFrame: FROM }, planMix(song), sounds)
  mix.run(12_800)
  mix.send({ kind: 'play', fromFrame: FROM + 50_000, loop: null, silentBeforeFrame: null, stopAtFrame: null })
  mix.send({ kind: 'stop' })
  mix.run(1_280)
  expect(mix.told.map(message => message.kind)).toEqual(['started', 'stopped'])
})

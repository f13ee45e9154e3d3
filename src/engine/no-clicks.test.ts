import { beforeEach, expect, test } from '@jest/globals'
import { sine } from '../core/audio/signals.test-kit'
import type { Planar } from '../core/audio/frames'
import { pickTake } from '../core/comp/picks'
import { describeLayer, removeLayer } from '../core/layers/commands'
import { addColour, removeColours, setColour } from '../core/mix/colours'
import { setBeatMix, setBeatRoom, setBusGain, setLayerMix, setVocalGain } from '../core/mix/commands'
import { stepsOfColour } from '../core/mix/named-recipes'
import { packPlan } from '../core/mix/packed-plan'
import { planMix } from '../core/mix/plan'
import { addStep, moveStep, recipeAt, removeStep, setRecipe, setStep, type RecipePlace, type StepKind } from '../core/mix/recipes'
import { removeRidePoints, setRidePoint } from '../core/mix/rides'
import { addSpace, removeSpace, setSend, setSpace } from '../core/mix/spaces'
import { addThrow, removeThrows, setThrow } from '../core/mix/throws'
import type { SpaceId, StepId } from '../core/song/mix-schema'
import type { Song } from '../core/song/schema'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../core/song/song.test-kit'
import { EMPTY_RECIPE } from '../core/song/usual-mix'
import { planMessage } from './plan-message'
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
const ALL: RecipePlace = { kind: 'all' }
const song: Song = [
  (s: Song) => pickTake(s, { layerId: lead, takeId: s.takes[0]!.id, ...range, makeId }),
  (s: Song) => pickTake(s, { layerId: double, takeId: s.takes[1]!.id, ...range, makeId }),
  (s: Song) => setStep(s, { place: ALL, stepId: 'compressor' as StepId, settings: { attackSeconds: 0.001, releaseSeconds: 0.2 } }),
].reduce((s, change) => change(s), bare)

const FROM = lineRange(0).startFrame + 24_000
const withStep =
  (kind: StepKind, settings: Record<string, number>) =>
  (s: Song): Song =>
    setStep(s, { place: ALL, stepId: kind as unknown as StepId, settings })
/** A step comes to each kind of place, is changed, moved to the front, and goes. */
const comingAndGoing = (place: RecipePlace, kind: StepKind, settings: Record<string, number>): ((s: Song) => Song)[] => {
  const last = (s: Song) => recipeAt(s, place).steps.at(-1)!.id
  return [
    s => addStep(s, { place, kind, makeId }),
    s => setStep(s, { place, stepId: last(s), settings }),
    s => moveStep(s, { place, stepId: last(s), by: -5 }),
    s => removeStep(s, { place, stepId: recipeAt(s, place).steps[0]!.id }),
  ]
}
const WHOLE = { kind: 'mix' } as const
const PLATE = 'plate' as SpaceId
const INTO_PLATE = { kind: 'send', spaceId: PLATE } as const
const withCeiling =
  (ceilingDbfs: number) =>
  (s: Song): Song => ({ ...s, output: { ...s.output, ceilingDbfs } })

const thrownIn = (s: Song) => s.layers.find(({ id }) => id === lead)!.throws[0]!.id
const colouredIn = (s: Song) => s.layers.find(({ id }) => id === lead)!.colours[0]!.id
const OTHERWISE = {
  'high-cut': { cutoffHz: 1_000, slopeDecibels: 24 },
  'dynamic-band': { frequencyHz: 220, thresholdDecibels: -50, rangeDecibels: 18 },
  wash: { decaySeconds: 12, mixFraction: 1 },
  width: { widthFraction: 0, middleBelowHz: 500 },
  limiter: { ceilingDbfs: -24 },
}

const CHANGES: [string, ((s: Song) => Song)[]][] = [
  ['make-up gain up and down by 12 dB', [withStep('compressor', { makeupDecibels: 12 }), withStep('compressor', { makeupDecibels: 0 })]],
  ['threshold and ratio', [withStep('compressor', { thresholdDecibels: -50, ratio: 20 }), withStep('compressor', { thresholdDecibels: 0, ratio: 1 })]],
  ['low cut', [withStep('low-cut', { cutoffHz: 400 }), withStep('low-cut', { cutoffHz: 20 })]],
  ['air', [withStep('air', { cornerHz: 1_000, gainDecibels: 12 }), withStep('air', { cornerHz: 16_000, gainDecibels: -12 })]],
  ['recipe off and on', [s => setRecipe(s, { place: ALL, enabled: false }), s => setRecipe(s, { place: ALL, enabled: true })]],
  ['saturation of all voices that comes, is driven, moves and goes', comingAndGoing(ALL, 'saturation', { driveDecibels: 18 })],
  ['a compressor of the whole mix that comes, presses hard, moves and goes', comingAndGoing(WHOLE, 'compressor', { thresholdDecibels: -50, ratio: 12 })],
  ['saturation of the whole mix that comes and goes, and is late', comingAndGoing(WHOLE, 'saturation', { driveDecibels: 12 })],
  ['a compressor of a role that comes and goes', comingAndGoing({ kind: 'role', role: 'double' }, 'compressor', { thresholdDecibels: -40, ratio: 8 })],
  ['an equaliser of a layer that comes and goes', comingAndGoing({ kind: 'layer', layerId: lead }, 'equaliser', { lowShelfDecibels: 9 })],
  [
    'a role whose level changes as its recipe comes and goes',
    [
      s => setBusGain(setRecipe(s, { place: { kind: 'role', role: 'lead' }, enabled: false }), { role: 'lead', gainDecibels: -9 }),
      s => setRecipe(s, { place: { kind: 'role', role: 'lead' }, enabled: true }),
    ],
  ],
  ['a layer that goes another way', [s => describeLayer(s, { layerId: double, role: 'ad-lib' }), s => describeLayer(s, { layerId: double, role: 'lead' })]],
  ['ceiling', [withCeiling(-12), withCeiling(0)]],
  [
    'level of a layer, the beat, the voices',
    [s => setLayerMix(s, { layerId: lead, gainDecibels: -60 }), s => setBeatMix(s, { gainDecibels: 6 }), s => setVocalGain(s, { gainDecibels: -20 })],
  ],
  ['place', [s => setLayerMix(s, { layerId: lead, pan: -1 }), s => setLayerMix(s, { layerId: lead, pan: 1 }), s => setBeatMix(s, { pan: 1 })]],
  ['send', [12, -60].map(gainDecibels => (s: Song) => setSend(s, { layerId: lead, spaceId: PLATE, gainDecibels }))],
  [
    'space',
    [
      ...[{ decaySeconds: 10 }, { decaySeconds: 0.2 }, { preDelaySeconds: 0.2 }, { preDelaySeconds: 0 }, { dampingHz: 500 }].map(
        settings => (s: Song) => setSpace(s, { spaceId: PLATE, settings }),
      ),
      ...[12, -60].map(gainDecibels => (s: Song) => setSpace(s, { spaceId: PLATE, gainDecibels })),
    ],
  ],
  [
    'an echo that is sent into, changes its beats, and goes; and a room that comes',
    [
      s => setSend(s, { layerId: lead, spaceId: 'echo' as SpaceId, gainDecibels: -3 }),
      s => setSpace(s, { spaceId: 'echo' as SpaceId, delayBeats: 0.5 }),
      s => addSpace(s, { kind: 'room', name: 'Hall', makeId }),
      s => setSend(s, { layerId: double, spaceId: s.spaces.at(-1)!.id, gainDecibels: 0 }),
      s => removeSpace(s, { spaceId: 'echo' as SpaceId }),
    ],
  ],
  [
    'a ride that is drawn and taken back',
    [
      s => setRidePoint(s, { layerId: lead, of: { kind: 'level' }, frame: FROM, value: -20 }),
      s => setRidePoint(s, { layerId: lead, of: { kind: 'level' }, frame: FROM + 60_000, value: 6 }),
      s => removeRidePoints(s, { layerId: lead, of: { kind: 'level' }, frames: [FROM, FROM + 60_000] }),
    ],
  ],
  [
    'a place and a send that are ridden, and are not any more',
    [
      ...[-1, 1].map(value => (s: Song) => setRidePoint(s, { layerId: lead, of: { kind: 'place' }, frame: FROM + 30_000 * value, value })),
      ...[-60, 12].map(value => (s: Song) => setRidePoint(s, { layerId: lead, of: INTO_PLATE, frame: FROM + 1_000 * value, value })),
      s => removeRidePoints(s, { layerId: lead, of: { kind: 'place' }, frames: [FROM - 30_000, FROM + 30_000] }),
      s => removeRidePoints(s, { layerId: lead, of: INTO_PLATE, frames: [FROM - 60_000, FROM + 12_000] }),
    ],
  ],
  ['cuts that become steep and gentle again', [{ slopeDecibels: 24 }, { slopeDecibels: 12, cutoffHz: 300 }].map(settings => withStep('low-cut', settings))],
  ...(['high-cut', 'dynamic-band', 'wash', 'width', 'limiter'] as const).map((kind): [string, ((s: Song) => Song)[]] => [
    `${kind} that comes, is set otherwise, moves and goes`,
    comingAndGoing(ALL, kind, OTHERWISE[kind]),
  ]),
  ['how much of a recipe', [0.5, 0, 1].map(amount => (s: Song) => setRecipe(s, { place: ALL, amount }))],
  [
    'a space that is held down, feeds another, and no more',
    [
      s => addSpace(s, { kind: 'hall', name: 'Hall', makeId: () => 'hall' }),
      s => setSpace(s, { spaceId: PLATE, settings: { duckDecibels: 24, lowCutHz: 400, widthFraction: 0 } }),
      s => setSpace(s, { spaceId: PLATE, feeds: { spaceId: 'hall' as SpaceId, gainDecibels: 0 } }),
      s => setSpace(s, { spaceId: PLATE, feeds: null, settings: { duckDecibels: 0, lowCutHz: 20, widthFraction: 1 } }),
    ],
  ],
  [
    'a space of another size, and voices that are pressed under themselves, otherwise, and no more',
    [
      s => setSpace(s, { spaceId: PLATE, settings: { sizeFraction: 0.5 } }),
      s => addSpace(s, { kind: 'press', name: 'Pressed', makeId: () => 'press' }),
      s => setSend(s, { layerId: lead, spaceId: 'press' as SpaceId, gainDecibels: 0 }),
      s => setSpace(s, { spaceId: 'press' as SpaceId, settings: { ratio: 20, thresholdDecibels: -60, makeupDecibels: 24 } }),
      s => removeSpace(s, { spaceId: 'press' as SpaceId }),
      s => setSpace(s, { spaceId: PLATE, settings: { sizeFraction: 1.5 } }),
    ],
  ],
  [
    'a line that is thrown, more softly, and not any more',
    [
      s => addThrow(s, { layerId: lead, lineId: s.sections.flatMap(({ lines }) => lines)[0]!.id, words: null, spaceId: PLATE, makeId }),
      s => setThrow(s, { layerId: lead, throwId: thrownIn(s), gainDecibels: -20, tail: 'ends' }),
      s => removeThrows(s, { layerId: lead, throwIds: [thrownIn(s)] }),
    ],
  ],
  [
    'a line that is coloured, otherwise, and not any more',
    [
      s =>
        addColour(s, {
          layerId: lead,
          on: { lineId: s.sections.flatMap(({ lines }) => lines)[0]!.id, words: null },
          name: 'x',
          steps: stepsOfColour('far away', makeId),
          makeId,
        }),
      s => setColour(s, { layerId: lead, colourId: colouredIn(s), amount: 0.4 }),
      s => removeColours(s, { layerId: lead, colourIds: [colouredIn(s)] }),
    ],
  ],
  [
    'the room that the beat makes',
    [{ dipDecibels: 12 }, { levelDecibels: 9, frequencyHz: 200 }, { dipDecibels: 0, levelDecibels: 0 }].map(room => (s: Song) => setBeatRoom(s, room)),
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
  let former = planMix(songs[0]!)
  const sounded = songs.slice(1).map(changed => {
    // As the feeder sends it: without what the worklet has.
    const plan = planMix(changed)
    const message = planMessage(plan, former)
    mix.send(message.kind === 'plan' ? { ...message, plan: packPlan(message.plan) } : message)
    former = plan
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

const plain: Song = {
  ...song,
  vocalBus: { ...song.vocalBus, recipe: EMPTY_RECIPE },
  buses: song.buses.map(bus => ({ ...bus, gainDecibels: 0, recipe: EMPTY_RECIPE })),
  layers: song.layers.map(layer => ({ ...layer, recipe: EMPTY_RECIPE })),
}
test.each([{ kind: 'layer', layerId: lead }, { kind: 'role', role: 'lead' }, ALL, WHOLE] as const)(
  'the first step of a recipe of $kind, where nothing was done before, comes and goes as softly',
  place => {
    const songs = comingAndGoing(place, 'compressor', { thresholdDecibels: -50, ratio: 12 }).reduce<Song[]>(
      (all, change) => [...all, change(all.at(-1)!)],
      [plain],
    )
    for (const apart of [12_800, 128, 256]) expect(stepRatio(songs, apart)).toBeLessThan(1.5)
  },
)

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

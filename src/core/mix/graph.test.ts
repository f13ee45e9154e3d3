import { describe, expect, test } from '@jest/globals'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { peakOf } from '../audio/decibels'
import { decibelsBetween } from '../audio/signals.test-kit'
import { pickTake } from '../comp/picks'
import { describeLayer } from '../layers/commands'
import { openSong } from '../song/open'
import type { SpaceId } from '../song/mix-schema'
import type { Song } from '../song/schema'
import { layerOf, lineRange, makeId } from '../song/song.test-kit'
import { PLATE_ID } from '../song/usual-mix'
import { setBeatMix, setBusGain, setLayerMix, setVocalGain } from './commands'
import { isSameShape, levelsOf, withLevels } from './levels'
import { bare, offline, sung, wholeWindow } from './mix.test-kit'
import { packPlan, withoutKnown } from './packed-plan'
import { planMix } from './plan'
import { addStep, recipeAt, setRecipe, setStep, type RecipePlace, type StepKind } from './recipes'
import { MixRenderer } from './renderer'
import { setRidePoint, type Ridden } from './rides'
import { addSpace, echoSeconds, removeSpace, setSend, setSendOfRole, setSpace } from './spaces'

const FIRST = lineRange(0).startFrame
/** A second inside the first line, where the lead's first take sounds alone. */
const INSIDE = { startFrame: FIRST + 9_600, endFrame: FIRST + 57_600 }
const base = sung()
const lead = layerOf(base, 'Lead')
const PRESS = 'press' as SpaceId
const quiet = (song: Song) => setBeatMix(song, { muted: true })
const PLACES: RecipePlace[] = [{ kind: 'layer', layerId: lead }, { kind: 'role', role: 'lead' }, { kind: 'all' }]

/** A song with one more step at its end of a recipe. */
function withStep(song: Song, place: RecipePlace, kind: StepKind, settings: Record<string, number>): Song {
  const added = addStep(song, { place, kind, makeId })
  return setStep(added, { place, stepId: recipeAt(added, place).steps.at(-1)!.id, settings })
}

test('a song of version 4 sounds as it did when it was written', async () => {
  const opened = openSong(JSON.parse(readFileSync(join(__dirname, '../song/fixtures/song-4.json'), 'utf8')))
  if (opened.kind !== 'current') throw new Error('not opened')
  const planes = await offline(planMix(opened.song))
  expect(planes[0]).toHaveLength(962_400)
  // What the release before rendered: 256 frames of both sides from each of these.
  const bytes = readFileSync(join(__dirname, 'fixtures/song-4.f32'))
  const kept = new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength))
  const starts = [0, 390_000, 420_000, 500_000, 575_500, 600_000, 700_000, 767_000, 800_000]
  const now = starts.flatMap(start => planes.map(plane => [...plane.subarray(start, start + 256)])).flat()
  expect(decibelsBetween(Float32Array.from(now), kept)).toBeLessThan(-140)
})

describe('what comes late through a row of effects', () => {
  const drive = { driveDecibels: 0, amountFraction: 0, outputDecibels: 0 }
  test.each(PLACES)('in the recipe of $kind, is read earlier: the voice stays in its place to a hundredth of a decibel', async place => {
    const song = quiet(bare(base))
    const [plain] = await offline(planMix(song), INSIDE)
    const [bent] = await offline(planMix(withStep(song, place, 'saturation', drive)), INSIDE)
    expect(peakOf(plain)).toBeGreaterThan(0.1)
    expect(decibelsBetween(bent, plain)).toBeLessThan(-55)
  })

  test.each(PLACES)('in the recipe of $kind, lies in phase with what is pressed under it: both together are twice the voice', async place => {
    const song = withStep(quiet(bare(base)), place, 'saturation', drive)
    const pressed = setSend(addSpace(song, { kind: 'press', name: 'Pressed', makeId: () => 'press' }), { layerId: lead, spaceId: PRESS, gainDecibels: 0 })
    const flat = setSpace(pressed, { spaceId: PRESS, settings: { ratio: 1, makeupDecibels: 0 } })
    const [alone] = await offline(planMix(song), INSIDE)
    const [both] = await offline(planMix(flat), INSIDE)
    expect(peakOf(alone)).toBeGreaterThan(0.1)
    expect(
      decibelsBetween(
        both.map(x => x / 2),
        alone,
      ),
    ).toBeLessThan(-50)
  })

  test('what it sends into a space is held back by as much: the echo comes on its beat', async () => {
    const echo = 'echo' as SpaceId
    const song = setSend(quiet(bare(base)), { layerId: lead, spaceId: echo, gainDecibels: 0 })
    const after = { startFrame: FIRST, endFrame: FIRST + 60_000 }
    const [plain] = await offline(planMix(song, { kind: 'space', spaceId: echo }), after)
    const late = withStep(withStep(withStep(song, PLACES[0], 'saturation', drive), PLACES[1], 'saturation', drive), PLACES[2], 'saturation', drive)
    const [bent] = await offline(planMix(late, { kind: 'space', spaceId: echo }), after)
    // A quarter at 120 bpm.
    expect(peakOf(plain.slice(0, 23_000))).toBeLessThan(1e-6)
    expect(peakOf(plain.slice(24_000))).toBeGreaterThan(0.1)
    expect(decibelsBetween(bent, plain)).toBeLessThan(-50)
  })
})

describe('recipes', () => {
  test.each(PLACES)('of $kind are heard where they lie, and not by others', async place => {
    let song = quiet(bare(base))
    const high = layerOf(song, 'High 1')
    song = pickTake(song, { layerId: high, takeId: song.takes[1].id, ...lineRange(0), insist: true, makeId })
    const alone = (of: Song, layerId: typeof high) => offline(planMix(setLayerMix(of, { layerId, soloed: true })), INSIDE)
    const cut = withStep(song, place, 'equaliser', { lowShelfHz: 600, lowShelfDecibels: -12 })
    const lowered = async (layerId: typeof high) => 20 * Math.log10(peakOf((await alone(cut, layerId))[0]) / peakOf((await alone(song, layerId))[0]))
    expect(await lowered(lead)).toBeLessThan(-6)
    expect(await lowered(high)).toBeLessThan(place.kind === 'all' ? -6 : 0.01)
    if (place.kind !== 'all') expect(Math.abs(await lowered(high))).toBeLessThan(0.01)
  })

  test('off, without a step that is on, or in the view without recipes, it is as if there were none', async () => {
    const song = quiet(bare(base))
    const [plain] = await offline(planMix(song), INSIDE)
    for (const place of PLACES) {
      const cut = withStep(song, place, 'low-cut', { cutoffHz: 400 })
      const [step] = recipeAt(cut, place).steps
      for (const without of [setRecipe(cut, { place, enabled: false }), setStep(cut, { place, stepId: step.id, enabled: false })])
        expect(decibelsBetween((await offline(planMix(without), INSIDE))[0], plain)).toBe(-Infinity)
      expect(decibelsBetween((await offline(planMix(cut, { kind: 'without-recipe', gainDecibels: 0 }), INSIDE))[0], plain)).toBe(-Infinity)
    }
  })

  test('a role’s level comes after its recipe: pressed as hard, and as much softer, in the spaces too', async () => {
    const role = { kind: 'role', role: 'lead' } as const
    let song = withStep(quiet(bare(base)), role, 'compressor', { thresholdDecibels: -40, ratio: 10, makeupDecibels: 0 })
    song = setSend(song, { layerId: lead, spaceId: PLATE_ID, gainDecibels: -6 })
    const [loud] = await offline(planMix(song), INSIDE)
    const [soft] = await offline(planMix(setBusGain(song, { role: 'lead', gainDecibels: -12 })), INSIDE)
    expect(
      decibelsBetween(
        soft,
        loud.map(sample => sample * 10 ** (-12 / 20)),
      ),
    ).toBeLessThan(-100)
  })
})

test('a layer that is given another role while it plays plays on, though its spans are not sent again', () => {
  const before = quiet(bare(base))
  const plan = planMix(before)
  const renderer = new MixRenderer(plan, wholeWindow())
  renderer.seek(INSIDE.startFrame)
  const play = (from: number) => {
    const sound = new Float32Array(12_800)
    for (let at = 0; at < sound.length; at += 128) renderer.render(from + at, sound.subarray(at, at + 128), new Float32Array(128))
    return peakOf(sound)
  }
  const loud = play(INSIDE.startFrame)
  const sparse = withoutKnown(planMix(describeLayer(before, { layerId: lead, role: 'ad-lib' })), plan)
  expect(sparse.channels.find(channel => channel.id === lead)).toMatchObject({ into: 'ad-lib', spans: null })
  renderer.setPlan(packPlan(sparse))
  play(INSIDE.startFrame + 12_800)
  expect(play(INSIDE.startFrame + 25_600)).toBeCloseTo(loud, 2)
})

describe('spaces', () => {
  test('each is heard alone, two sum to both, and one that is removed takes its sends along', async () => {
    let song = quiet(bare(base))
    for (const [spaceId, gainDecibels] of [
      ['plate', -6],
      ['room', -3],
    ] as const)
      song = setSend(song, { layerId: lead, spaceId: spaceId as SpaceId, gainDecibels })
    const [dry] = await offline(planMix(bare(song)), INSIDE)
    const [both] = await offline(planMix(song), INSIDE)
    const alone = async (spaceId: string) => (await offline(planMix(song, { kind: 'space', spaceId: spaceId as SpaceId }), INSIDE))[0]
    const [plate, room] = [await alone('plate'), await alone('room')]
    expect(Math.min(peakOf(plate), peakOf(room))).toBeGreaterThan(0.005)
    expect(
      decibelsBetween(
        both,
        dry.map((sample, i) => sample + plate[i] + room[i]),
      ),
    ).toBeLessThan(-120)
    const without = removeSpace(song, { spaceId: 'room' as SpaceId })
    expect(without.layers.flatMap(layer => layer.sends).some(send => send.spaceId === 'room')).toBe(false)
    expect(peakOf((await offline(planMix(without, { kind: 'space', spaceId: 'room' as SpaceId }), INSIDE))[0])).toBeGreaterThan(0.1)
  })

  test('an echo follows the tempo unless it is told seconds, and a beat that is too long for it is halved', () => {
    const song = base
    const echo = song.spaces.find(space => space.kind === 'echo')!
    const at = (tempoBpm: number, delayBeats: number | null) =>
      echoSeconds({ ...(echo as Extract<typeof echo, { kind: 'echo' }>), delayBeats, delaySeconds: 0.33 }, { ...song.beat.grid, tempoBpm })
    expect([at(120, 1), at(90, 0.75), at(90, null)]).toEqual([0.5, 0.5, 0.33])
    expect([at(40, 2), at(30, 4)]).toEqual([1.5, 2])
  })
})

test('a ride moves the level in straight lines of decibels from point to point', async () => {
  let song = quiet(bare(base))
  for (const [second, gainDecibels] of [
    [0.2, 0],
    [0.6, -20],
    [0.8, 6],
  ])
    song = setRidePoint(song, { layerId: lead, of: { kind: 'level' }, frame: INSIDE.startFrame + second * 48_000, value: gainDecibels })
  const [ridden] = await offline(planMix(song), INSIDE)
  const [plain] = await offline(planMix(bare({ ...song, layers: song.layers.map(layer => ({ ...layer, ride: [] })) })), INSIDE)
  const decibelsAt = (second: number) => {
    const stretch = [ridden, plain].map(sound => sound.slice(second * 48_000 - 145, second * 48_000 + 145))
    return 20 * Math.log10(peakOf(stretch[0]) / peakOf(stretch[1]))
  }
  for (const [second, expected] of [
    [0.1, 0],
    [0.4, -10],
    [0.5, -15],
    [0.7, -7],
    [0.9, 6],
  ])
    expect(Math.abs(decibelsAt(second) - expected)).toBeLessThan(0.4)
})

test('a place that is ridden goes from side to side at constant power, whatever the layer’s own place is', async () => {
  let song = setLayerMix(quiet(bare(base)), { layerId: lead, pan: 0.7 })
  for (const [second, value] of [
    [0.2, -1],
    [0.8, 1],
  ])
    song = setRidePoint(song, { layerId: lead, of: { kind: 'place' }, frame: INSIDE.startFrame + second * 48_000, value })
  const [left, right] = await offline(planMix(song), INSIDE)
  const powersAt = (second: number) => [left, right].map(side => peakOf(side.slice(second * 48_000 - 145, second * 48_000 + 145)) ** 2)
  const sums = [0.1, 0.3, 0.5, 0.7, 0.9].map(second => powersAt(second).reduce((sum, power) => sum + power))
  for (const sum of sums) expect(sum / sums[0]).toBeCloseTo(1, 1)
  expect(powersAt(0.1)[1]).toBeLessThan(1e-9)
  expect(powersAt(0.9)[0]).toBeLessThan(1e-9)
  expect(powersAt(0.5)[0] / powersAt(0.5)[1]).toBeCloseTo(1, 1)
})

test('a throw: only the word over which the send is ridden up goes into the space', async () => {
  const song = quiet(bare(base))
  const of = { kind: 'send', spaceId: 'echo' as SpaceId } as const
  const at = FIRST + 24_000
  const thrown = [
    [at - 240, -60],
    [at, 0],
    [at + 4_800, 0],
    [at + 5_040, -60],
  ].reduce((s, [frame, value]) => setRidePoint(s, { layerId: lead, of, frame, value }), song)
  const range = { startFrame: FIRST, endFrame: FIRST + 96_000 }
  const [answer] = await offline(planMix(thrown, { kind: 'space', spaceId: of.spaceId }), range)
  // A quarter at 120 bpm is 24,000 frames: the word comes back there, and nothing of what was sung before it.
  expect(peakOf(answer.slice(0, 47_600))).toBeLessThan(1e-6)
  expect(peakOf(answer.slice(48_100, 52_800))).toBeGreaterThan(0.05)
  expect(peakOf(answer.slice(54_000, 71_000))).toBeLessThan(1e-3)
  expect(peakOf((await offline(planMix(song, { kind: 'space', spaceId: of.spaceId }), range))[0])).toBe(0)
})

describe('levels alone', () => {
  const song = setSend(base, { layerId: lead, spaceId: 'room' as SpaceId, gainDecibels: -9 })
  const changes: [string, (s: Song) => Song][] = [
    ['a layer', s => setLayerMix(s, { layerId: lead, gainDecibels: -7, pan: 0.4 })],
    ['a mute', s => setLayerMix(s, { layerId: lead, muted: true })],
    ['the beat', s => setBeatMix(s, { gainDecibels: -20, pan: -0.2 })],
    ['a role without a recipe', s => setBusGain(s, { role: 'lead', gainDecibels: -5 })],
    ['all voices', s => setVocalGain(s, { gainDecibels: -8 })],
    ['a send', s => setSend(s, { layerId: lead, spaceId: 'room' as SpaceId, gainDecibels: -2 })],
    ['a space', s => setSpace(s, { spaceId: 'room' as SpaceId, gainDecibels: -11 })],
  ]
  test.each(changes)('of %s sound as the whole plan with them does, to the bit', (_, change) => {
    const [before, after] = [planMix(song), planMix(change(song))]
    expect(isSameShape(before, after)).toBe(true)
    expect(levelsOf(withLevels(before, levelsOf(after)))).toEqual(levelsOf(after))
    const play = (tell: (renderer: MixRenderer) => void) => {
      const renderer = new MixRenderer(before, wholeWindow())
      renderer.seek(INSIDE.startFrame)
      const sound = new Float32Array(9_600)
      for (let at = 0; at < sound.length; at += 128) {
        if (at === 2_560) tell(renderer)
        renderer.render(INSIDE.startFrame + at, sound.subarray(at, at + 128), new Float32Array(128))
      }
      return sound
    }
    expect(play(renderer => renderer.setLevels(levelsOf(after)))).toEqual(play(renderer => renderer.setPlan(after)))
  })

  test.each<[string, (s: Song) => Song]>([
    ['another step', s => addStep(s, { place: { kind: 'all' }, kind: 'gate', makeId })],
    ['a setting', s => setStep(s, { place: { kind: 'all' }, stepId: s.vocalBus.recipe.steps[0].id, settings: { cutoffHz: 133 } })],
    ['a space more', s => addSpace(s, { kind: 'plate', name: 'More', makeId })],
    ['another role', s => describeLayer(s, { layerId: lead, role: 'ad-lib' })],
    ['a ride', s => setRidePoint(s, { layerId: lead, of: { kind: 'level' }, frame: 9, value: -3 })],
    ['another pick', s => pickTake(s, { layerId: lead, takeId: s.takes[1].id, ...lineRange(0), insist: true, makeId })],
  ])('are not all that %s changes', (_, change) => {
    expect(isSameShape(planMix(song), planMix(change(song)))).toBe(false)
  })
})

test('a layer that has been silent for long is heard as if it had not rested, whatever was changed meanwhile', async () => {
  let song = quiet(bare({ ...base, beat: { ...base.beat, frames: 60 * 48_000 } }))
  const range = { startFrame: FIRST + 25 * 48_000, endFrame: FIRST + 26 * 48_000 }
  song = pickTake(song, { layerId: lead, takeId: song.takes[1].id, ...range, insist: true, makeId })
  song = { ...song, takes: song.takes.map(take => ({ ...take, endFrame: take.startFrame + 40 * 48_000 })) }
  const planOf = (thresholdDecibels: number) => planMix(withStep(song, PLACES[0], 'compressor', { thresholdDecibels, ratio: 6, releaseSeconds: 0.2 }))
  const window = wholeWindow()
  const play = (renderer: MixRenderer, from: number, to: number): Float32Array => {
    const sound = new Float32Array(to - from)
    for (let at = 0; at < sound.length; at += 128) renderer.render(from + at, sound.subarray(at, at + 128), new Float32Array(128))
    return sound
  }
  const fromStart = new MixRenderer(planOf(-10), window)
  fromStart.seek(FIRST)
  play(fromStart, FIRST, FIRST + 20 * 48_000)
  fromStart.setPlan(planOf(-40))
  play(fromStart, FIRST + 20 * 48_000, range.startFrame)
  const fresh = new MixRenderer(planOf(-40), window)
  fresh.seek(range.startFrame)
  const [rested, expected] = [fromStart, fresh].map(renderer => play(renderer, range.startFrame, range.startFrame + 24_064))
  expect(peakOf(expected)).toBeGreaterThan(0.01)
  expect(decibelsBetween(rested, expected)).toBeLessThan(-60)
})

test('with every effect, space and lane in use, live equals offline, also after a jump', async () => {
  let song = base
  for (const [name, line] of [
    ['Double left', 0],
    ['High 1', 0],
    ['Low 2', 1],
  ] as const)
    song = pickTake(song, { layerId: layerOf(song, name), takeId: song.takes[1].id, ...lineRange(line), insist: true, makeId })
  const kinds: StepKind[] = ['low-cut', 'gate', 'de-esser', 'compressor', 'equaliser', 'saturation', 'air']
  for (const place of [...PLACES, { kind: 'role', role: 'double' } as const, { kind: 'mix' } as const])
    for (const kind of kinds) song = addStep(song, { place, kind, makeId })
  song = addSpace(song, { kind: 'echo', name: 'Second echo', makeId })
  song = setSpace(song, { spaceId: song.spaces.at(-1)!.id, delayBeats: null, settings: { delaySeconds: 0.123 } })
  song.spaces.forEach((space, i) => {
    for (const layer of song.layers) song = setSend(song, { layerId: layer.id, spaceId: space.id, gainDecibels: -6 - 3 * i })
  })
  const points: [Ridden, number, number][] = [
    [{ kind: 'level' }, -9, 3],
    [{ kind: 'place' }, -1, 0.5],
    [{ kind: 'send', spaceId: PLATE_ID }, -40, 0],
    [{ kind: 'send', spaceId: song.spaces.at(-1)!.id }, 0, -60],
  ]
  for (const [of, from, to] of points)
    for (const [frame, value] of [
      [FIRST + 5_000, from],
      [FIRST + 99_000, to],
    ])
      song = setRidePoint(song, { layerId: lead, of, frame, value })
  const plan = planMix(song)
  const range = { startFrame: FIRST - 4_800, endFrame: FIRST + 96_000 }
  const [left] = await offline(plan, range)
  const renderer = new MixRenderer(plan, wholeWindow())
  const live = new Float32Array(Math.ceil((range.endFrame - range.startFrame) / 128) * 128)
  for (let run = 0; run < 2; run++) {
    renderer.seek(range.startFrame)
    for (let at = 0; at < live.length; at += 128) renderer.render(range.startFrame + at, live.subarray(at, at + 128), new Float32Array(128))
    expect(decibelsBetween(live.subarray(0, left.length), left)).toBeLessThan(-120)
  }
  expect(peakOf(left)).toBeGreaterThan(0.1)
})

test('all layers of a role are sent into a space at once, others as they were; into one that is not there none is', () => {
  const room = 'room' as SpaceId
  const sent = setSendOfRole(base, { role: 'double', spaceId: room, gainDecibels: -7 })
  const levels = sent.layers.map(({ role, sends }) => [role, sends.find(send => send.spaceId === room)?.gainDecibels ?? null])
  expect(levels.filter(([role]) => role === 'double')).toEqual([
    ['double', -7],
    ['double', -7],
  ])
  expect(sent.layers.filter(({ role }) => role !== 'double')).toEqual(base.layers.filter(({ role }) => role !== 'double'))
  expect(() => setSendOfRole(base, { role: 'double', spaceId: 'gone' as SpaceId, gainDecibels: -7 })).toThrow(/no space/)
})

/** The mix at its fullest: what it costs offline, live, by effect, and to take over a plan. */
import { addThrow } from '../src/core/mix/throws'
import { placedLines } from '../src/core/song/select'
import { BLOCK_FRAMES, SAMPLE_RATE_HZ } from '../src/core/audio/frames'
import { describeEffect, EFFECT_KINDS, makeEffectOf } from '../src/core/effects/catalogue'
import { ChunkWindow } from '../src/core/mix/chunk-window'
import { levelsOf } from '../src/core/mix/levels'
import { packPlan } from '../src/core/mix/packed-plan'
import { planMix, type MixPlan } from '../src/core/mix/plan'
import { addStep, type StepKind } from '../src/core/mix/recipes'
import { MixRenderer } from '../src/core/mix/renderer'
import { setRidePoint, type Ridden } from '../src/core/mix/rides'
import { addSpace, setSend } from '../src/core/mix/spaces'
import { addLayer } from '../src/core/layers/commands'
import type { AssetId, Song } from '../src/core/song/schema'
import { chunksOf, demo, planesOf } from './demo'

const SECONDS = 30
const FULL_CHAIN: StepKind[] = ['low-cut', 'gate', 'de-esser', 'compressor', 'compressor', 'equaliser', 'saturation', 'air']
const LAYERS = 16
const SPACES = 8
const LANES = 60
const THROWS = 20

export function measureMix(): void {
  const full = fullSong(demo.song)
  measureRenderer('16 layers with full chains, 8 spaces, 60 lanes, 20 throws', allSinging(planMix(full)))
  const bare = { ...full, layers: full.layers.map(layer => ({ ...layer, recipe: { ...layer.recipe, steps: [] } })) }
  measureRenderer('  the same without the layers’ own chains', allSinging(planMix(bare)))
  const dry = { ...bare, layers: bare.layers.map(layer => ({ ...layer, sends: [] })) }
  measureRenderer('  and without spaces', allSinging(planMix(dry)))
  measureEffects()
  measureTakeover(planMix(full))
}

/** Of the processor: what else the machine does meanwhile does not count. */
function cpuSeconds(): number {
  const { user, system } = process.cpuUsage()
  return (user + system) / 1e6
}

function fullSong(bare: Song): Song {
  let count = 0
  const makeId = () => `bench-${count++}`
  let song = bare
  while (song.layers.length < LAYERS) song = addLayer(song, { name: `Voice ${song.layers.length + 1}`, role: 'double', makeId })
  while (song.spaces.length < SPACES) song = addSpace(song, { kind: (['plate', 'room', 'echo'] as const)[song.spaces.length % 3]!, name: 'Space', makeId })
  for (const layer of song.layers) {
    for (const kind of FULL_CHAIN) song = addStep(song, { place: { kind: 'layer', layerId: layer.id }, kind, makeId })
    for (const space of song.spaces) song = setSend(song, { layerId: layer.id, spaceId: space.id, gainDecibels: -12 })
  }
  for (const [i, of] of ridden(song).entries())
    for (let second = 0; second < 60; second += 2)
      song = setRidePoint(song, { layerId: song.layers[i % LAYERS]!.id, of, frame: second * SAMPLE_RATE_HZ, value: second % 4 === 0 ? 0 : -1 })
  const lines = placedLines(song)
  for (let i = 0; i < THROWS; i++) {
    const wanted = { layerId: song.layers[i % LAYERS]!.id, lineId: lines[i % lines.length]!.line.id, spaceId: song.spaces[i % 3]!.id }
    song = addThrow(song, { ...wanted, words: null, tail: (['rings', 'ducks', 'ends'] as const)[i % 3]!, makeId })
  }
  return song
}

/** The level of every layer, the place of half of them, and a send of each. */
function ridden({ spaces }: Song): Ridden[] {
  const send = { kind: 'send', spaceId: spaces[1]!.id } as const
  return Array.from({ length: LANES }, (_, i) => (i < LAYERS ? { kind: 'level' } : i < 2 * LAYERS ? send : { kind: 'place' }))
}

/** Every layer plays the demo's first take throughout, a little apart. */
function allSinging(plan: MixPlan): MixPlan {
  const take = demo.song.takes[0]!
  const channels = plan.channels.map((channel, i) => ({
    ...channel,
    gain: 0.2,
    spans:
      channel.id === 'beat'
        ? channel.spans
        : [
            {
              assetId: take.assetId,
              originFrame: take.originFrame + i * 480,
              startFrame: take.startFrame + 9_600,
              endFrame: take.endFrame - 9_600,
              gain: 1,
              fadeInFrames: 240,
              fadeOutFrames: 240,
            },
          ],
  }))
  return { ...plan, channels }
}

function wholeWindow(): ChunkWindow {
  const window = new ChunkWindow()
  for (const [id, chunks] of chunksOf) chunks.forEach((chunk, i) => window.put(id as AssetId, planesOf.get(id)![0]!.length, i, chunk))
  return window
}

function measureRenderer(what: string, plan: MixPlan): void {
  const renderer = new MixRenderer(plan, wholeWindow())
  const [left, right] = [new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES)]
  const startFrame = 15 * SAMPLE_RATE_HZ
  renderer.seek(startFrame)
  const run = (seconds: number, from: number) => {
    const began = cpuSeconds()
    for (let at = 0; at < seconds * SAMPLE_RATE_HZ; at += BLOCK_FRAMES) renderer.render(from + at, left, right)
    return (cpuSeconds() - began) / seconds
  }
  run(5, startFrame)
  const load = run(SECONDS, startFrame + 5 * SAMPLE_RATE_HZ)
  console.log(`${what}: ${(1 / load).toFixed(0)} times real time, ${(100 * load).toFixed(1)} % of one core live`)
}

/** For two channels. */
function measureEffects(): void {
  console.log('each effect, per second of two channels:')
  const [left, right] = [0, 1].map(() => Float32Array.from({ length: BLOCK_FRAMES }, (_, i) => 0.3 * Math.sin(i * 0.05)))
  for (const kind of EFFECT_KINDS) {
    const made = makeEffectOf(kind, {})
    if (!made.ok) continue
    const blocks = (10 * SAMPLE_RATE_HZ) / BLOCK_FRAMES
    const [l, r] = [new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES)]
    const run = () => {
      for (let block = 0; block < blocks; block++) {
        l.set(left!)
        r.set(right!)
        made.effect.process(l, r)
      }
    }
    run()
    const began = cpuSeconds()
    run()
    console.log(`  ${kind} (${describeEffect(kind).family}): ${((1_000 * (cpuSeconds() - began)) / 10).toFixed(1)} ms`)
  }
}

/** A plan of 2 000 spans, as the audio thread takes it over. */
function measureTakeover(plan: MixPlan): void {
  const take = demo.song.takes[0]!
  const spansFrom = (offset: number) =>
    Array.from({ length: 2_000 / LAYERS }, (_, i) => ({
      assetId: take.assetId,
      originFrame: take.originFrame,
      startFrame: offset + i * 9_600,
      endFrame: offset + (i + 1) * 9_600,
      gain: 1,
      fadeInFrames: 240,
      fadeOutFrames: 240,
    }))
  const plans = [0, 1].map(offset => ({ ...plan, channels: plan.channels.map(channel => ({ ...channel, spans: spansFrom(offset) })) }))
  const renderer = new MixRenderer(plans[0]!, wholeWindow())
  const times = Array.from({ length: 200 }, (_, i) => {
    // As it arrives: a copy.
    const next = structuredClone(packPlan(plans[i % 2]!))
    const began = performance.now()
    renderer.setPlan(next)
    const took = performance.now() - began
    for (let block = 0; block < 8; block++) renderer.render(block * BLOCK_FRAMES, new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES))
    return took
  }).sort((a, b) => a - b)
  const levels = levelsOf(plan)
  const began = performance.now()
  for (let i = 0; i < 10_000; i++) renderer.setLevels(levels)
  console.log(`a moved fader taken over: ${((performance.now() - began) / 10).toFixed(1)} µs`)
  console.log(`a plan of 2 000 spans taken over: ${times[100]!.toFixed(3)} ms (median), ${times[190]!.toFixed(3)} ms (95 %)`)
}

/** What a step of a recipe does to the voices, or the mix, that go through it: louder or softer over time, and their tone before and after it. */
import { powerToDecibels } from '../audio/decibels'
import { mixToMono, SAMPLE_RATE_HZ, type Mono, type Planar } from '../audio/frames'
import { bandPower, longTermPowers, thirdOctavesHz } from '../audio/third-octaves'
import type { PrintTable } from '../prints/jobs'
import type { StepId } from '../song/mix-schema'
import type { Layer, Song } from '../song/schema'
import type { FrameRange } from '../song/select'
import { EMPTY_RECIPE } from '../song/usual-mix'
import { planMix } from './plan'
import { layRecipe, recipeAt, setStep, type RecipePlace } from './recipes'
import { joinPlanes, renderOffline, type AssetStore } from './render-offline'

export interface WhatStepDoes {
  /** By how much it is louder after it, in decibels, 50 times a second; null where hardly anything sounds. */
  changeDecibels: (number | null)[]
  /** In bands of a third of an octave, in decibels under the strongest band before it. */
  tone: { hz: number; before: number; after: number }[]
}

export const CHANGES_A_SECOND = 50
const HOP_FRAMES = SAMPLE_RATE_HZ / CHANGES_A_SECOND
/** Softer than this, a change is not heard. */
const SOUNDING_DECIBELS = -60
/** Compressors know how loud a voice is once they heard so much of it. */
const BEFORE_FRAMES = SAMPLE_RATE_HZ
const TONE_HZ = { low: 63, high: 16_000 }

/** @returns null where nothing sounds in the range. @throws RangeError if the recipe has no such step. */
export async function whatStepDoes(
  song: Song,
  { place, stepId, range }: { place: RecipePlace; stepId: StepId; range: FrameRange },
  { store, prints }: { store: AssetStore; prints: PrintTable },
  onProgress: (fraction: number) => void = () => {},
): Promise<WhatStepDoes | null> {
  const through = upTo(song, place, stepId)
  const sound = async (of: Song, from: number) => {
    const layerIds = of.layers.filter(layer => goesThrough(layer, place)).map(({ id }) => id)
    const start = Math.max(0, Math.round(range.startFrame) - BEFORE_FRAMES)
    const pieces: Planar[] = []
    const plan = planMix(of, place.kind === 'mix' ? { kind: 'song' } : { kind: 'only', beat: false, layerIds }, prints)
    await renderOffline({ plan, store, range: { startFrame: start, endFrame: Math.round(range.endFrame) }, sink: planes => void pieces.push(planes) })
    onProgress(from + 0.5)
    return joinPlanes(pieces).map(plane => plane.subarray(Math.round(range.startFrame) - start))
  }
  const before = await sound(setStep(through, { place, stepId, enabled: false }), 0)
  const after = await sound(setStep(through, { place, stepId, enabled: true }), 0.5)
  const changeDecibels = changesOf(before, after)
  if (changeDecibels.every(change => change === null)) return null
  const [own, changed] = [before, after].map(planes => longTermPowers(mixToMono(planes) as Mono))
  const bands = thirdOctavesHz(TONE_HZ.low, TONE_HZ.high)
  const strongest = Math.max(...bands.map(hz => bandPower(own, hz)))
  const under = (powers: Float64Array, hz: number) => powerToDecibels(bandPower(powers, hz) / strongest)
  return { changeDecibels, tone: bands.map(hz => ({ hz, before: under(own, hz), after: under(changed, hz) })) }
}

function goesThrough(layer: Layer, place: RecipePlace): boolean {
  return place.kind === 'all' || place.kind === 'mix' || (place.kind === 'role' ? layer.role === place.role : layer.id === place.layerId)
}

/**
 * The song with nothing after a step: no later steps; of a voice's, no levels of buses and no spaces; after a layer's own, neither colours nor air. The
 * recipe counts as on.
 */
function upTo(song: Song, place: RecipePlace, stepId: StepId): Song {
  const { steps, amount } = recipeAt(song, place)
  const at = steps.findIndex(step => step.id === stepId)
  if (at < 0) throw new RangeError(`no step ${stepId} in this recipe`)
  const cut = layRecipe(song, { place, steps: steps.slice(0, at + 1), amount })
  if (place.kind === 'mix') return { ...cut, output: { ...cut.output, ceilingDbfs: 0 } }
  const isRole = place.kind === 'role' || place.kind === 'all'
  return {
    ...cut,
    vocalBus: place.kind === 'all' ? { ...cut.vocalBus, gainDecibels: 0 } : { gainDecibels: 0, recipe: EMPTY_RECIPE },
    buses: cut.buses.map(bus => (isRole ? bus : { ...bus, gainDecibels: 0, recipe: EMPTY_RECIPE })),
    layers: cut.layers.map(layer => ({ ...layer, sends: [], throws: [], soloed: false, ...(isRole ? {} : { colours: [], distance: 0 }) })),
    output: { recipe: EMPTY_RECIPE, ceilingDbfs: 0 },
  }
}

function changesOf(before: Planar, after: Planar): (number | null)[] {
  const level = (planes: Planar, at: number) => {
    let sum = 0
    for (const plane of planes) for (let i = at; i < at + HOP_FRAMES; i++) sum += plane[i] ** 2
    return powerToDecibels(sum / (planes.length * HOP_FRAMES))
  }
  return Array.from({ length: Math.floor(before[0].length / HOP_FRAMES) }, (_, i) => {
    const [was, is] = [level(before, i * HOP_FRAMES), level(after, i * HOP_FRAMES)]
    return was < SOUNDING_DECIBELS && is < SOUNDING_DECIBELS ? null : is - was
  })
}

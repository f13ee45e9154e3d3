/** What distance does to a voice: softer, duller, and with more of the rooms in proportion. */
import { decibelsToGain } from '../audio/decibels'
import type { Step } from '../effects/chain'
import type { Stage } from '../song/stage-schema'

/** Where air begins to be lost. */
const AIR_CORNER_HZ = 5_000

/** In decibels, for a layer that stands so far; each in proportion to its distance. */
export function decibelsOfDistance(stage: Stage, distance: number): Stage {
  return {
    levelDecibels: stage.levelDecibels * distance,
    airDecibels: stage.airDecibels * distance,
    sendDecibels: stage.sendDecibels * distance,
  }
}

/** As a plan has it: times the layer's level, after its recipe, times what it sends. */
export function farOf(stage: Stage, distance: number): { gain: number; steps: readonly Step[]; sendGain: number } {
  const { levelDecibels, airDecibels, sendDecibels } = decibelsOfDistance(stage, distance)
  return {
    gain: decibelsToGain(levelDecibels),
    steps: distance > 0 ? [{ kind: 'air', cornerHz: AIR_CORNER_HZ, gainDecibels: airDecibels }] : [],
    sendGain: decibelsToGain(sendDecibels),
  }
}

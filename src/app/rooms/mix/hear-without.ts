/** A step of a recipe, or all of one, left out at equal loudness; and back. */
import { setBeatMix } from '../../../core/mix/commands'
import type { View } from '../../../core/mix/heard'
import { recipeAt, type RecipePlace } from '../../../core/mix/recipes'
import type { StepId } from '../../../core/song/mix-schema'
import { hearAsLoud, hearTheSong } from '../../song/equal-loudness'
import { currentSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { useMix } from './mix-store'

/** @param stepId Null: the recipe as a whole. */
export function hearWithout(place: RecipePlace, stepId: StepId | null): void {
  if (isWithout(useView.getState().view, place, stepId)) return hearTheSong()
  // Where it is the voices', they are measured alone: the beat would hide what a step does to their loudness.
  const measured = place.kind === 'mix' ? currentSong() : setBeatMix(currentSong(), { muted: true, soloed: false })
  void hearAsLoud(measured, gainDecibels => ({
    kind: 'without-recipe',
    place,
    ...(stepId ? { stepId } : {}),
    gainDecibels,
  }))
}

/** Whether it is heard so. Steps of two recipes may have one id. */
export function isWithout(view: View, place: RecipePlace, stepId: StepId | null): boolean {
  if (view.kind !== 'without-recipe' || !view.place || (view.stepId ?? null) !== stepId) return false
  return JSON.stringify(view.place) === JSON.stringify(place)
}

/** By the key: the step that is opened; of a recipe without steps nothing. */
export function hearWithoutChosen(): void {
  const { place, stepId } = useMix.getState()
  const { steps } = recipeAt(currentSong(), place)
  const step = steps.find(({ id }) => id === stepId) ?? steps[0]
  if (step) hearWithout(place, step.id)
}

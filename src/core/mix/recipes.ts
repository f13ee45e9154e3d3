/** Recipes: where they lie, what they are made into, and the commands on them. */
import { produce } from 'immer'
import { describeEffect, usualSettings } from '../effects/catalogue'
import type { Step } from '../effects/chain'
import { ensureBus } from '../layers/commands'
import { MOST_STEPS, type Recipe, type RecipeStep, type StepId } from '../song/mix-schema'
import type { LayerId, Role, Song } from '../song/schema'
import { requireLayer } from '../song/select'
import { EMPTY_RECIPE } from '../song/usual-mix'
import { partOfStep } from './part-of-step'

/** A layer by itself, the layers of a role together, all voices together, or the whole mix: voices and beat. */
export type RecipePlace = { kind: 'mix' } | { kind: 'all' } | { kind: 'role'; role: Role } | { kind: 'layer'; layerId: LayerId }
export type StepKind = RecipeStep['kind']

/** The row of effects that a recipe is. */
export function stepsOf({ enabled, amount, steps }: Recipe): Step[] {
  if (!enabled || amount === 0) return []
  return steps.filter(step => step.enabled).map(({ id, enabled: _, ...step }) => partOfStep(step as Step, amount))
}

export function recipeAt(song: Song, place: RecipePlace): Recipe {
  if (place.kind === 'mix') return song.output.recipe
  if (place.kind === 'all') return song.vocalBus.recipe
  if (place.kind === 'layer') return requireLayer(song, place.layerId).recipe
  return song.buses.find(bus => bus.role === place.role)?.recipe ?? EMPTY_RECIPE
}

function changeRecipe(song: Song, place: RecipePlace, change: (recipe: Recipe) => void): Song {
  return produce(song, draft => {
    if (place.kind === 'mix') change(draft.output.recipe)
    else if (place.kind === 'all') change(draft.vocalBus.recipe)
    else if (place.kind === 'layer') change(requireLayer(draft, place.layerId).recipe)
    else change(ensureBus(draft, place.role).recipe)
  })
}

/** Command: a recipe on or off as a whole, and how much of it. */
export function setRecipe(song: Song, { place, enabled, amount }: { place: RecipePlace; enabled?: boolean; amount?: number }): Song {
  return changeRecipe(song, place, recipe => {
    if (enabled !== undefined) recipe.enabled = enabled
    if (amount !== undefined) recipe.amount = Math.max(0, Math.min(1, amount))
  })
}

/** Command: another row of steps in the place of what was there. */
export function layRecipe(song: Song, { place, steps, amount = 1 }: { place: RecipePlace; steps: readonly RecipeStep[]; amount?: number }): Song {
  return changeRecipe(song, place, recipe => {
    Object.assign(recipe, { enabled: true, amount, steps: steps.map(step => ({ ...step })) } satisfies Recipe)
  })
}

/** Command: one more step at the end, at its usual settings. @throws RangeError if the recipe is full. */
export function addStep(song: Song, { place, kind, makeId }: { place: RecipePlace; kind: StepKind; makeId: () => string }): Song {
  if (recipeAt(song, place).steps.length >= MOST_STEPS) throw new RangeError(`a recipe has at most ${MOST_STEPS} steps`)
  return changeRecipe(song, place, recipe => {
    recipe.steps.push({ id: makeId() as StepId, kind, enabled: true, ...usualSettings(kind) } as RecipeStep)
  })
}

/** Command: settings of a step, each as near as its range allows; or the step on or off. */
export function setStep(
  song: Song,
  { place, stepId, enabled, settings = {} }: { place: RecipePlace; stepId: StepId; enabled?: boolean; settings?: Record<string, number> },
): Song {
  return changeRecipe(song, place, recipe => {
    const step = recipe.steps.find(entry => entry.id === stepId)
    if (!step) throw new RangeError(`no step ${stepId} in this recipe`)
    if (enabled !== undefined) step.enabled = enabled
    Object.assign(step, withinRanges(step.kind, settings))
  })
}

/** Command: a step moves by so many places; at the ends it stays. */
export function moveStep(song: Song, { place, stepId, by }: { place: RecipePlace; stepId: StepId; by: number }): Song {
  const { steps } = recipeAt(song, place)
  const from = steps.findIndex(step => step.id === stepId)
  const to = Math.max(0, Math.min(steps.length - 1, from + by))
  if (from < 0 || from === to) return song
  return changeRecipe(song, place, recipe => {
    recipe.steps.splice(to, 0, ...recipe.steps.splice(from, 1))
  })
}

/** Command: a step goes. */
export function removeStep(song: Song, { place, stepId }: { place: RecipePlace; stepId: StepId }): Song {
  if (!recipeAt(song, place).steps.some(step => step.id === stepId)) return song
  return changeRecipe(song, place, recipe => {
    recipe.steps = recipe.steps.filter(step => step.id !== stepId)
  })
}

/** What of the settings a kind of effect has, as near as its ranges allow; what is no number is left out. */
export function withinRanges(kind: Parameters<typeof describeEffect>[0], settings: Record<string, number>): Record<string, number> {
  const known = describeEffect(kind).settings.filter(({ name }) => Number.isFinite(settings[name]))
  return Object.fromEntries(
    known.map(({ name, min, max, multipleOf }) => {
      const value = multipleOf === null ? settings[name] : multipleOf * Math.round(settings[name] / multipleOf)
      return [name, Math.max(min, Math.min(max, value))]
    }),
  )
}

/** A recipe as a file of its own, to be kept, handed on and read again. */
import { z } from 'zod'
import { MOST_STEPS, RecipeStepSchema, type Recipe, type RecipeStep, type StepId } from '../song/mix-schema'
import { name as nameField } from '../song/fields'

const FORMAT = 'plush-layer-recipe'
const VERSION = 1

const FileSchema = z.looseObject({ format: z.literal(FORMAT), formatVersion: z.number().int().min(1) })
const ContentSchema = z.looseObject({
  name: nameField.min(1),
  amount: z.number().min(0).max(1),
  steps: z.array(z.unknown()).max(MOST_STEPS),
})

export interface NamedRecipe {
  name: string
  amount: number
  steps: RecipeStep[]
}

/** Human-readable, the same bytes for the same recipe. */
export function writeRecipe(name: string, { amount, steps }: Pick<Recipe, 'amount' | 'steps'>): string {
  const bare = steps.map(({ id: _, ...step }) => step)
  return `${JSON.stringify({ format: FORMAT, formatVersion: VERSION, name, amount, steps: bare }, null, 2)}\n`
}

export type ReadRecipe = { ok: true; recipe: NamedRecipe } | { ok: false; why: 'no-recipe' | 'newer' | 'damaged'; where?: string }

/** @param text Of any file. */
export function readRecipe(text: string, makeId: () => string): ReadRecipe {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    return { ok: false, why: 'no-recipe' }
  }
  const head = FileSchema.safeParse(value)
  if (!head.success) return { ok: false, why: 'no-recipe' }
  if (head.data.formatVersion > VERSION) return { ok: false, why: 'newer' }
  const content = ContentSchema.safeParse(value)
  if (!content.success) return { ok: false, why: 'damaged', where: content.error.issues[0].path.join('.') }
  const steps: RecipeStep[] = []
  for (const [i, step] of content.data.steps.entries()) {
    const parsed = RecipeStepSchema.safeParse({ ...(step as object), id: makeId() as StepId })
    if (!parsed.success) return { ok: false, why: 'damaged', where: `step ${i + 1}${parsed.error.issues[0].path.map(key => `, ${String(key)}`).join('')}` }
    steps.push(parsed.data)
  }
  return { ok: true, recipe: { name: content.data.name, amount: content.data.amount, steps } }
}

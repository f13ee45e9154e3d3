/** A recipe as a file of its own, to be kept, handed on and read again. */
import { z } from 'zod'
import { name as nameField } from '../song/fields'
import { MOST_STEPS, RecipeStepSchema, type Recipe, type RecipeStep, type StepId } from '../song/mix-schema'
import { readOwnFile, writeOwnFile } from '../song/own-file'

const KIND = { format: 'plush-layer-recipe', version: 1 }

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
  return writeOwnFile(KIND, { name, amount, steps: steps.map(({ id: _, ...step }) => step) })
}

export type ReadRecipe = { ok: true; recipe: NamedRecipe } | { ok: false; why: 'no-recipe' | 'newer' | 'damaged'; where?: string }

/** @param text Of any file. */
export function readRecipe(text: string, makeId: () => string): ReadRecipe {
  const read = readOwnFile(text, KIND, ContentSchema)
  if (!read.ok) return read.why === 'damaged' ? read : { ok: false, why: read.why === 'newer' ? 'newer' : 'no-recipe' }
  const { name, amount, steps: given } = read.content
  const steps: RecipeStep[] = []
  for (const [i, step] of given.entries()) {
    const parsed = RecipeStepSchema.safeParse({ ...(step as object), id: makeId() as StepId })
    if (!parsed.success) return { ok: false, why: 'damaged', where: `step ${i + 1}${parsed.error.issues[0].path.map(key => `, ${String(key)}`).join('')}` }
    steps.push(parsed.data)
  }
  return { ok: true, recipe: { name, amount, steps } }
}

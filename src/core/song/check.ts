/** Whether a song may be kept: what a command has changed of it is held against the schema. */
import { z } from 'zod'
import { findBrokenReferences } from './references'
import { SongSchema, type Song } from './schema'

/** The first thing in a song that its schema refuses. */
export interface SongProblem {
  path: (string | number)[]
  /** For a length or a number that is out of its range: which end, and the last value that is allowed. */
  limit: { end: 'most' | 'least'; value: number } | null
  /** What was expected there, for a report. */
  expected: string
}

/**
 * @param before A song that is known to be sound: what both share is not looked into. Null: all of the song is checked.
 * @returns null if the song is sound.
 */
export function findProblem(song: Song, before: Song | null): SongProblem | null {
  return findShapeProblem(SongSchema, song, before, true) ?? findReferenceProblem(song, before)
}

function findReferenceProblem(song: Song, before: Song | null): SongProblem | null {
  const isUntouched = before && (['sections', 'layers', 'takes', 'spares', 'spaces', 'mixes'] as const).every(part => song[part] === before[part])
  const [problem] = isUntouched ? [] : findBrokenReferences(song)
  return problem ? { ...problem, limit: null } : null
}

/** @param isRoot The song itself: its own refinement is `findBrokenReferences`. */
function findShapeProblem(schema: z.ZodType, value: unknown, before: unknown, isRoot = false): SongProblem | null {
  if (value === before && value !== null && typeof value === 'object') return null
  if (schema instanceof z.ZodNullable) return value === null ? null : findShapeProblem(schema.unwrap() as z.ZodType, value, before)
  if (schema instanceof z.ZodObject && isFields(value) && isFields(before) && (isRoot || !schema.def.checks?.length))
    return findFieldProblem(schema, value, before)
  if (schema instanceof z.ZodArray && Array.isArray(value) && Array.isArray(before)) return findItemProblem(schema, value, before)
  const parsed = schema.safeParse(value)
  return parsed.success ? null : problemOf(parsed.error.issues[0])
}

function findFieldProblem(schema: z.ZodObject, value: Fields, before: Fields): SongProblem | null {
  const stranger = Object.keys(value).find(key => !(key in schema.shape))
  if (stranger !== undefined) return { path: [stranger], limit: null, expected: 'no such field' }
  for (const [key, field] of Object.entries(schema.shape)) {
    const problem = findShapeProblem(field as z.ZodType, value[key], before[key])
    if (problem) return { ...problem, path: [key, ...problem.path] }
  }
  return null
}

function findItemProblem(schema: z.ZodArray, value: readonly unknown[], before: readonly unknown[]): SongProblem | null {
  const sound = new Set(before)
  const old = new Map(before.flatMap(entry => (isFields(entry) ? [[entry.id, entry] as const] : [])))
  for (let i = 0; i < value.length; i++) {
    const entry = value[i]
    if (typeof entry === 'object' && sound.has(entry)) continue
    const problem = findShapeProblem(schema.element as z.ZodType, entry, isFields(entry) ? old.get(entry.id) : undefined)
    if (problem) return { ...problem, path: [i, ...problem.path] }
  }
  // Its own limits; what is in it has been looked at.
  const parsed = z
    .array(z.unknown())
    .check(...((schema.def.checks ?? []) as z.core.$ZodCheck<unknown[]>[]))
    .safeParse(value)
  return parsed.success ? null : problemOf(parsed.error.issues[0])
}

type Fields = Record<string, unknown>

function isFields(value: unknown): value is Fields {
  return typeof value === 'object' && value !== null && !Array.isArray(value)
}

function problemOf(issue: z.core.$ZodIssue): SongProblem {
  const path = issue.path.filter(key => typeof key !== 'symbol')
  if (issue.code === 'too_big') return { path, limit: { end: 'most', value: Number(issue.maximum) }, expected: issue.message }
  if (issue.code === 'too_small') return { path, limit: { end: 'least', value: Number(issue.minimum) }, expected: issue.message }
  return { path, limit: null, expected: issue.message }
}

/** Mending a document that is only out of a limit: what is too long is cut, a number out of its range is clamped. */
import type { z } from 'zod'
import { SongSchema, type Song } from './schema'

export interface Mend {
  path: string
  what: 'cut' | 'clamped'
}

export interface MendedSong {
  song: Song
  mends: Mend[]
}

/** Each round mends all that the schema names; what is under a mended part may come to light in the next. */
const MOST_ROUNDS = 8

type Fields = Record<string | number, unknown>

/** @param document Of the current version; not changed. @returns null where more is wrong than limits. */
export function mendSong(document: unknown): MendedSong | null {
  const copy: unknown = structuredClone(document)
  const mends: Mend[] = []
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const parsed = SongSchema.safeParse(copy)
    if (parsed.success) return { song: parsed.data, mends }
    for (const issue of parsed.error.issues) {
      const what = mendIssue(copy as Fields, issue)
      if (!what) return null
      mends.push({ path: issue.path.join('.') || '(document)', what })
    }
  }
  return null
}

function mendIssue(document: Fields, issue: z.core.$ZodIssue): Mend['what'] | null {
  const path = issue.path as (string | number)[]
  if (path.length === 0) return null
  const holder = at(document, path.slice(0, -1))
  const key = path[path.length - 1]
  const value = holder?.[key]
  if (!holder) return null
  switch (issue.code) {
    case 'too_big':
      if (typeof value === 'string' || Array.isArray(value)) holder[key] = value.slice(0, Number(issue.maximum))
      else holder[key] = Number(issue.maximum)
      return typeof value === 'number' ? 'clamped' : 'cut'
    case 'too_small':
      if (typeof value !== 'number' || !issue.inclusive) return null
      holder[key] = Number(issue.minimum)
      return 'clamped'
    case 'invalid_type':
      if (issue.expected !== 'int' || !Number.isFinite(value)) return null
      holder[key] = Math.round(value as number)
      return 'clamped'
    default:
      return null
  }
}

function at(document: Fields, path: readonly (string | number)[]): Fields | undefined {
  return path.reduce<unknown>((value, key) => (value as Fields | undefined)?.[key], document) as Fields | undefined
}

/** A JSON file on the command line, held against what is needed of it. */
import { readFile } from 'node:fs/promises'
import type { z } from 'zod'
import { fail } from './failure'

/** @param needed In words, for what is not so. */
export async function readJson<S extends z.ZodType>(path: string, schema: S, needed: string): Promise<z.infer<S>> {
  const text = await readFile(path, 'utf8').catch((error: Error) => fail(`${path}: ${error.message}`))
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    fail(`${path} is no JSON`)
  }
  const parsed = schema.safeParse(json)
  if (!parsed.success) fail(`${path}: ${needed} is needed (${parsed.error.issues[0]!.path.join('.')}: ${parsed.error.issues[0]!.message})`)
  return parsed.data
}

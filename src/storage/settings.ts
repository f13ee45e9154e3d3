/** How this browser is set up: devices, levels, measured round trips. No part of any song. */
import type { ZodType } from 'zod'
import { database } from './database'

/** Null if nothing (readable) is stored. */
export async function readSetting<T>(key: string, schema: ZodType<T>): Promise<T | null> {
  const row = await database.settings.get(key)
  const parsed = schema.safeParse(row?.value)
  return parsed.success ? parsed.data : null
}

export async function keepSetting(key: string, value: unknown): Promise<void> {
  await database.settings.put({ key, value })
}

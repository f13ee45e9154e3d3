/** Small files of our own (recipes, templates): JSON that says what it is and of which version. */
import { z } from 'zod'

export interface OwnFileKind {
  format: string
  version: number
}

/** Human-readable, the same bytes for the same content. */
export function writeOwnFile({ format, version }: OwnFileKind, content: object): string {
  return `${JSON.stringify({ format, formatVersion: version, ...content }, null, 2)}\n`
}

export type ReadOwnFile<T> = { ok: true; content: T } | { ok: false; why: 'other-file' | 'newer' } | { ok: false; why: 'damaged'; where: string }

/** @param text Of any file. @param schema Of the content, without what every such file begins with. */
export function readOwnFile<T>(text: string, { format, version }: OwnFileKind, schema: z.ZodType<T>): ReadOwnFile<T> {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    return { ok: false, why: 'other-file' }
  }
  const head = z.looseObject({ format: z.literal(format), formatVersion: z.number().int().min(1) }).safeParse(value)
  if (!head.success) return { ok: false, why: 'other-file' }
  const { format: _, formatVersion, ...rest } = head.data
  if (formatVersion > version) return { ok: false, why: 'newer' }
  const content = schema.safeParse(rest)
  if (content.success) return { ok: true, content: content.data }
  const { path, message } = content.error.issues[0]
  return { ok: false, why: 'damaged', where: [path.join('.'), message].filter(Boolean).join(': ') }
}

/** The singer's own templates. */
import type { Template } from '../core/layers/template-schema'
import { TemplateSchema } from '../core/layers/template-file'
import { database } from './database'

export interface KeptTemplate {
  id: string
  template: Template
}

/** By name; one that cannot be read (of a later release) is left where it is, and out. */
export async function keptTemplates(): Promise<KeptTemplate[]> {
  const rows = await database.templates.toArray()
  return rows
    .flatMap(({ id, template }) => {
      const parsed = TemplateSchema.safeParse(template)
      return parsed.success ? [{ id, template: parsed.data }] : []
    })
    .sort((a, b) => a.template.name.localeCompare(b.template.name))
}

export async function keepTemplate({ id, template }: KeptTemplate): Promise<void> {
  await database.templates.put({ id, template })
}

export async function removeTemplate(id: string): Promise<void> {
  await database.templates.delete(id)
}

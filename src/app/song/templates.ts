/** Templates to choose from, ours and the singer's own, and the one that the next song gets. */
import { z } from 'zod'
import { create } from 'zustand'
import { OUR_TEMPLATES, FULL_STACK } from '../../core/layers/our-templates'
import type { Template } from '../../core/layers/template-schema'
import { makeId } from '../../storage/database'
import { keepSetting, readSetting } from '../../storage/settings'
import { keepTemplate, keptTemplates, removeTemplate, type KeptTemplate } from '../../storage/templates'

interface Templates {
  own: readonly KeptTemplate[]
  /** The key of the one that the next song gets; see `keyOf`. */
  chosen: string
}

/** Ours are known by their names. */
const ours = (template: Template) => `ours ${template.name}`

export const useTemplates = create<Templates>(() => ({ own: [], chosen: ours(FULL_STACK) }))

const KEY = 'template'

void Promise.all([keptTemplates(), readSetting(KEY, z.string())]).then(
  ([own, chosen]) => useTemplates.setState(chosen ? { own, chosen } : { own }),
  () => {},
)

export interface Choice {
  key: string
  template: Template
  /** Null for one of ours. */
  id: string | null
}

export function choicesOf(own: readonly KeptTemplate[]): Choice[] {
  return [
    ...OUR_TEMPLATES.map(template => ({ key: ours(template), template, id: null })),
    ...own.map(({ id, template }) => ({ key: `own ${id}`, template, id })),
  ]
}

/** One that is gone gives way to the usual one. */
export function chosenTemplate(): Template {
  const { own, chosen } = useTemplates.getState()
  return choicesOf(own).find(({ key }) => key === chosen)?.template ?? FULL_STACK
}

export function chooseTemplate(chosen: string): void {
  useTemplates.setState({ chosen })
  void keepSetting(KEY, chosen).catch(() => {})
}

/** Kept under its name: one of the singer's own of that name is replaced. */
export async function saveTemplate(template: Template): Promise<void> {
  const { own } = useTemplates.getState()
  const id = own.find(kept => kept.template.name === template.name)?.id ?? makeId()
  await keepTemplate({ id, template })
  useTemplates.setState({ own: await keptTemplates() })
  chooseTemplate(`own ${id}`)
}

export async function renameTemplate({ id, template }: KeptTemplate, name: string): Promise<void> {
  await keepTemplate({ id, template: { ...template, name: name.slice(0, 120) } })
  useTemplates.setState({ own: await keptTemplates() })
}

export async function dropTemplate(id: string): Promise<void> {
  await removeTemplate(id)
  useTemplates.setState({ own: await keptTemplates() })
}

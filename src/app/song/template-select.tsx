/** Which template is laid out when singing begins. */
import { PillSelect } from '../shared/pill-select'
import { chooseTemplate, choicesOf, useTemplates } from './templates'

export function TemplateSelect() {
  const { own, chosen } = useTemplates()
  const choices = choicesOf(own)
  const value = choices.some(({ key }) => key === chosen) ? chosen : choices[0]!.key
  return (
    <PillSelect
      label="Template"
      size="sm"
      width="180px"
      value={value}
      options={choices.map(({ key, template }) => ({ value: key, label: template.name }))}
      onChoose={chooseTemplate}
    />
  )
}

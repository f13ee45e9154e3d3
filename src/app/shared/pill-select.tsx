/** One of a few choices, as soft as a pill. */
import { NativeSelect, type NativeSelectRootProps } from '@chakra-ui/react'

interface PillSelectProps extends Omit<NativeSelectRootProps, 'onChange'> {
  label: string
  value: string
  options: readonly { value: string; label: string }[]
  onChoose: (value: string) => void
}

export function PillSelect({ label, value, options, onChoose, ...root }: PillSelectProps) {
  return (
    <NativeSelect.Root flexShrink={0} {...root}>
      <NativeSelect.Field
        aria-label={label}
        bg="card"
        borderColor="seamline"
        borderRadius="full"
        value={value}
        onChange={event => onChoose(event.target.value)}
      >
        {options.map(option => (
          <option key={option.value} value={option.value}>
            {option.label}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  )
}

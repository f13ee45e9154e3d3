/** A name or words typed in place: kept on Enter or when left, put back on Escape; an empty name is none, unless words may be taken away. */
import { Input, type InputProps } from '@chakra-ui/react'
import { useState } from 'react'
import { focusRoom } from './keep-focus'

interface NameFieldProps extends Omit<InputProps, 'value' | 'onChange'> {
  label: string
  name: string
  mayBeEmpty?: boolean
  onKeep: (name: string) => void
}

export function NameField({ label, name, mayBeEmpty = false, onKeep, width, ...input }: NameFieldProps) {
  const [typed, setTyped] = useState<string | null>(null)
  const finish = () => {
    const next = typed?.trim()
    setTyped(null)
    if (next !== undefined && next !== name && (mayBeEmpty || next)) onKeep(next)
  }
  return (
    <Input
      aria-label={label}
      size="sm"
      width={width ?? `${Math.min(24, Math.max(6, (typed ?? name).length)) + 2}ch`}
      fontWeight={600}
      borderColor="transparent"
      maxLength={120}
      value={typed ?? name}
      onChange={event => setTyped(event.target.value)}
      onBlur={finish}
      onKeyDown={event => {
        event.stopPropagation()
        // Kept, the field is left: the next key is the room's again.
        if (event.key === 'Enter') focusRoom()
        if (event.key === 'Escape') setTyped(null)
      }}
      {...input}
    />
  )
}

/** A pill that lets one choose a file; the same one can be chosen again. */
import { useRef, type ReactNode } from 'react'
import type { ButtonProps } from '@chakra-ui/react'
import { Pill } from './parts'

interface ChooseFileProps extends Omit<ButtonProps, 'onClick'> {
  /** What the file is, for a screen reader. */
  label: string
  accept?: string
  children: ReactNode
  onChoose: (file: File) => void
}

export function ChooseFile({ label, accept, children, onChoose, ...pill }: ChooseFileProps) {
  const input = useRef<HTMLInputElement>(null)
  return (
    <>
      <Pill {...pill} onClick={() => input.current?.click()}>
        {children}
      </Pill>
      <input
        ref={input}
        type="file"
        hidden
        {...(accept ? { accept } : {})}
        aria-label={label}
        onChange={event => {
          const file = event.target.files?.[0]
          event.target.value = ''
          if (file) onChoose(file)
        }}
      />
    </>
  )
}

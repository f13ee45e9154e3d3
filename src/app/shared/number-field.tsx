/** A typed number with its unit: kept on Enter or when left, put back on Escape. */
import { Box, Input, Text } from '@chakra-ui/react'
import { useState } from 'react'

interface NumberFieldProps {
  label: string
  value: number
  min: number
  max: number
  unit?: string
  digits?: number
  width?: string
  onKeep: (value: number) => void
}

export function NumberField({ label, value, min, max, unit, digits = 1, width = '64px', onKeep }: NumberFieldProps) {
  const [typed, setTyped] = useState<string | null>(null)
  const shown = typed ?? String(Math.round(value * 10 ** digits) / 10 ** digits)
  const finish = () => {
    if (typed === null) return
    const number = Number(typed.replace(',', '.'))
    setTyped(null)
    if (typed.trim() !== '' && Number.isFinite(number)) onKeep(Math.max(min, Math.min(max, number)))
  }
  return (
    <Box display="inline-flex" alignItems="center" gap={1}>
      <Input
        aria-label={unit ? `${label} in ${unit}` : label}
        size="2xs"
        height="24px"
        px="6px"
        fontSize="12px"
        width={width}
        textAlign="right"
        inputMode="decimal"
        bg="card"
        borderColor="seamline"
        borderRadius="8px"
        value={shown}
        onChange={event => setTyped(event.target.value)}
        onFocus={event => event.target.select()}
        onBlur={finish}
        onKeyDown={event => {
          event.stopPropagation()
          // Kept, the field is left: the next key is the room's again.
          if (event.key === 'Enter') event.currentTarget.blur()
          if (event.key === 'Escape') setTyped(null)
        }}
      />
      {unit ? (
        <Text as="span" color="ink.soft" fontSize="12px" whiteSpace="nowrap" minW="22px">
          {unit}
        </Text>
      ) : null}
    </Box>
  )
}

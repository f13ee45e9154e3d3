/** A typed number with its unit: kept on Enter or when left, put back on Escape. What cannot be taken is answered in words. */
import { Box, Input, Text } from '@chakra-ui/react'
import { useEffect, useId, useState } from 'react'
import { focusRoom } from './keep-focus'
import { readTypedNumber, refusalText } from './typed-number'

/** Long enough to be read twice. */
const REFUSAL_MILLISECONDS = 10_000

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
  const [refusal, setRefusal] = useState<string | null>(null)
  const refusalId = useId()
  const holds = String(Math.round(value * 10 ** digits) / 10 ** digits)
  const range = { min, max, digits, unit }
  const read = typed === null || typed === holds ? null : readTypedNumber(typed, range)
  const whyNot = read && !read.ok ? refusalText(typed!, read.why, range, holds) : null
  useEffect(() => {
    if (refusal === null) return
    const timer = setTimeout(() => setRefusal(null), REFUSAL_MILLISECONDS)
    return () => clearTimeout(timer)
  }, [refusal])
  return (
    <Box display="inline-flex" alignItems="center" gap={1} position="relative" fontFamily="body" lineHeight={1.4}>
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
        value={typed ?? holds}
        aria-invalid={refusal !== null}
        aria-describedby={refusal === null ? undefined : refusalId}
        onChange={event => {
          setTyped(event.target.value)
          setRefusal(null)
        }}
        onFocus={event => event.target.select()}
        onBlur={() => {
          if (read?.ok) onKeep(read.value)
          setRefusal(whyNot)
          setTyped(null)
        }}
        onKeyDown={event => {
          event.stopPropagation()
          // Kept, the field is left: the next key is the room's again.
          if (event.key === 'Enter') {
            // What comes into view by it, and takes the focus, was not meant.
            event.preventDefault()
            if (whyNot === null) focusRoom()
            else setRefusal(whyNot)
          }
          if (event.key === 'Escape') {
            setTyped(null)
            setRefusal(null)
          }
        }}
      />
      {unit ? (
        <Text as="span" color="ink.soft" fontSize="12px" whiteSpace="nowrap" minW="22px">
          {unit}
        </Text>
      ) : null}
      {refusal === null ? null : (
        <Box
          id={refusalId}
          role="alert"
          position="absolute"
          top="calc(100% + 4px)"
          left={0}
          zIndex="popover"
          width="max-content"
          maxW="240px"
          p="4px 10px"
          fontSize="12px"
          color="warn"
          bg="card"
          borderWidth="1px"
          borderColor="warn"
          borderRadius="8px"
          boxShadow="sm"
        >
          {refusal}
        </Box>
      )}
    </Box>
  )
}

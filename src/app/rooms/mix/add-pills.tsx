/** What can be added, one pill a kind. */
import { Flex, Text } from '@chakra-ui/react'
import { Pill } from '../../shared/parts'

interface AddPillsProps<K extends string> {
  label: string
  names: Record<K, string>
  /** How a screen reader names the pill. */
  spoken: (kind: K) => string
  onAdd: (kind: K) => void
}

export function AddPills<K extends string>({ label, names, spoken, onAdd }: AddPillsProps<K>) {
  return (
    <Flex gap="6px" wrap="wrap" align="center" role="group" aria-label={label}>
      <Text color="ink.soft" fontSize="12px">
        Add
      </Text>
      {(Object.keys(names) as K[]).map(kind => (
        <Pill key={kind} size="xs" px={2} aria-label={spoken(kind)} onClick={() => onAdd(kind)}>
          {names[kind]}
        </Pill>
      ))}
    </Flex>
  )
}

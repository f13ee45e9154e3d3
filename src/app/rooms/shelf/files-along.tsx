/** Several files in one drop: the first is the beat; the singer says what the others are. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { count } from '../../shared/format'
import { Notice, Pill, PrimaryButton } from '../../shared/parts'
import type { Arrival, Imports } from './use-imports'

export interface Along {
  first: { name: string; arrival: Arrival }
  others: File[]
}

interface FilesAlongProps {
  along: Along
  imports: Imports
  onOpen: (arrival: Arrival) => void
  onChange: (along: Along | null) => void
}

export function FilesAlong({ along: { first, others }, imports, onOpen, onChange }: FilesAlongProps) {
  const drop = (file: File) => onChange({ first, others: others.filter(entry => entry !== file) })
  const begin = async (file: File) => {
    await imports.importFile(file)
    drop(file)
  }
  return (
    <Box mb={5}>
      <Notice tone="plain" title={`“${first.name}” is a song now.`}>
        {others.length > 0 ? <Text>{count(others.length, 'more file')} came along with it:</Text> : null}
        {others.map(file => (
          <Flex key={file.name} align="center" gap={2} mt={2}>
            <Text minW="180px">{file.name}</Text>
            <Pill onClick={() => void begin(file)}>Begin another song with it</Pill>
            <Pill onClick={() => drop(file)}>Leave it</Pill>
          </Flex>
        ))}
        <Flex gap={2} mt={3}>
          <PrimaryButton onClick={() => onOpen(first.arrival)}>Open it</PrimaryButton>
          <Pill onClick={() => onChange(null)}>Stay here</Pill>
        </Flex>
      </Notice>
    </Box>
  )
}

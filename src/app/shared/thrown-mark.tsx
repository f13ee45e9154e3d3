/** The mark on a word that is thrown: it goes on, softer and softer. */
import { Box } from '@chakra-ui/react'

export function ThrownMark() {
  return (
    <Box as="span" aria-hidden ml="3px" color="brand" fontWeight={700} whiteSpace="nowrap">
      ›<span style={{ opacity: 0.7 }}>›</span>
      <span style={{ opacity: 0.4 }}>›</span>
    </Box>
  )
}

/** A labelled row of choices. */
import { Box, Flex, Grid } from '@chakra-ui/react'
import type { ReactNode } from 'react'

export function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Grid templateColumns="84px minmax(0, 1fr)" alignItems="baseline" mt={2} role="group" aria-label={label}>
      <Box>{label}</Box>
      <Flex align="center" gap="6px" wrap="wrap">
        {children}
      </Flex>
    </Grid>
  )
}

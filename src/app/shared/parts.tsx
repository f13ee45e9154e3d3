/** The cloth every room is cut from: cards, pills, headings, key caps, messages. */
import { Box, Button, chakra, Flex, Heading, Text, type BoxProps, type ButtonProps } from '@chakra-ui/react'
import type { ReactNode } from 'react'

/** Its key (Q, Shift Q) goes from card to card; from there Tab goes into it. */
export function Card({ children, ...props }: BoxProps) {
  return (
    <Box bg="card" borderRadius="card" boxShadow="card" p={4} tabIndex={-1} data-card {...props}>
      {children}
    </Box>
  )
}

/** The well behind ribbons and meters. */
export function Well({ children, ...props }: BoxProps) {
  return (
    <Box bg="sunken" borderRadius="card" p={4} {...props}>
      {children}
    </Box>
  )
}

export function CardTitle({ children }: { children: ReactNode }) {
  return (
    <Heading as="h2" fontFamily="heading" fontSize="16px" fontWeight={600} lineHeight={1.3}>
      {children}
    </Heading>
  )
}

/** The room's question or subject, large, with a line above it and the one primary action at the right. */
export function RoomHeading({ above, title, children }: { above: ReactNode; title: string; children?: ReactNode }) {
  return (
    <Flex justify="space-between" align="end" gap={{ base: 2, md: 4 }} mb={3} wrap={{ base: 'wrap', md: 'nowrap' }}>
      <Box minW={0}>
        <Text color="ink.soft" truncate>
          {above}
        </Text>
        <Heading as="h1" fontFamily="heading" fontSize="26px" fontWeight={600} lineHeight={1.2} truncate>
          {title}
        </Heading>
      </Box>
      <Flex gap={2} flexShrink={{ base: 1, md: 0 }} wrap={{ base: 'wrap', md: 'nowrap' }}>
        {children}
      </Flex>
    </Flex>
  )
}

/** A soft choice or action; `chosen` marks one of several. */
export function Pill({ chosen, children, ...props }: ButtonProps & { chosen?: boolean }) {
  return (
    <Button
      size="sm"
      variant="outline"
      borderRadius="full"
      fontWeight={500}
      px={4}
      bg={chosen ? 'sunken' : 'card'}
      color="ink"
      borderColor={chosen ? 'brand' : 'seamline'}
      borderWidth="1px"
      _hover={{ bg: 'sunken' }}
      {...(chosen === undefined ? {} : { 'aria-pressed': chosen })}
      {...props}
    >
      {children}
    </Button>
  )
}

/** The one primary action in view. */
export function PrimaryButton({ children, ...props }: ButtonProps) {
  return (
    <Button size="md" borderRadius="full" px={5} fontWeight={600} bg="brand" color="brand.ink" _hover={{ filter: 'brightness(1.08)' }} {...props}>
      {children}
    </Button>
  )
}

export function KeyCap({ children }: { children: ReactNode }) {
  return (
    <Box
      as="kbd"
      fontFamily="body"
      fontSize="11px"
      lineHeight="18px"
      minW="18px"
      textAlign="center"
      px="4px"
      borderRadius="5px"
      borderWidth="1px"
      borderColor="seamline"
      bg="sunken"
      color="ink.soft"
    >
      {children}
    </Box>
  )
}

/** A verdict with its word, or what happened, what was kept and what to do. */
export function Notice({ tone, title, children }: { tone: 'ok' | 'warn' | 'plain'; title: string; children?: ReactNode }) {
  return (
    <Box
      role={tone === 'warn' ? 'alert' : 'status'}
      borderLeftWidth="3px"
      borderColor={tone === 'plain' ? 'seamline' : tone}
      bg="card"
      borderRadius="8px"
      px={3}
      py={2}
    >
      <Text fontWeight={600} color={tone === 'plain' ? 'ink' : tone}>
        {title}
      </Text>
      {children ? <Box color="ink.soft">{children}</Box> : null}
    </Box>
  )
}

/** A button of one glyph, for rows; give it a label. */
export const SmallButton = chakra('button', {
  base: {
    p: '4px',
    borderRadius: '7px',
    color: 'ink.soft',
    cursor: 'pointer',
    _hover: { bg: 'sunken', color: 'ink' },
    _disabled: { opacity: 0.35, cursor: 'default' },
  },
})

/** An empty place that teaches the next step in one sentence and one button. */
export function EmptyState({ text, children }: { text: string; children?: ReactNode }) {
  return (
    <Flex
      direction="column"
      align="center"
      justify="center"
      gap={3}
      minH="180px"
      borderWidth="1px"
      borderStyle="dashed"
      borderColor="seamline"
      borderRadius="card"
      p={6}
      textAlign="center"
    >
      <Text color="ink.soft" maxW="46ch">
        {text}
      </Text>
      {children}
    </Flex>
  )
}

/** How much of something is done. @param fraction 0..1. */
export function ProgressBar({ fraction, label, ...box }: { fraction: number; label: string } & BoxProps) {
  const percent = Math.round(100 * fraction)
  return (
    <Box
      role="progressbar"
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={percent}
      height="8px"
      bg="sunken"
      borderRadius="full"
      overflow="hidden"
      {...box}
    >
      <Box height="100%" bg="brand" style={{ width: `${percent}%` }} />
    </Box>
  )
}

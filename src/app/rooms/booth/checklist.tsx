/** "Will this record?": the first thing in the way in one sentence, and all that was looked at behind it. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { Check as CheckIcon, CircleAlert, TriangleAlert } from 'lucide-react'
import { Pill } from '../../shared/parts'
import { ensureEngine, useLive, wake } from '../../song/live'
import { openInput } from '../../recording/inputs'
import { CHECK_NAMES, DOUBT_TEXT, lookAtAll, OBSTACLE_TEXT, type Check, type Obstacle } from '../../recording/readiness'
import { measure } from '../../recording/round-trip'

const LOOK_MILLISECONDS = 600

/** Looked at again and again while the Booth is open. */
export function useChecks(): Check[] {
  return useQuery({ queryKey: ['booth-checks'], queryFn: lookAtAll, refetchInterval: LOOK_MILLISECONDS, staleTime: 0, gcTime: 0 }).data ?? []
}

export function obstacleIn(checks: readonly Check[]): Obstacle | null {
  for (const { state } of checks) if (state.kind === 'failing') return state.reason
  return null
}

export function Checklist({ checks }: { checks: readonly Check[] }) {
  const obstacle = obstacleIn(checks)
  const doubts = checks.flatMap(({ state }) => (state.kind === 'doubt' ? [state.reason] : []))
  const room = checks.find(check => check.about === 'room')
  const firstFix = obstacle ?? doubts[0]
  return (
    <Flex mt="-4px" gap={3} align="start">
      <Box as="details" flex="1">
        <Box as="summary" cursor="pointer" id="will-it-record" color={obstacle ? 'warn' : 'ink.soft'} minH="28px">
          <Text as="span" role="status">
            {checks.length === 0
              ? 'Looking …'
              : obstacle
                ? OBSTACLE_TEXT[obstacle].join(' ')
                : `Will record${room?.state.kind === 'ok' ? ` · room ${room.state.detail}` : ''}`}
          </Text>
          {!obstacle && doubts.length > 0 ? (
            <Text as="span" color="warn">
              {' '}
              · {DOUBT_TEXT[doubts[0]!][0]}
            </Text>
          ) : null}
        </Box>
        <Flex
          as="ul"
          direction="column"
          listStyleType="none"
          bg="card"
          borderRadius="card"
          p={3}
          mt={2}
          gap={1}
          boxShadow="card"
          aria-label="Will this record?"
        >
          {checks.map(check => (
            <Row key={check.about} check={check} />
          ))}
        </Flex>
      </Box>
      {firstFix ? <Fix reason={firstFix} /> : null}
    </Flex>
  )
}

function Row({ check: { about, state } }: { check: Check }) {
  const [what, doThis] = state.kind === 'failing' ? OBSTACLE_TEXT[state.reason] : state.kind === 'doubt' ? DOUBT_TEXT[state.reason] : ['', state.detail]
  return (
    <Flex as="li" gap={2} align="center" minH="26px">
      {state.kind === 'ok' ? (
        <CheckIcon size={16} aria-hidden />
      ) : state.kind === 'doubt' ? (
        <TriangleAlert size={16} aria-hidden />
      ) : (
        <CircleAlert size={16} aria-hidden />
      )}
      <Box flex="0 0 130px" fontWeight={600}>
        {CHECK_NAMES[about]}
      </Box>
      <Box flex="1" color={state.kind === 'ok' ? 'ink.soft' : 'warn'}>
        {state.kind === 'ok' ? `good: ${doThis}` : `${what} ${doThis}`}
      </Box>
      {state.kind !== 'ok' ? <Fix reason={state.reason} /> : null}
    </Flex>
  )
}

function Fix({ reason }: { reason: string }) {
  const fix = {
    'no-input': ['Open a microphone', () => openInput('microphone')],
    'not-allowed': ['Ask again', () => openInput('microphone')],
    'no-device': ['Look again', () => openInput('microphone')],
    'device-in-use': ['Try again', () => openInput('microphone')],
    'input-gone': ['Open it again', () => openInput('microphone')],
    'audio-suspended': ['Wake it up', () => useLive.getState().engine?.context.resume()],
    'audio-asleep': ['Let it sound', () => wake()],
    'no-audio': ['Try again', () => ensureEngine()],
    'round-trip-estimated': ['Measure', () => measure()],
  }[reason] as [string, () => Promise<unknown>] | undefined
  if (!fix) return null
  return (
    <Pill size="xs" onClick={() => void fix[1]()}>
      {fix[0]}
    </Pill>
  )
}

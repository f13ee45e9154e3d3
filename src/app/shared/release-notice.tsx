/** A newer release is offered; never in mid-take. */
import { Flex } from '@chakra-ui/react'
import { Notice, Pill } from './parts'
import { takeRelease, useRelease } from './release'

/** @param isRecording Then it waits. */
export function ReleaseNotice({ isRecording = false }) {
  const { waiting, problem } = useRelease()
  if (!waiting || isRecording) return null
  return (
    <Notice tone={problem ? 'warn' : 'plain'} title="A newer release of Plush Layer is here.">
      {problem ? 'Close its other tabs first, then take it.' : 'All songs stay as they are; the page begins anew, which takes a second.'}
      <Flex gap={2} mt={1}>
        <Pill size="xs" px={3} onClick={() => void takeRelease()}>
          Take it now
        </Pill>
        <Pill size="xs" px={3} onClick={() => useRelease.setState({ waiting: null, problem: null })}>
          Later
        </Pill>
      </Flex>
    </Notice>
  )
}

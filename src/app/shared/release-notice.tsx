/** A newer release is offered; never in mid-take. */
import { Flex } from '@chakra-ui/react'
import { useRecorder } from '../recording/recorder-store'
import { Notice, Pill } from './parts'
import { takeRelease, useRelease } from './release'

export function ReleaseNotice() {
  const { waiting, problem } = useRelease()
  const isRecording = useRecorder(state => state.phase !== 'idle' && state.phase !== 'checking')
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

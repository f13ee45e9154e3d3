/** Who sings: a microphone by name, or the practice singer; which channel; how late it is. */
import { Box, Flex, NativeSelect, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { Mic, UserRound } from 'lucide-react'
import { Engine } from '../../../engine/engine'
import { formatMilliseconds } from '../../shared/format'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { useLive } from '../../song/live'
import { NOT_READY_TEXT } from './readiness'
import { chooseChannel, openInput } from './recorder'
import { useRecorder } from './recorder-store'

export function InputCard({ busy }: { busy: boolean }) {
  const { input, channel } = useRecorder()
  const engine = useLive(state => state.engine)
  const open = input.kind === 'microphone' || input.kind === 'singer' ? input : null
  const devices = useQuery({ queryKey: ['inputs', input.kind], queryFn: () => Engine.listInputs(), enabled: input.kind === 'microphone', staleTime: 0 })
  const roundTrip = open && engine ? engine.roundTrip : null
  return (
    <Card>
      <CardTitle>Who sings</CardTitle>
      <Flex gap={2} mt={2} wrap="wrap">
        <Pill chosen={input.kind === 'microphone'} disabled={busy} onClick={() => void openInput('microphone')}>
          <Mic size={15} aria-hidden /> {input.kind === 'microphone' ? 'Microphone open' : 'Open a microphone'}
        </Pill>
        <Pill chosen={input.kind === 'singer'} disabled={busy} onClick={() => void openInput('singer')}>
          <UserRound size={15} aria-hidden /> Practice singer
        </Pill>
      </Flex>
      {input.kind === 'microphone' ? (
        <Flex gap={2} mt={2} align="center" wrap="wrap">
          <NativeSelect.Root size="sm" width="210px" disabled={busy}>
            <NativeSelect.Field aria-label="Microphone" bg="card" borderColor="seamline" value={input.deviceId ?? ''} onChange={event => void openInput('microphone', event.target.value || null)}>
              <option value="">{input.deviceId ? 'The default microphone' : input.result.label || 'The default microphone'}</option>
              {(devices.data ?? []).map(device => (
                <option key={device.deviceId} value={device.deviceId}>
                  {device.label || 'Microphone'}
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
          {input.result.channels > 1 ? (
            <Flex gap={1} role="group" aria-label="Channel taken as the voice">
              {Array.from({ length: Math.min(4, input.result.channels) }, (_, i) => (
                <Pill key={i} chosen={channel === i} disabled={busy} onClick={() => chooseChannel(i)}>
                  {input.result.channels === 2 ? ['Left', 'Right'][i] : i + 1}
                </Pill>
              ))}
            </Flex>
          ) : null}
        </Flex>
      ) : null}
      <Text color="ink.soft" mt={2} role="status">
        {input.kind === 'opening' ? 'Opening …' : null}
        {input.kind === 'failed' ? NOT_READY_TEXT[input.reason === 'not-allowed' ? 'not-allowed' : input.reason === 'in-use' ? 'device-in-use' : 'no-device'].join(' ') : null}
        {roundTrip ? (
          <>
            Takes move <Box as="strong" color="ink">{formatMilliseconds(roundTrip.frames)}</Box> earlier, {roundTrip.source === 'simulated' ? 'the simulated interface’s own round trip' : 'estimated from the browser’s figures'}.
          </>
        ) : null}
        {open && open.result.processing.length > 0 ? ` The browser kept ${open.result.processing.join(' and ')} on: the take will not be dry.` : null}
      </Text>
    </Card>
  )
}

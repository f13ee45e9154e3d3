/** Who sings: a microphone by name, or the practice singer; which channel; where the sound goes. */
import { Box, Flex, NativeSelect, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { Mic, UserRound } from 'lucide-react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { ROUND_TRIP_RANGE_FRAMES, type InterfaceSettings } from '../../../core/rehearsal/simulated-interface'
import { Engine } from '../../../engine/engine'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { useLive } from '../../song/live'
import { setBooth, useBoothSettings } from '../../recording/booth-settings'
import { chooseChannel, chooseOutput, openInput } from '../../recording/inputs'
import { OBSTACLE_TEXT } from '../../recording/readiness'
import { useRecorder } from '../../recording/recorder-store'
import { devicesOpened } from '../../recording/round-trip'

function useDevices(kind: 'audioinput' | 'audiooutput', enabled: boolean) {
  return useQuery({ queryKey: ['devices', kind, enabled], queryFn: () => Engine.listDevices(kind), enabled, staleTime: 0 }).data ?? []
}

export function InputCard({ busy }: { busy: boolean }) {
  const { input, channel } = useRecorder()
  const microphones = useDevices('audioinput', input.kind === 'microphone')
  const open = input.kind === 'microphone' || input.kind === 'singer' ? input : null
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
          <DeviceSelect
            label="Microphone"
            fallback={input.deviceId ? 'The default microphone' : input.result.label || 'The default microphone'}
            value={input.deviceId}
            devices={microphones}
            disabled={busy}
            onChoose={id => void openInput('microphone', id)}
          />
          {input.result.channels > 1 ? (
            <Flex gap={1} role="group" aria-label="Channel taken as the voice">
              {Array.from({ length: Math.min(8, input.result.channels) }, (_, i) => (
                <Pill key={i} chosen={channel === i} disabled={busy} onClick={() => chooseChannel(i)}>
                  {input.result.channels === 2 ? ['Left', 'Right'][i] : i + 1}
                </Pill>
              ))}
            </Flex>
          ) : null}
        </Flex>
      ) : null}
      {input.kind === 'singer' ? <Simulated busy={busy} /> : null}
      <Text color="ink.soft" mt={2} role="status">
        {input.kind === 'opening' ? 'Opening …' : null}
        {input.kind === 'failed'
          ? OBSTACLE_TEXT[input.reason === 'not-allowed' ? 'not-allowed' : input.reason === 'in-use' ? 'device-in-use' : 'no-device'].join(' ')
          : null}
        {open && open.result.processing.length > 0 ? `The browser kept ${open.result.processing.join(' and ')} on: the take will not be dry.` : null}
        {input.kind === 'microphone' && open?.result.processing.length === 0
          ? 'Echo cancellation, noise suppression and automatic gain are off: the voice is taken as it is.'
          : null}
      </Text>
      {open ? <OutputChoice busy={busy} /> : null}
    </Card>
  )
}

function OutputChoice({ busy }: { busy: boolean }) {
  const outputId = useBoothSettings(state => state.outputId)
  const outputs = useDevices('audiooutput', Engine.canChooseOutput)
  if (!Engine.canChooseOutput || outputs.length < 2) return null
  return (
    <Flex mt={2} gap={2} align="center">
      <Text color="ink.soft">Heard on</Text>
      <DeviceSelect label="Output" fallback="The default output" value={outputId} devices={outputs} disabled={busy} onChoose={id => void chooseOutput(id)} />
    </Flex>
  )
}

interface DeviceSelectProps {
  label: string
  fallback: string
  value: string | null
  devices: { deviceId: string; label: string }[]
  disabled: boolean
  onChoose: (deviceId: string | null) => void
}

function DeviceSelect({ label, fallback, value, devices, disabled, onChoose }: DeviceSelectProps) {
  return (
    <NativeSelect.Root size="sm" width="210px" disabled={disabled}>
      <NativeSelect.Field aria-label={label} bg="card" borderColor="seamline" value={value ?? ''} onChange={event => onChoose(event.target.value || null)}>
        <option value="">{fallback}</option>
        {devices.map(device => (
          <option key={device.deviceId} value={device.deviceId}>
            {device.label || label}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  )
}

/** The practice singer's simulated interface, as good or bad as one likes to practise with. */
function Simulated({ busy }: { busy: boolean }) {
  const simulated = useBoothSettings(state => state.simulated)
  const change = (part: Partial<InterfaceSettings>) => {
    const settings = { ...simulated, ...part }
    setBooth({ simulated: settings })
    const { engine } = useLive.getState()
    engine?.setInterface(settings)
    if (engine) void devicesOpened(engine)
  }
  const milliseconds = (frames: number) => (1_000 * frames) / SAMPLE_RATE_HZ
  return (
    <Box mt={2}>
      <Text color="ink.soft" fontSize="12px">
        It stands in for a voice: it sings the sheet over the same path as a microphone, through a simulated interface.
      </Text>
      <Flex gap={3} mt={1} wrap="wrap" align="center" color="ink.soft" aria-disabled={busy}>
        <span>
          Round trip{' '}
          <NumberField
            label="Simulated round trip"
            value={milliseconds(simulated.roundTripFrames)}
            min={milliseconds(ROUND_TRIP_RANGE_FRAMES.min)}
            max={milliseconds(ROUND_TRIP_RANGE_FRAMES.max)}
            unit="ms"
            width="52px"
            onKeep={value => change({ roundTripFrames: Math.round(value * 48) })}
          />
        </span>
        <span>
          Room noise{' '}
          <NumberField
            label="Simulated room noise"
            value={simulated.noiseDbfs}
            min={-120}
            max={-20}
            digits={0}
            unit="dBFS"
            width="52px"
            onKeep={noiseDbfs => change({ noiseDbfs })}
          />
        </span>
        <span>
          Hum{' '}
          <NumberField
            label="Simulated hum"
            value={simulated.humDbfs}
            min={-120}
            max={-20}
            digits={0}
            unit="dBFS"
            width="52px"
            onKeep={humDbfs => change({ humDbfs })}
          />
        </span>
        <span>
          Leak{' '}
          <NumberField
            label="Simulated leak of the headphones"
            value={simulated.leakDecibels}
            min={-100}
            max={0}
            digits={0}
            unit="dB"
            width="52px"
            onKeep={leakDecibels => change({ leakDecibels })}
          />
        </span>
        <Pill size="xs" chosen={simulated.leakDecibels === 0} onClick={() => change({ leakDecibels: simulated.leakDecibels === 0 ? -100 : 0 })}>
          Hold a cup to the microphone
        </Pill>
      </Flex>
    </Box>
  )
}

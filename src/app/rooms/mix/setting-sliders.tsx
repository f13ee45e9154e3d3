/** The settings of an effect, one slider with its typed value each. */
import { useMemo } from 'react'
import { Flex } from '@chakra-ui/react'
import type { EffectKind } from '../../../core/effects/catalogue'
import type { Song } from '../../../core/song/schema'
import { SongSlider } from '../../shared/song-slider'
import { shownSettings, type ShownSetting } from './setting-words'

interface SettingSlidersProps {
  kind: EffectKind
  /** How a screen reader and undo name the effect. */
  of: string
  settings: Record<string, number>
  leaveOut?: readonly string[]
  command: (song: Song, settings: Record<string, number>) => Song
}

export function SettingSliders({ kind, of, settings, leaveOut = [], command }: SettingSlidersProps) {
  const shown = useMemo(() => shownSettings(kind), [kind])
  return (
    <Flex direction="column" gap="5px">
      {shown
        .filter(({ name }) => !leaveOut.includes(name))
        .map(setting => (
          <SettingSlider key={setting.name} setting={setting} of={of} value={settings[setting.name]!} command={command} />
        ))}
    </Flex>
  )
}

function SettingSlider({
  setting: { name, label, unit, factor, digits, min, max, step },
  of,
  value,
  command,
}: {
  setting: ShownSetting
  of: string
  value: number
  command: SettingSlidersProps['command']
}) {
  const change = useMemo(() => (song: Song, shown: number) => command(song, { [name]: shown / factor }), [command, name, factor])
  return (
    <SongSlider
      label={`${of}: ${label}`}
      showLabel={label}
      value={value * factor}
      min={min}
      max={max}
      step={step}
      digits={digits}
      unit={unit}
      stepLabel={`set “${label}” of ${of}`}
      command={change}
    />
  )
}

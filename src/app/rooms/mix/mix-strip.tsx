/** One voice of the mix, or the beat: level, place, send, mute, solo. */
import { Box, chakra, Flex } from '@chakra-ui/react'
import { useCallback } from 'react'
import { setBeatMix, setLayerMix } from '../../../core/mix/commands'
import type { Layer, Song } from '../../../core/song/schema'
import { GAIN_RANGE_DECIBELS } from '../../../core/song/schema'
import { TRANSPORT } from '../../../engine/shared-state'
import { formatDecibels, formatPan } from '../../shared/format'
import { SongSlider } from '../../shared/song-slider'
import { edit, useSong } from '../../song/song-store'
import { ROLE_LOOKS } from '../../theme/roles'
import { useTheme } from '../../theme/theme-store'
import { LevelBand } from './level-band'

const Switch = chakra('button', {
  base: {
    minW: '26px',
    height: '24px',
    px: 1,
    borderRadius: '7px',
    borderWidth: '1px',
    borderColor: 'seamline',
    bg: 'card',
    color: 'ink.soft',
    fontSize: '12px',
    fontWeight: 600,
    cursor: 'pointer',
    _pressed: { bg: 'ink', color: 'ground', borderColor: 'ink' },
  },
})

export function LayerStrip({ layer, index }: { layer: Layer; index: number }) {
  const { id, name } = layer
  const theme = useTheme(state => state.theme)
  const colour = ROLE_LOOKS[layer.tint][theme === 'day' ? 'day' : 'night']
  const setGain = useCallback((song: Song, gainDecibels: number) => setLayerMix(song, { layerId: id, gainDecibels }), [id])
  const setPan = useCallback((song: Song, pan: number) => setLayerMix(song, { layerId: id, pan: Math.abs(pan) < 0.03 ? 0 : pan }), [id])
  const setSend = useCallback((song: Song, sendDecibels: number) => setLayerMix(song, { layerId: id, sendDecibels }), [id])
  return (
    <StripRow
      name={name}
      place={TRANSPORT.peakLayers + index}
      colour={colour}
      muted={layer.muted}
      soloed={layer.soloed}
      onMute={() => edit(layer.muted ? `unmute ${name}` : `mute ${name}`, song => setLayerMix(song, { layerId: id, muted: !layer.muted }))}
      onSolo={() => edit(layer.soloed ? `unsolo ${name}` : `solo ${name}`, song => setLayerMix(song, { layerId: id, soloed: !layer.soloed }))}
      gain={
        <SongSlider
          label={`${name} level`}
          value={layer.gainDecibels}
          min={GAIN_RANGE_DECIBELS.min}
          max={GAIN_RANGE_DECIBELS.max}
          step={0.5}
          colour={colour}
          valueText={formatDecibels}
          stepLabel={`set ${name}'s level`}
          command={setGain}
        />
      }
      pan={
        <SongSlider
          label={`${name} place, left to right`}
          value={layer.pan}
          min={-1}
          max={1}
          step={0.05}
          digits={2}
          colour={colour}
          valueText={formatPan}
          stepLabel={`place ${name}`}
          command={setPan}
        />
      }
      send={
        <SongSlider
          label={`${name} send to the space`}
          value={layer.sendDecibels}
          min={GAIN_RANGE_DECIBELS.min}
          max={GAIN_RANGE_DECIBELS.max}
          step={0.5}
          colour={colour}
          valueText={formatDecibels}
          stepLabel={`set ${name}'s send`}
          command={setSend}
        />
      }
    />
  )
}

const setBeatGain = (song: Song, gainDecibels: number) => setBeatMix(song, { gainDecibels })
const setBeatPan = (song: Song, pan: number) => setBeatMix(song, { pan: Math.abs(pan) < 0.03 ? 0 : pan })

export function BeatStrip() {
  const beat = useSong(song => song.beat)
  const theme = useTheme(state => state.theme)
  const colour = ROLE_LOOKS.beat[theme === 'day' ? 'day' : 'night']
  return (
    <StripRow
      name="Beat"
      place={TRANSPORT.peakBeat}
      colour={colour}
      muted={beat.muted}
      soloed={beat.soloed}
      onMute={() => edit(beat.muted ? 'unmute the beat' : 'mute the beat', song => setBeatMix(song, { muted: !beat.muted }))}
      onSolo={() => edit(beat.soloed ? 'unsolo the beat' : 'solo the beat', song => setBeatMix(song, { soloed: !beat.soloed }))}
      gain={
        <SongSlider
          label="Beat level"
          value={beat.gainDecibels}
          min={GAIN_RANGE_DECIBELS.min}
          max={GAIN_RANGE_DECIBELS.max}
          step={0.5}
          colour={colour}
          valueText={formatDecibels}
          stepLabel="set the beat's level"
          command={setBeatGain}
        />
      }
      pan={
        <SongSlider
          label="Beat place, left to right"
          value={beat.pan}
          min={-1}
          max={1}
          step={0.05}
          digits={2}
          colour={colour}
          valueText={formatPan}
          stepLabel="place the beat"
          command={setBeatPan}
        />
      }
      send={null}
    />
  )
}

interface StripRowProps {
  name: string
  place: number
  colour: string
  muted: boolean
  soloed: boolean
  onMute: () => void
  onSolo: () => void
  gain: React.ReactNode
  pan: React.ReactNode
  send: React.ReactNode
}

function StripRow({ name, place, colour, muted, soloed, onMute, onSolo, gain, pan, send }: StripRowProps) {
  return (
    <Box role="group" aria-label={name} py="3px" opacity={muted ? 0.75 : 1}>
      <Flex align="center" gap={2}>
        <Box flex="0 0 92px" fontWeight={600} truncate title={name}>
          {name}
        </Box>
        <Box flex="1 1 auto" minW={0} position="relative">
          <LevelBand place={place} colour={colour} />
          <Box position="relative">{gain}</Box>
        </Box>
        <Switch aria-pressed={muted} aria-label={`Mute ${name}`} title="Mute" onClick={onMute}>
          M
        </Switch>
        <Switch aria-pressed={soloed} aria-label={`Solo ${name}`} title="Solo" onClick={onSolo}>
          S
        </Switch>
      </Flex>
      <Flex align="center" gap={3} pl="100px" mt="1px" color="ink.soft" fontSize="12px">
        <Box>place</Box>
        <Box flex="1 1 50%" minW={0}>
          {pan}
        </Box>
        {send ? (
          <>
            <Box>send</Box>
            <Box flex="1 1 50%" minW={0}>
              {send}
            </Box>
          </>
        ) : (
          <Box flex="1 1 50%" />
        )}
      </Flex>
    </Box>
  )
}

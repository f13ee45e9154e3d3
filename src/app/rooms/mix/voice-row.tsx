/** A voice as a line of cloth, or the beat: its stitch as long as it is loud, its place a dot on a short line. */
import { Box, chakra, Flex } from '@chakra-ui/react'
import { useCallback, useMemo, type ReactNode } from 'react'
import { setBeatMix, setLayerMix } from '../../../core/mix/commands'
import { GAIN_RANGE_DECIBELS, type Layer, type Song } from '../../../core/song/schema'
import { BeatCloth } from '../../shared/beat-cloth'
import { formatDecibels, formatPan } from '../../shared/format'
import { SongSlider } from '../../shared/song-slider'
import { edit, useSong } from '../../song/song-store'
import { ROLE_LOOKS, useRoleColour } from '../../theme/roles'
import { LevelBand } from './level-band'
import { DoneTo } from './done-to'
import { chooseVoice, useMix } from './mix-store'
import { VoiceCloth } from './voice-cloth'

const Switch = chakra('button', {
  base: {
    minW: '24px',
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

const Name = chakra('button', {
  base: {
    flex: '0 0 96px',
    minW: 0,
    height: '28px',
    px: '6px',
    borderRadius: '8px',
    borderWidth: '1px',
    borderColor: 'transparent',
    fontWeight: 600,
    textAlign: 'left',
    overflow: 'hidden',
    textOverflow: 'ellipsis',
    whiteSpace: 'nowrap',
    cursor: 'pointer',
    _pressed: { bg: 'card', borderColor: 'brand', borderStyle: 'dashed' },
  },
})

export function useWholeSong() {
  const endFrame = useSong(song => song.beat.frames)
  return useMemo(() => ({ startFrame: 0, endFrame }), [endFrame])
}

const nearMiddle = (pan: number) => (Math.abs(pan) < 0.03 ? 0 : pan)

export function LayerRow({ layer, view }: { layer: Layer; view: { startFrame: number; endFrame: number } }) {
  const { id, name } = layer
  const colour = useRoleColour(layer.tint)
  const chosen = useMix(state => state.layerId === id)
  const setGain = useCallback((song: Song, gainDecibels: number) => setLayerMix(song, { layerId: id, gainDecibels }), [id])
  const setPan = useCallback((song: Song, pan: number) => setLayerMix(song, { layerId: id, pan: nearMiddle(pan) }), [id])
  return (
    <Row
      name={name}
      shownName={
        <Name aria-pressed={chosen} title={`${name}: its own recipe and ride`} onClick={() => chooseVoice(id)}>
          {name}
        </Name>
      }
      muted={layer.muted}
      soloed={layer.soloed}
      onMute={() => edit(layer.muted ? `unmute ${name}` : `mute ${name}`, song => setLayerMix(song, { layerId: id, muted: !layer.muted }))}
      onSolo={() => edit(layer.soloed ? `unsolo ${name}` : `solo ${name}`, song => setLayerMix(song, { layerId: id, soloed: !layer.soloed }))}
      done={<DoneTo layer={layer} />}
      gain={
        <SongSlider
          label={`${name} level`}
          value={layer.gainDecibels}
          {...LEVEL}
          colour={colour}
          stitch={ROLE_LOOKS[layer.tint].dashes}
          under={
            <>
              <VoiceCloth layerId={id} view={view} colour={colour} reach={6} />
              <LevelBand of={id} colour={colour} />
            </>
          }
          stepLabel={`set ${name}'s level`}
          command={setGain}
        />
      }
      pan={<SongSlider label={`${name} place, left to right`} value={layer.pan} {...PLACE} colour={colour} stepLabel={`place ${name}`} command={setPan} />}
    />
  )
}

const LEVEL = { min: GAIN_RANGE_DECIBELS.min, max: GAIN_RANGE_DECIBELS.max, step: 0.5, unit: 'dB', fieldWidth: '48px', valueText: formatDecibels }
const PLACE = { min: -1, max: 1, step: 0.05, digits: 2, fieldWidth: '42px', valueText: formatPan, fromNowhere: true }

const setBeatGain = (song: Song, gainDecibels: number) => setBeatMix(song, { gainDecibels })
const setBeatPan = (song: Song, pan: number) => setBeatMix(song, { pan: nearMiddle(pan) })

export function BeatRow({ view }: { view: { startFrame: number; endFrame: number } }) {
  const beat = useSong(song => song.beat)
  const colour = useRoleColour('beat')
  return (
    <Row
      name="Beat"
      shownName={
        <Box flex="0 0 96px" px="6px" fontWeight={600}>
          Beat
        </Box>
      }
      muted={beat.muted}
      soloed={beat.soloed}
      onMute={() => edit(beat.muted ? 'unmute the beat' : 'mute the beat', song => setBeatMix(song, { muted: !beat.muted }))}
      onSolo={() => edit(beat.soloed ? 'unsolo the beat' : 'solo the beat', song => setBeatMix(song, { soloed: !beat.soloed }))}
      gain={
        <SongSlider
          label="Beat level"
          value={beat.gainDecibels}
          {...LEVEL}
          colour={colour}
          under={
            <>
              <BeatCloth view={view} label="" aria-hidden position="absolute" inset="-6px 0" opacity={0.3} pointerEvents="none" />
              <LevelBand of="beat" colour={colour} />
            </>
          }
          stepLabel="set the beat's level"
          command={setBeatGain}
        />
      }
      pan={<SongSlider label="Beat place, left to right" value={beat.pan} {...PLACE} colour={colour} stepLabel="place the beat" command={setBeatPan} />}
    />
  )
}

interface RowProps {
  name: string
  shownName: ReactNode
  muted: boolean
  soloed: boolean
  onMute: () => void
  onSolo: () => void
  gain: ReactNode
  pan: ReactNode
  /** What is done to it. */
  done?: ReactNode
}

function Row({ name, shownName, muted, soloed, onMute, onSolo, gain, pan, done }: RowProps) {
  return (
    <Flex role="group" aria-label={name} align="center" gap={2} minH="50px" opacity={muted ? 0.7 : 1}>
      {shownName}
      <Box flex="1 1 auto" minW={0}>
        {gain}
        {done}
      </Box>
      {/* In a narrow window the stage in Stack has the places. */}
      <Box flex="0 0 112px" display={{ base: 'none', md: 'block' }}>
        {pan}
      </Box>
      <Switch aria-pressed={muted} aria-label={`Mute ${name}`} title="Mute" onClick={onMute}>
        M
      </Switch>
      <Switch aria-pressed={soloed} aria-label={`Solo ${name}`} title="Solo" onClick={onSolo}>
        S
      </Switch>
    </Flex>
  )
}

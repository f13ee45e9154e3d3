/** Where each voice stands: the stage, presets, what near and far do, and what is lost in mono. */
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { decibelsOfDistance } from '../../../core/mix/far'
import { alternateSides, partnerOf, pansOfWidth, placeLayer, setStage, setWidth, WIDTHS } from '../../../core/mix/stage'
import type { Layer, LayerId, Song } from '../../../core/song/schema'
import { DISTANCE_RANGE, STAGE_RANGES, type Stage } from '../../../core/song/stage-schema'
import { LayerSelect } from '../../shared/layer-select'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { edit, useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { MonoCheck } from './mono-check'
import { StagePicture } from './stage-picture'

const RULE_NAMES: Record<keyof Stage, string> = { levelDecibels: 'Level at the back', airDecibels: 'Air at the back', sendDecibels: 'Sends at the back' }

export function StageCard() {
  const song = useSong(current => current)
  const layerId = useView(state => state.layerId)
  const [mirrored, setMirrored] = useState(true)
  const layer = song.layers.find(({ id }) => id === layerId) ?? song.layers[0]!
  const choose = (id: LayerId) => useView.setState({ layerId: id })
  const isWidth = (width: (typeof WIDTHS)[number]) => {
    const pans = pansOfWidth(song, width)
    return song.layers.every(({ id, role, pan, panRide }) => role === 'spare' || (pan === pans.get(id) && panRide.length === 0))
  }
  return (
    <Card>
      <Flex align="center" gap={2} wrap="wrap">
        <CardTitle>Where each stands</CardTitle>
        <Flex gap="6px" role="group" aria-label="How wide the stack is">
          {WIDTHS.map(width => (
            <Pill key={width} size="xs" px={3} chosen={isWidth(width)} onClick={() => edit(`a ${width} stack`, current => setWidth(current, { width }))}>
              {width}
            </Pill>
          ))}
        </Flex>
        <Box flex="1" />
        <Pill size="xs" px={3} chosen={mirrored} onClick={() => setMirrored(!mirrored)} title="The other of a pair moves as a mirror image">
          pairs move together
        </Pill>
      </Flex>
      <Grid templateColumns={{ base: 'minmax(0, 1fr)', md: 'minmax(0, 1.7fr) minmax(0, 1fr)' }} gap={4} mt={2} alignItems="start">
        <StagePicture chosen={layer.id} mirrored={mirrored} onChoose={choose} />
        <Flex direction="column" gap={2}>
          <PlaceOf song={song} layer={layer} mirrored={mirrored} />
          <Box borderTopWidth="1px" borderColor="seamline" />
          <Rule stage={song.stage} />
        </Flex>
      </Grid>
      <MonoCheck />
    </Card>
  )
}

function PlaceOf({ song, layer, mirrored }: { song: Song; layer: Layer; mirrored: boolean }) {
  const partner = partnerOf(song, layer)
  const place = (label: string, change: { pan?: number; distance?: number }) =>
    edit(label, current => placeLayer(current, { layerId: layer.id, mirrored, ...change }))
  const far = decibelsOfDistance(song.stage, layer.distance)
  return (
    <>
      <Flex align="center" gap={2}>
        <LayerSelect label="Voice on the stage" size="xs" layerId={layer.id} layers={song.layers} />
        <Text color="ink.soft" truncate>
          {partner && mirrored ? `with ${partner.name}` : ''}
        </Text>
      </Flex>
      <Flex align="center" gap={2} wrap="wrap">
        <Text>Left to right</Text>
        <NumberField
          label={`${layer.name}, left to right`}
          value={layer.pan}
          min={-1}
          max={1}
          digits={2}
          onKeep={pan => place(`place ${layer.name}`, { pan })}
        />
        <Text>far</Text>
        <NumberField
          label={`${layer.name}, how far`}
          value={100 * layer.distance}
          min={100 * DISTANCE_RANGE.min}
          max={100 * DISTANCE_RANGE.max}
          unit="%"
          digits={0}
          width="48px"
          onKeep={percent => place(`place ${layer.name}`, { distance: percent / 100 })}
        />
      </Flex>
      <Text color="ink.soft" fontSize="13px">
        {layer.distance === 0
          ? 'In front: nothing is taken from it.'
          : `${signed(far.levelDecibels)} dB level, ${signed(far.airDecibels)} dB air, ${signed(far.sendDecibels)} dB into the rooms.`}
        {layer.panRide.length > 0 ? ' Its place is ridden over the song.' : ''}
      </Text>
      {layer.role === 'ad-lib' ? <Alternate layer={layer} /> : null}
    </>
  )
}

function signed(decibels: number): string {
  return `${decibels < 0 ? '−' : '+'}${Math.abs(decibels).toFixed(1)}`
}

const USUAL_SIDE = 0.6

/** Ad-libs answer from one side and the other. */
function Alternate({ layer }: { layer: Layer }) {
  const width = layer.panRide.reduce((most, { value }) => Math.max(most, Math.abs(value)), 0)
  const set = (pan: number) =>
    edit(pan === 0 ? `${layer.name} on its own side` : `${layer.name} from side to side`, song => alternateSides(song, { layerId: layer.id, pan }))
  return (
    <Flex align="center" gap={2} wrap="wrap">
      <Pill size="xs" px={3} chosen={width > 0} onClick={() => set(width > 0 ? 0 : USUAL_SIDE)}>
        every other line to the other side
      </Pill>
      {width > 0 ? <NumberField label="How far to each side" value={width} min={0} max={1} digits={2} width="48px" onKeep={set} /> : null}
    </Flex>
  )
}

function Rule({ stage }: { stage: Stage }) {
  return (
    <Box role="group" aria-label="What distance does">
      <Text color="ink.soft" fontSize="13px">
        What distance does, all the way back:
      </Text>
      <Flex direction="column" gap="4px" mt={1}>
        {(Object.keys(RULE_NAMES) as (keyof Stage)[]).map(name => (
          <Flex key={name} align="center" justify="space-between">
            <Text fontSize="13px">{RULE_NAMES[name]}</Text>
            <NumberField
              label={RULE_NAMES[name]}
              value={stage[name]}
              {...STAGE_RANGES[name]}
              unit="dB"
              width="52px"
              onKeep={value => edit(`${RULE_NAMES[name].toLowerCase()}: ${value} dB`, song => setStage(song, { [name]: value }))}
            />
          </Flex>
        ))}
      </Flex>
    </Box>
  )
}

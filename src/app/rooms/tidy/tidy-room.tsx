/** Tidy: is it clean and in tune? */
import { Box, Grid } from '@chakra-ui/react'
import { useEffect } from 'react'
import type { StretchGain } from '../../../core/edits/stretch-level'
import type { Layer } from '../../../core/song/schema'
import { count } from '../../shared/format'
import { LayerSelect } from '../../shared/layer-select'
import { NoLayers } from '../../shared/no-layers'
import { EmptyState, KeyCap, Notice, PrimaryButton, RoomHeading } from '../../shared/parts'
import { hearTheSong } from '../../song/equal-loudness'
import { useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { AsSung } from './as-sung'
import { CleanCard } from './clean-card'
import { Ladder } from './ladder'
import { StretchBar } from './stretch-bar'
import { useShownLine } from './shown-line'
import { layUsual } from './tidying'
import { lookAtNote, useTidy } from './tidy-store'
import { TuneCard } from './tune-card'
import { useEven } from './use-even'
import { useLine, type Line } from './use-line'
import { useStretch } from './use-stretch'
import { useTidyKeys } from './use-tidy-keys'

export function TidyRoom() {
  const layers = useSong(song => song.layers)
  const layerId = useView(state => state.layerId)
  const layer = layers.find(entry => entry.id === layerId) ?? layers[0]
  useEffect(() => {
    useTidy.setState({ hint: null, free: null, evenDecibels: null })
    return hearTheSong
  }, [layerId])
  if (!layer) return <NoLayers why="Here each is made clean and in tune." />
  return <LayerTidy layer={layer} layers={layers} />
}

const NONE: readonly StretchGain[] = []

function LayerTidy({ layer, layers }: { layer: Layer; layers: readonly Layer[] }) {
  const line = useLine(layer)
  const stretch = useStretch(line)
  const even = useEven(line)
  useTidyKeys(line, stretch)
  const hint = useTidy(state => state.hint)
  const shown = useShownLine(line, stretch)
  return (
    <>
      <RoomHeading above={aboveOf(line)} title="Is it clean and in tune?">
        <LayerSelect size="sm" layerId={layer.id} layers={layers} />
        <AsSung layerId={layer.id} />
        <NextStep layer={layer} layers={layers} />
      </RoomHeading>
      {hint ? (
        <Box mb={2}>
          <Notice tone="warn" title="Nothing was changed">
            {hint}
          </Notice>
        </Box>
      ) : null}
      {line.isPlayed ? (
        <>
          <Ladder {...shown} proposed={even?.gains ?? NONE} onNote={lookAtNote} />
          <StretchBar line={line} stretch={stretch} even={even} />
        </>
      ) : (
        <EmptyState text={`${layer.name} plays nothing here. Sing it in the Booth, or pick a take in Comp.`} />
      )}
      <Grid templateColumns={{ base: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) minmax(0, 1fr)' }} gap={3} mt={2} alignItems="start">
        <CleanCard line={line} />
        <TuneCard line={line} />
      </Grid>
    </>
  )
}

/** Both at once, as the role usually is; then the next layer. */
function NextStep({ layer, layers }: { layer: Layer; layers: readonly Layer[] }) {
  const next = layers[layers.indexOf(layer) + 1]
  if (!layer.tidy && !layer.tune) return <PrimaryButton onClick={() => layUsual(layer)}>Tidy and tune</PrimaryButton>
  return (
    <PrimaryButton disabled={!next} onClick={() => next && useView.setState({ layerId: next.id })}>
      Next layer <KeyCap>]</KeyCap>
    </PrimaryButton>
  )
}

function aboveOf({ layer, title, notes, isListening }: Line): string {
  const moved = notes.filter(({ left }) => left === null).length
  const left = layer.tune ? `${moved} moved, ${notes.length - moved} left` : null
  return [layer.name, title, isListening ? 'listening …' : count(notes.length, 'note'), isListening ? null : left].filter(Boolean).join(' · ')
}

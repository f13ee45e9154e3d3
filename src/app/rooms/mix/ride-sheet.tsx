/** A voice's ride: its level over the selected stretch, drawn as points over its cloth. */
import { Box, chakra, Flex, Grid, NativeSelect, Text } from '@chakra-ui/react'
import { X } from 'lucide-react'
import { useEffect, useRef, useState, type PointerEvent } from 'react'
import { beatAtFrame, frameOfBeat } from '../../../core/beat/grid'
import { decibelsAt } from '../../../core/mix/lane'
import { moveRidePoint, removeRidePoints, setRidePoint } from '../../../core/mix/rides'
import type { RidePoint } from '../../../core/song/mix-schema'
import { GAIN_RANGE_DECIBELS, type Layer } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import { formatDecibels } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill, SmallButton } from '../../shared/parts'
import { playheadFrame } from '../../song/live'
import { edit, tryOut, useSong, useSongStore } from '../../song/song-store'
import { rangeOf, useView } from '../../song/view-store'
import { useRoleColour } from '../../theme/roles'
import { useMix } from './mix-store'
import { VoiceCloth } from './voice-cloth'

const HEIGHT = 170
/** What the picture shows; typed points may lie lower. */
const TOP_DECIBELS = 12
const BOTTOM_DECIBELS = -24
const STEP_DECIBELS = 0.5

export function RideSheet() {
  const layers = useSong(song => song.layers)
  const asked = useMix(state => state.layerId)
  const layer = layers.find(entry => entry.id === asked) ?? layers[0]
  if (!layer) return null
  return (
    <Card p={3}>
      <Flex justify="space-between" align="center" gap={2} mb={1}>
        <CardTitle>Level over time</CardTitle>
        <NativeSelect.Root size="xs" flex="1">
          <NativeSelect.Field
            aria-label="Whose level"
            bg="card"
            borderColor="seamline"
            value={layer.id}
            onChange={event => useMix.setState({ layerId: layers.find(entry => entry.id === event.target.value)!.id })}
          >
            {layers.map(({ id, name }) => (
              <option key={id} value={id}>
                of {name}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </Flex>
      <RideOf key={layer.id} layer={layer} />
    </Card>
  )
}

function RideOf({ layer }: { layer: Layer }) {
  const { id, name } = layer
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const trial = useSongStore(state => state.trial?.layers.find(entry => entry.id === id)?.ride)
  const { grid } = song.beat
  const view = rangeOf(song, selection)
  const ride = trial ?? layer.ride
  const shown = ride.filter(point => point.frame >= view.startFrame && point.frame < view.endFrame)
  const add = (frame: number) =>
    edit(`add a point to ${name}'s ride`, current => setRidePoint(current, { layerId: id, frame, gainDecibels: decibelsAt(layer.ride, frame) }))
  return (
    <>
      <Text color="ink.soft" fontSize="12px" mb={2}>
        Added to its level, over {selection.kind === 'song' ? 'the whole song' : 'what is selected on the sheet'}. Click to add a point, drag it, Delete takes
        it away.
      </Text>
      <RidePicture layer={layer} ride={ride} view={view} onAdd={add} />
      <Flex gap={2} my={2}>
        <Pill size="xs" px={3} onClick={() => add(Math.round(playheadFrame()))}>
          Point at the playhead
        </Pill>
        <Pill
          size="xs"
          px={3}
          disabled={shown.length === 0}
          onClick={() => edit(`clear ${name}'s ride`, current => removeRidePoints(current, { layerId: id, frames: shown.map(point => point.frame) }))}
        >
          Clear
        </Pill>
      </Flex>
      <Grid templateColumns="auto auto auto" gap="4px 8px" justifyContent="start" alignItems="center" role="list" aria-label="Points">
        {shown.map(({ frame, gainDecibels }, i) => {
          const bar = beatAtFrame(grid, frame) / grid.beatsPerBar + 1
          const move = (to: RidePoint) => edit(`move a point of ${name}'s ride`, current => moveRidePoint(current, { layerId: id, from: frame, ...to }))
          return (
            <Box role="listitem" display="contents" key={i}>
              <NumberField
                label={`Bar of point ${i + 1}`}
                value={bar}
                min={-100}
                max={5_000}
                digits={2}
                unit="bar"
                width="60px"
                onKeep={typed => move({ frame: frameOfBeat(grid, (typed - 1) * grid.beatsPerBar), gainDecibels })}
              />
              <NumberField
                label={`Level of point ${i + 1}`}
                value={gainDecibels}
                min={GAIN_RANGE_DECIBELS.min}
                max={GAIN_RANGE_DECIBELS.max}
                unit="dB"
                width="60px"
                onKeep={decibels => move({ frame, gainDecibels: decibels })}
              />
              <SmallButton
                aria-label={`Take point ${i + 1} away`}
                onClick={() => edit(`take a point of ${name}'s ride away`, current => removeRidePoints(current, { layerId: id, frames: [frame] }))}
              >
                <X size={14} aria-hidden />
              </SmallButton>
            </Box>
          )
        })}
      </Grid>
    </>
  )
}

const Point = chakra('button', {
  base: {
    position: 'absolute',
    width: '24px',
    height: '24px',
    marginLeft: '-12px',
    marginTop: '-12px',
    borderRadius: '999px',
    cursor: 'grab',
    touchAction: 'none',
    _after: { content: '""', position: 'absolute', inset: '5px', borderRadius: '999px', bg: 'card', borderWidth: '2.5px', borderColor: 'currentColor' },
  },
})

function RidePicture({ layer, ride, view, onAdd }: { layer: Layer; ride: readonly RidePoint[]; view: FrameRange; onAdd: (frame: number) => void }) {
  const { id, name } = layer
  const colour = useRoleColour(layer.tint)
  const { grid } = useSong(song => song.beat)
  const box = useRef<HTMLDivElement>(null)
  /** The point that is dragged, where it was, and where it is. */
  const [drag, setDrag] = useState<{ from: number; to: RidePoint } | null>(null)
  // The room may be left in mid-drag.
  useEffect(() => () => tryOut(null), [])
  const length = Math.max(1, view.endFrame - view.startFrame)
  const x = (frame: number) => (frame - view.startFrame) / length
  const y = (decibels: number) => (TOP_DECIBELS - Math.max(BOTTOM_DECIBELS, Math.min(TOP_DECIBELS, decibels))) / (TOP_DECIBELS - BOTTOM_DECIBELS)
  const at = (event: PointerEvent): RidePoint => {
    const { left, top, width, height } = box.current!.getBoundingClientRect()
    const across = Math.max(0, Math.min(1, (event.clientX - left) / width))
    const down = Math.max(0, Math.min(1, (event.clientY - top) / height))
    const decibels = TOP_DECIBELS - down * (TOP_DECIBELS - BOTTOM_DECIBELS)
    return { frame: Math.round(view.startFrame + across * length), gainDecibels: Math.round(decibels / STEP_DECIBELS) * STEP_DECIBELS }
  }
  const moveTo = (from: number, to: RidePoint) => edit(`move a point of ${name}'s ride`, song => moveRidePoint(song, { layerId: id, from, ...to }))
  const drop = () => {
    setDrag(null)
    tryOut(null)
  }
  const lineAt = (frame: number) => `${100 * x(frame)},${100 * y(decibelsAt(ride, frame))}`
  const inside = ride.filter(point => point.frame > view.startFrame && point.frame < view.endFrame)
  const line = [view.startFrame, ...inside.map(point => point.frame), view.endFrame].map(lineAt).join(' ')
  return (
    <Box
      ref={box}
      position="relative"
      height={`${HEIGHT}px`}
      bg="sunken"
      borderRadius="10px"
      cursor="copy"
      data-ride
      onClick={event => event.target === event.currentTarget && onAdd(at(event as unknown as PointerEvent).frame)}
    >
      <VoiceCloth layerId={id} view={view} colour={colour} />
      <svg
        viewBox="0 0 100 100"
        preserveAspectRatio="none"
        aria-hidden
        style={{ position: 'absolute', inset: 0, width: '100%', height: '100%', pointerEvents: 'none' }}
      >
        <line x1={0} x2={100} y1={100 * y(0)} y2={100 * y(0)} stroke="var(--chakra-colors-seamline)" strokeDasharray="3 3" vectorEffect="non-scaling-stroke" />
        <polyline points={line} fill="none" stroke={colour} strokeWidth={2} vectorEffect="non-scaling-stroke" />
      </svg>
      {[0, -12].map(decibels => (
        <Text key={decibels} position="absolute" left="6px" top={`calc(${100 * y(decibels)}% - 16px)`} color="ink.soft" fontSize="11px" pointerEvents="none">
          {decibels} dB
        </Text>
      ))}
      {layer.ride.map((kept, i) => {
        const point = drag?.from === kept.frame ? drag.to : kept
        if (point.frame < view.startFrame || point.frame >= view.endFrame) return null
        const bar = beatAtFrame(grid, kept.frame) / grid.beatsPerBar + 1
        return (
          <Point
            key={i}
            aria-label={`Point at bar ${bar.toFixed(2)}, ${formatDecibels(kept.gainDecibels, -Infinity)}: arrows move it, Delete takes it away`}
            color={colour}
            style={{ left: `${100 * x(point.frame)}%`, top: `${100 * y(point.gainDecibels)}%` }}
            onPointerDown={event => {
              event.currentTarget.setPointerCapture(event.pointerId)
              setDrag({ from: kept.frame, to: kept })
            }}
            onPointerMove={event => {
              if (!drag) return
              const to = at(event)
              setDrag({ from: drag.from, to })
              tryOut(song => moveRidePoint(song, { layerId: id, from: drag.from, ...to }))
            }}
            onPointerUp={() => {
              if (drag && drag.to !== kept) moveTo(drag.from, drag.to)
              drop()
            }}
            onPointerCancel={drop}
            onKeyDown={event => {
              const beat = frameOfBeat(grid, 1) - frameOfBeat(grid, 0)
              const moves: Record<string, RidePoint> = {
                ArrowLeft: { ...kept, frame: kept.frame - Math.round(beat / 4) },
                ArrowRight: { ...kept, frame: kept.frame + Math.round(beat / 4) },
                ArrowUp: { ...kept, gainDecibels: kept.gainDecibels + STEP_DECIBELS },
                ArrowDown: { ...kept, gainDecibels: kept.gainDecibels - STEP_DECIBELS },
              }
              const to = moves[event.key]
              if (to) moveTo(kept.frame, to)
              else if (event.key === 'Delete' || event.key === 'Backspace')
                edit(`take a point of ${name}'s ride away`, song => removeRidePoints(song, { layerId: id, frames: [kept.frame] }))
              else if (event.key === 'Escape' && drag) drop()
              else return
              event.preventDefault()
              event.stopPropagation()
            }}
          />
        )
      })}
    </Box>
  )
}

/** A voice's ride: its level, its place or what it sends into a space over the selected stretch, drawn as points over its cloth. */
import { Box, chakra, Flex, Grid, NativeSelect, Text } from '@chakra-ui/react'
import { X } from 'lucide-react'
import { useEffect, useRef, useState, type PointerEvent } from 'react'
import { beatAtFrame, frameOfBeat } from '../../../core/beat/grid'
import { laneOf, valueAt } from '../../../core/mix/lane'
import { moveRidePoint, removeRidePoints, rideOf, setRidePoint, unriddenValue, type Ridden } from '../../../core/mix/rides'
import type { LanePoint } from '../../../core/song/mix-schema'
import type { Layer } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill, SmallButton } from '../../shared/parts'
import { playheadFrame } from '../../song/live'
import { edit, tryOut, useSong, useSongStore } from '../../song/song-store'
import { rangeOf, useView } from '../../song/view-store'
import { useRoleColour } from '../../theme/roles'
import { useMix } from './mix-store'
import { RideProposal } from './ride-proposal'
import { lookOf, type RideLook } from './ride-words'
import { VoiceCloth } from './voice-cloth'

const HEIGHT = 170
const LEVEL: Ridden = { kind: 'level' }

export function RideSheet() {
  const layers = useSong(song => song.layers)
  const spaces = useSong(song => song.spaces)
  const asked = useMix(state => state.layerId)
  const wanted = useMix(state => state.ridden)
  const layer = layers.find(entry => entry.id === asked) ?? layers[0]
  if (!layer) return null
  const choices: Ridden[] = [LEVEL, { kind: 'place' }, ...spaces.map(space => ({ kind: 'send', spaceId: space.id }) as const)]
  const chosen = Math.max(
    0,
    choices.findIndex(choice => keyOf(choice) === keyOf(wanted)),
  )
  const of = choices[chosen]!
  return (
    <Card p={3}>
      <CardTitle>Over time</CardTitle>
      <Flex gap={2} my={1}>
        <Choice label="What is ridden" value={chosen} onChoose={index => useMix.setState({ ridden: choices[index]! })}>
          {choices.map(choice => `the ${lookOf(choice, spaces).name}${rideOf(layer, choice).length > 0 ? ' ·' : ''}`)}
        </Choice>
        <Choice label="Of which voice" value={layers.indexOf(layer)} onChoose={index => useMix.setState({ layerId: layers[index]!.id })}>
          {layers.map(({ name }) => `of ${name}`)}
        </Choice>
      </Flex>
      <RideOf key={`${layer.id} ${keyOf(of)}`} layer={layer} of={of} look={lookOf(of, spaces)} />
    </Card>
  )
}

function keyOf(of: Ridden): string {
  return of.kind === 'send' ? of.spaceId : of.kind
}

function Choice({ label, value, onChoose, children }: { label: string; value: number; onChoose: (index: number) => void; children: string[] }) {
  return (
    <NativeSelect.Root size="xs" flex="1 1 0" minW={0}>
      <NativeSelect.Field aria-label={label} bg="card" borderColor="seamline" value={value} onChange={event => onChoose(Number(event.target.value))}>
        {children.map((name, index) => (
          <option key={index} value={index}>
            {name}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  )
}

interface RideProps {
  layer: Layer
  of: Ridden
  look: RideLook
}

function RideOf({ layer, of, look }: RideProps) {
  const { id, name } = layer
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const tried = useSongStore(state => state.trial?.layers.find(entry => entry.id === id))
  const { grid } = song.beat
  const view = rangeOf(song, selection)
  const kept = rideOf(layer, of)
  const ride = tried ? rideOf(tried, of) : kept
  // The list follows a point that is dragged; those of a ride that is only heard cannot be moved yet.
  const listed = ride.length === kept.length ? ride : kept
  const shown = listed.filter(point => point.frame >= view.startFrame && point.frame < view.endFrame)
  const place = { layerId: id, of }
  const what = `${name}'s ${look.name}`
  const add = (frame: number) => {
    const value = kept.length > 0 ? valueAt(laneOf(kept), frame) : unriddenValue(layer, of)
    edit(`add a point to ${what}`, current => setRidePoint(current, { ...place, frame, value }))
  }
  return (
    <>
      <Text color="ink.soft" fontSize="12px" mb={2}>
        {look.means}, over {selection.kind === 'song' ? 'the whole song' : 'what is selected on the sheet'}. Click to add a point, drag it, Delete takes it
        away.
      </Text>
      <RideProposal layer={layer} of={of} what={what} />
      <RidePicture layer={layer} of={of} look={look} ride={ride} view={view} onAdd={add} />
      <Flex gap={2} my={2}>
        <Pill size="xs" px={3} onClick={() => add(Math.round(playheadFrame()))}>
          Point at the playhead
        </Pill>
        <Pill
          size="xs"
          px={3}
          disabled={shown.length === 0}
          onClick={() => edit(`clear ${what} here`, current => removeRidePoints(current, { ...place, frames: shown.map(point => point.frame) }))}
        >
          Clear
        </Pill>
      </Flex>
      <Grid templateColumns="auto auto auto" gap="4px 8px" justifyContent="start" alignItems="center" role="list" aria-label="Points">
        {shown.map(({ frame, value }, i) => {
          const bar = beatAtFrame(grid, frame) / grid.beatsPerBar + 1
          const move = (to: LanePoint) => edit(`move a point of ${what}`, current => moveRidePoint(current, { ...place, from: frame, ...to }))
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
                onKeep={typed => move({ frame: frameOfBeat(grid, (typed - 1) * grid.beatsPerBar), value })}
              />
              <NumberField
                label={`${of.kind === 'place' ? 'Place' : 'Level'} of point ${i + 1}`}
                value={value}
                {...look.field}
                width="60px"
                onKeep={typed => move({ frame, value: typed })}
              />
              <SmallButton
                aria-label={`Take point ${i + 1} away`}
                onClick={() => edit(`take a point of ${what} away`, current => removeRidePoints(current, { ...place, frames: [frame] }))}
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

interface PictureProps extends RideProps {
  ride: readonly LanePoint[]
  view: FrameRange
  onAdd: (frame: number) => void
}

function RidePicture({ layer, of, look, ride, view, onAdd }: PictureProps) {
  const { id, name } = layer
  const { top, bottom, step } = look
  const place = { layerId: id, of }
  const what = `${name}'s ${look.name}`
  const kept = rideOf(layer, of)
  const colour = useRoleColour(layer.tint)
  const { grid } = useSong(song => song.beat)
  const box = useRef<HTMLDivElement>(null)
  /** The point that is dragged, where it was, and where it is. */
  const [drag, setDrag] = useState<{ from: number; to: LanePoint } | null>(null)
  // The room may be left in mid-drag.
  useEffect(() => () => tryOut(null), [])
  const length = Math.max(1, view.endFrame - view.startFrame)
  const x = (frame: number) => (frame - view.startFrame) / length
  const y = (value: number) => (top - Math.max(bottom, Math.min(top, value))) / (top - bottom)
  const at = (event: PointerEvent): LanePoint => {
    const { left, top: above, width, height } = box.current!.getBoundingClientRect()
    const across = Math.max(0, Math.min(1, (event.clientX - left) / width))
    const down = Math.max(0, Math.min(1, (event.clientY - above) / height))
    return { frame: Math.round(view.startFrame + across * length), value: Math.round((top - down * (top - bottom)) / step) * step }
  }
  const moveTo = (from: number, to: LanePoint) => edit(`move a point of ${what}`, song => moveRidePoint(song, { ...place, from, ...to }))
  const drop = () => {
    setDrag(null)
    tryOut(null)
  }
  const lane = laneOf(ride)
  const lineValue = (frame: number) => (ride.length > 0 ? valueAt(lane, frame) : unriddenValue(layer, of))
  const lineAt = (frame: number) => `${100 * x(frame)},${100 * y(lineValue(frame))}`
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
      {look.marks.map(mark => (
        <Text key={mark} position="absolute" left="6px" top={`calc(${100 * y(mark)}% - 16px)`} color="ink.soft" fontSize="11px" pointerEvents="none">
          {look.format(mark)}
        </Text>
      ))}
      {kept.map((held, i) => {
        const point = drag?.from === held.frame ? drag.to : held
        if (point.frame < view.startFrame || point.frame >= view.endFrame) return null
        const bar = beatAtFrame(grid, held.frame) / grid.beatsPerBar + 1
        return (
          <Point
            key={i}
            aria-label={`Point at bar ${bar.toFixed(2)}, ${look.format(held.value)}: arrows move it, Delete takes it away`}
            color={colour}
            style={{ left: `${100 * x(point.frame)}%`, top: `${100 * y(point.value)}%` }}
            onPointerDown={event => {
              event.currentTarget.setPointerCapture(event.pointerId)
              setDrag({ from: held.frame, to: held })
            }}
            onPointerMove={event => {
              if (!drag) return
              const to = at(event)
              setDrag({ from: drag.from, to })
              tryOut(song => moveRidePoint(song, { ...place, from: drag.from, ...to }))
            }}
            onPointerUp={() => {
              if (drag && drag.to !== held) moveTo(drag.from, drag.to)
              drop()
            }}
            onPointerCancel={drop}
            onKeyDown={event => {
              const beat = frameOfBeat(grid, 1) - frameOfBeat(grid, 0)
              const moves: Record<string, LanePoint> = {
                ArrowLeft: { ...held, frame: held.frame - Math.round(beat / 4) },
                ArrowRight: { ...held, frame: held.frame + Math.round(beat / 4) },
                ArrowUp: { ...held, value: held.value + step },
                ArrowDown: { ...held, value: held.value - step },
              }
              const to = moves[event.key]
              if (to) moveTo(held.frame, to)
              else if (event.key === 'Delete' || event.key === 'Backspace')
                edit(`take a point of ${what} away`, song => removeRidePoints(song, { ...place, frames: [held.frame] }))
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

/** The stage from above: left to right, near to far, each voice as its stitch. The listener sits below the middle. */
import { Box, chakra } from '@chakra-ui/react'
import { useMemo, useRef, type KeyboardEvent, type PointerEvent } from 'react'
import { placeLayer, type StagePlace } from '../../../core/mix/stage'
import type { Layer, LayerId } from '../../../core/song/schema'
import { formatPan } from '../../shared/format'
import { useTrial } from '../../shared/use-trial'
import { useWidth } from '../../shared/use-width'
import { edit, tryOut, useSong, useSongStore } from '../../song/song-store'
import { ROLE_LOOKS, useRoleColour } from '../../theme/roles'

const HEIGHT = 256
const LABEL = { width: 80, height: 24, abovePin: 12 }
const EDGE = { x: 46, top: 34, bottom: 34 }
const STEP = 0.05

const Spot = chakra('button', {
  base: {
    position: 'absolute',
    width: `${LABEL.width}px`,
    height: `${LABEL.height}px`,
    borderRadius: '9px',
    bg: 'card',
    borderWidth: '1px',
    borderColor: 'seamline',
    fontSize: '12px',
    fontWeight: 600,
    lineHeight: '14px',
    px: '4px',
    whiteSpace: 'nowrap',
    textOverflow: 'ellipsis',
    cursor: 'grab',
    touchAction: 'none',
    overflow: 'hidden',
    _pressed: { borderColor: 'brand', borderStyle: 'dashed', zIndex: 1 },
  },
})

export function StagePicture({ chosen, mirrored, onChoose }: { chosen: LayerId | null; mirrored: boolean; onChoose: (id: LayerId) => void }) {
  // The picture follows while a voice is moved.
  const kept = useSong(song => song.layers)
  const tried = useSongStore(state => state.trial?.layers ?? null)
  const layers = tried ?? kept
  const box = useRef<HTMLDivElement>(null)
  const width = useWidth(box)
  const labels = labelsOf(layers, width)
  return (
    <Box ref={box} position="relative" height={`${HEIGHT}px`} bg="sunken" borderRadius="card" role="group" aria-label="The stage, seen from above">
      {width > 0 ? (
        <>
          <svg aria-hidden width={width} height={HEIGHT} style={{ position: 'absolute', inset: 0 }}>
            {[0.34, 0.67, 1].map(far => (
              <path
                key={far}
                d={`M ${EDGE.x} ${yOf(far)} Q ${width / 2} ${yOf(far) - 14} ${width - EDGE.x} ${yOf(far)}`}
                fill="none"
                stroke="var(--chakra-colors-seamline)"
                strokeDasharray="1 6"
                strokeLinecap="round"
              />
            ))}
            <line x1={width / 2} x2={width / 2} y1={EDGE.top - 8} y2={HEIGHT - 20} stroke="var(--chakra-colors-seamline)" strokeDasharray="1 6" />
            {layers.map((layer, i) => (
              <Pin key={layer.id} layer={layer} x={xOf(layer.pan, width)} y={yOf(layer.distance)} label={labels[i]!} />
            ))}
            <text x={10} y={16} fontSize="11" fill="var(--chakra-colors-ink-soft)">
              far
            </text>
            <text x={10} y={HEIGHT - 8} fontSize="11" fill="var(--chakra-colors-ink-soft)">
              left
            </text>
            <text x={width - 10} y={HEIGHT - 8} fontSize="11" textAnchor="end" fill="var(--chakra-colors-ink-soft)">
              right
            </text>
            <text x={width / 2} y={HEIGHT - 6} fontSize="11" textAnchor="middle" fill="var(--chakra-colors-ink-soft)">
              you
            </text>
          </svg>
          {layers.map((layer, i) => (
            <Voice
              key={layer.id}
              layer={layer}
              width={width}
              mirrored={mirrored}
              isChosen={layer.id === chosen}
              label={labels[i]!}
              onChoose={() => onChoose(layer.id)}
            />
          ))}
        </>
      ) : null}
    </Box>
  )
}

function xOf(pan: number, width: number): number {
  return width / 2 + pan * (width / 2 - EDGE.x)
}

interface Place {
  x: number
  y: number
}

/** Each label over its pin, or further up, or down where there is no more room, so that none lies on another. */
function labelsOf(layers: readonly Layer[], width: number): Place[] {
  const taken: Place[] = []
  const pins = layers.map((layer): Place => ({ x: xOf(layer.pan, width), y: yOf(layer.distance) }))
  return layers.map(layer => {
    const x = xOf(layer.pan, width)
    const pin = yOf(layer.distance)
    const rows = Array.from({ length: 16 }, (_, row) => {
      const up = pin - LABEL.abovePin - LABEL.height / 2 - row * (LABEL.height + 3)
      return up > LABEL.height / 2 + 2 ? up : pin + LABEL.abovePin + LABEL.height / 2 + (row % 8) * (LABEL.height + 3)
    })
    const isFree = (y: number) =>
      taken.every(other => Math.abs(other.x - x) >= LABEL.width + 2 || Math.abs(other.y - y) >= LABEL.height + 2) &&
      pins.every(other => Math.abs(other.x - x) >= LABEL.width / 2 + 14 || Math.abs(other.y - y) >= LABEL.height / 2 + 5)
    const y = rows.find(isFree) ?? rows[0]!
    taken.push({ x, y })
    return { x, y }
  })
}

/** Where the voice is: a short stitch, and a thread to its name. */
function Pin({ layer, x, y, label }: { layer: Layer; x: number; y: number; label: Place }) {
  const colour = useRoleColour(layer.tint)
  return (
    <>
      <line x1={x} x2={label.x} y1={y} y2={label.y} stroke={colour} strokeOpacity={0.5} />
      <line x1={x - 13} x2={x + 13} y1={y} y2={y} stroke={colour} strokeWidth={5} strokeLinecap="round" />
      <line
        x1={x - 11}
        x2={x + 11}
        y1={y}
        y2={y}
        stroke="var(--chakra-colors-card)"
        strokeWidth={1.5}
        strokeDasharray={ROLE_LOOKS[layer.tint].dashes.join(' ')}
      />
    </>
  )
}

function yOf(distance: number): number {
  return EDGE.top + (1 - distance) * (HEIGHT - EDGE.top - EDGE.bottom)
}

function Voice({
  layer,
  width,
  mirrored,
  isChosen,
  label,
  onChoose,
}: {
  layer: Layer
  width: number
  mirrored: boolean
  isChosen: boolean
  label: Place
  onChoose: () => void
}) {
  const colour = useRoleColour(layer.tint)
  const { id, name } = layer
  const actions = useMemo(
    () => ({
      try: (place: StagePlace) => tryOut(song => placeLayer(song, { layerId: id, mirrored, ...place })),
      keep: (place: StagePlace) => edit(`place ${name}`, song => placeLayer(song, { layerId: id, mirrored, ...place })),
      drop: () => tryOut(null),
    }),
    [id, name, mirrored],
  )
  const trial = useTrial<StagePlace>({}, actions)
  const grip = useRef<{ x: number; y: number } | null>(null)
  const across = width / 2 - EDGE.x
  const x = xOf(layer.pan, width)
  const y = yOf(layer.distance)
  const placeAt = (event: PointerEvent): StagePlace => {
    const stage = event.currentTarget.parentElement!.getBoundingClientRect()
    const pan = (event.clientX - stage.left - grip.current!.x - width / 2) / across
    const distance = 1 - (event.clientY - stage.top - grip.current!.y - EDGE.top) / (HEIGHT - EDGE.top - EDGE.bottom)
    const within = (value: number, low: number) => Math.round(100 * Math.max(low, Math.min(1, value))) / 100
    return { pan: Math.abs(pan) < 0.03 ? 0 : within(pan, -1), distance: within(distance, 0) }
  }
  const onKey = (event: KeyboardEvent) => {
    const moves: Record<string, StagePlace> = {
      ArrowLeft: { pan: step(layer.pan, -STEP, -1) },
      ArrowRight: { pan: step(layer.pan, STEP, -1) },
      ArrowUp: { distance: step(layer.distance, STEP, 0) },
      ArrowDown: { distance: step(layer.distance, -STEP, 0) },
    }
    const move = moves[event.key]
    if (event.key === 'Escape' && grip.current) {
      grip.current = null
      trial.drop()
      return
    }
    if (!move || event.ctrlKey || event.metaKey || event.altKey) return
    event.preventDefault()
    event.stopPropagation()
    onChoose()
    actions.keep(move)
  }
  const letGo = () => {
    if (grip.current) trial.keep()
    grip.current = null
  }
  return (
    <Spot
      type="button"
      aria-pressed={isChosen}
      aria-label={`${name}: ${formatPan(layer.pan)}, ${farWords(layer.distance)}`}
      title={`${name}: arrow keys move it`}
      style={{ left: label.x - LABEL.width / 2, top: label.y - LABEL.height / 2, borderColor: isChosen ? undefined : colour }}
      onClick={onChoose}
      onKeyDown={onKey}
      onPointerDown={event => {
        if (event.button !== 0) return
        const stage = event.currentTarget.parentElement!.getBoundingClientRect()
        grip.current = { x: event.clientX - stage.left - x, y: event.clientY - stage.top - y }
        event.currentTarget.setPointerCapture(event.pointerId)
        onChoose()
      }}
      onPointerMove={event => {
        // The button came up where the page did not see it.
        if (event.buttons === 0) letGo()
        else if (grip.current) trial.try(placeAt(event))
      }}
      onPointerUp={letGo}
      onLostPointerCapture={letGo}
      onPointerCancel={() => {
        grip.current = null
        trial.drop()
      }}
    >
      {name}
    </Spot>
  )
}

function step(value: number, by: number, least: number): number {
  return Math.round(100 * Math.max(least, Math.min(1, value + by))) / 100
}

export function farWords(distance: number): string {
  return distance === 0 ? 'in front' : `${Math.round(100 * distance)} % of the way back`
}

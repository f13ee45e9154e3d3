/** Where each voice stands: left to right and near to far, pairs as mirror images; and the commands on it. */
import { produce } from 'immer'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { madePhrases } from '../prints/made-voices'
import { clampPan } from '../song/levels'
import type { LanePoint } from '../song/mix-schema'
import type { Layer, LayerId, Role, Song } from '../song/schema'
import { currentComp, lengthOf, overlapFrames, placedLines, requireLayer } from '../song/select'
import { DISTANCE_RANGE, STAGE_RANGES, type Stage } from '../song/stage-schema'
import { setRide } from './rides'

/** Roles whose layers are two and two the same voice, left and right. */
const PAIRED: readonly Role[] = ['double', 'high-harmony', 'low-harmony', 'octave', 'ad-lib']

/** The other of a pair: of the layers of a role the first and the second, the third and the fourth; null for one that has none. */
export function partnerOf({ layers }: Pick<Song, 'layers'>, { id, role }: Pick<Layer, 'id' | 'role'>): Layer | null {
  if (!PAIRED.includes(role)) return null
  const alike = layers.filter(layer => layer.role === role)
  return alike[alike.findIndex(layer => layer.id === id) ^ 1] ?? null
}

export interface StagePlace {
  /** -1 left to 1 right. */
  pan?: number
  /** 0 in front to 1 at the back. */
  distance?: number
}

/** Command: where a layer stands; `mirrored`: the other of its pair on the other side, as far away. A place that was ridden is held still. */
export function placeLayer(song: Song, { layerId, mirrored, pan, distance }: { layerId: LayerId; mirrored: boolean } & StagePlace): Song {
  const partner = mirrored ? partnerOf(song, requireLayer(song, layerId)) : null
  return produce(song, draft => {
    const layer = requireLayer(draft, layerId)
    const other = partner && requireLayer(draft, partner.id)
    if (pan !== undefined) {
      layer.pan = clampPan(pan)
      layer.panRide = []
      if (other) [other.pan, other.panRide] = [layer.pan === 0 ? 0 : -layer.pan, []]
    }
    if (distance !== undefined) {
      layer.distance = clampDistance(distance)
      if (other) other.distance = layer.distance
    }
  })
}

function clampDistance(distance: number): number {
  return Number.isFinite(distance) ? Math.max(DISTANCE_RANGE.min, Math.min(DISTANCE_RANGE.max, distance)) : 0
}

/** Command: what distance does, at the back of the stage. */
export function setStage(song: Song, settings: Partial<Stage>): Song {
  return produce(song, draft => {
    for (const name of Object.keys(settings) as (keyof Stage)[]) {
      const { min, max } = STAGE_RANGES[name]
      const value = settings[name]!
      if (Number.isFinite(value)) draft.stage[name] = Math.max(min, Math.min(max, value))
    }
  })
}

export const WIDTHS = ['narrow', 'even', 'wide'] as const
export type Width = (typeof WIDTHS)[number]

/** How far from the middle the first pair of a role stands: low voices near it, as in the beat their range is; high ones wide. */
const PAIR_PANS: Record<Width, Partial<Record<Role, number>>> = {
  narrow: { double: 0.25, 'high-harmony': 0.35, 'low-harmony': 0.15, octave: 0.2, 'ad-lib': 0.3 },
  even: { double: 0.6, 'high-harmony': 0.75, 'low-harmony': 0.4, octave: 0.5, 'ad-lib': 0.5 },
  wide: { double: 0.85, 'high-harmony': 1, 'low-harmony': 0.55, octave: 0.7, 'ad-lib': 0.8 },
}
/** Each further pair of a role stands so much nearer to the middle than the one before. */
const NEXT_PAIR_SHARE = 0.6

/** Where a preset has each layer, -1 to 1; the lead, and whoever has no partner, in the middle. */
export function pansOfWidth(song: Pick<Song, 'layers'>, width: Width): Map<LayerId, number> {
  return new Map(
    song.layers.map(layer => {
      const alike = song.layers.filter(other => other.role === layer.role)
      const at = alike.indexOf(layer)
      const pan = partnerOf(song, layer) ? (PAIR_PANS[width][layer.role] ?? 0) * NEXT_PAIR_SHARE ** (at >> 1) : 0
      return [layer.id, pan === 0 ? 0 : Math.round(100 * (at % 2 === 0 ? -pan : pan)) / 100]
    }),
  )
}

/** Command: all layers as wide as a preset has them. Spares stay where they are. */
export function setWidth(song: Song, { width }: { width: Width }): Song {
  const pans = pansOfWidth(song, width)
  return produce(song, draft => {
    for (const layer of draft.layers) if (layer.role !== 'spare') [layer.pan, layer.panRide] = [pans.get(layer.id)!, []]
  })
}

/** A breath before a line, or the end of one that is held, is none of the line beside it. */
const MOST_BESIDE_FRAMES = 0.5 * SAMPLE_RATE_HZ

/** Command: of what a layer plays, every other line on the other side; 0: where it stands. The first is on the left. */
export function alternateSides(song: Song, { layerId, pan }: { layerId: LayerId; pan: number }): Song {
  const layer = requireLayer(song, layerId)
  const sounding = [...currentComp(layer).picks, ...madePhrases(song, layer)].sort((a, b) => a.startFrame - b.startFrame)
  const width = Math.abs(clampPan(pan))
  const stretches = placedLines(song).flatMap(line => {
    const played = sounding.filter(stretch => overlapFrames(stretch, line) > Math.min(MOST_BESIDE_FRAMES, lengthOf(stretch) / 2))
    if (played.length === 0) return []
    const startFrame = Math.max(0, Math.round(Math.max(line.startFrame, played[0].startFrame)))
    return [{ startFrame, endFrame: Math.round(Math.min(line.endFrame, played[played.length - 1].endFrame)) }]
  })
  const points = stretches.flatMap(({ startFrame, endFrame }, i): LanePoint[] => {
    const value = i % 2 === 0 ? -width : width
    return [
      { frame: startFrame, value },
      { frame: endFrame - 1, value },
    ]
  })
  return setRide(song, { layerId, of: { kind: 'place' }, points: width === 0 ? [] : points })
}

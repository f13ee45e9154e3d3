/** What a voice plays over a stretch of the song, as a faint mirrored band. */
import { useQueries } from '@tanstack/react-query'
import { useMemo } from 'react'
import { levelFor, type Peaks } from '../../../core/audio/peaks'
import { spansOfPicks } from '../../../core/mix/pick-spans'
import type { Span } from '../../../core/mix/spans'
import type { AssetId, LayerId } from '../../../core/song/schema'
import { currentComp, requireLayer, type FrameRange } from '../../../core/song/select'
import { useSong } from '../../song/song-store'
import { peaksQuery } from '../../song/sounds'

const COLUMNS = 120
const HEIGHT = 40

function useSpans(layerId: LayerId): Span[] {
  const layer = useSong(song => requireLayer(song, layerId))
  const { picks } = currentComp(layer)
  const takes = useSong(song => song.takes)
  const song = useSong(current => current)
  // eslint-disable-next-line react-hooks/exhaustive-deps -- of the song, only the takes, the picks and what is laid over them matter.
  return useMemo(() => spansOfPicks({ picks, layer }, song), [picks, takes, layer.tidy, layer.tune])
}

/** Fills its parent, which must be positioned; `reach` pixels beyond it above and below. */
export function VoiceCloth({ layerId, view, colour, reach = 0 }: { layerId: LayerId; view: FrameRange; colour: string; reach?: number }) {
  const spans = useSpans(layerId)
  const assetIds = useMemo(() => [...new Set(spans.map(span => span.assetId))], [spans])
  const peaks = useQueries({ queries: assetIds.map(peaksQuery), combine: knownOnes })
  const path = useMemo(() => pathOf(columnsOf(spans, new Map(assetIds.map((id, i) => [id, peaks[i] ?? null])), view)), [spans, assetIds, peaks, view])
  return (
    <svg
      aria-hidden
      viewBox={`0 0 ${COLUMNS} ${HEIGHT}`}
      preserveAspectRatio="none"
      style={{ position: 'absolute', left: 0, top: -reach, width: '100%', height: `calc(100% + ${2 * reach}px)`, opacity: 0.32, pointerEvents: 'none' }}
    >
      <path d={path} fill={colour} />
    </svg>
  )
}

function knownOnes(results: { data?: Peaks | null | undefined }[]): (Peaks | null)[] {
  return results.map(result => result.data ?? null)
}

/** Peak levels, 0..1, of what sounds in each column. */
function columnsOf(spans: readonly Span[], peaks: ReadonlyMap<AssetId, Peaks | null>, { startFrame, endFrame }: FrameRange): Float32Array {
  const columns = new Float32Array(COLUMNS)
  const framesPerColumn = (endFrame - startFrame) / COLUMNS
  for (const span of spans) {
    const known = peaks.get(span.assetId)
    if (!known) continue
    const { binFrames, peak } = levelFor(known, framesPerColumn)
    const first = Math.max(0, Math.floor((span.startFrame - startFrame) / framesPerColumn))
    for (let column = first; column < COLUMNS && startFrame + column * framesPerColumn < span.endFrame; column++) {
      const from = Math.max(span.startFrame, startFrame + column * framesPerColumn) - span.originFrame
      const to = Math.min(span.endFrame, startFrame + (column + 1) * framesPerColumn) - span.originFrame
      for (let bin = Math.max(0, Math.floor(from / binFrames)); bin < Math.min(peak.length, Math.ceil(to / binFrames)); bin++)
        columns[column] = Math.max(columns[column]!, span.gain * peak[bin]!)
    }
  }
  return columns
}

/** The square root opens up what is soft. */
function pathOf(columns: Float32Array): string {
  const heights = Array.from(columns, level => (HEIGHT / 2) * Math.sqrt(Math.min(1, level)))
  const above = heights.map((height, i) => `${i + 0.5},${HEIGHT / 2 - height}`)
  const below = heights.map((height, i) => `${i + 0.5},${HEIGHT / 2 + height}`).reverse()
  return `M${[...above, ...below].join(' L')} Z`
}

/** Under the notes: how loud the line is, with what is laid over it, and the gains as a line with its fades. */
import { memo, useMemo } from 'react'
import type { GainInSong } from '../../../core/edits/stretch-level'
import { LEFT, LEVEL_HALF, LEVEL_Y, levelY, type Frame } from './ladder-frame'
import type { SungPitch } from './use-line'

/** Of a voice that is as loud as this, the cloth is as high as it gets. */
const LOUD_DBFS = -12
const SOFTEST_DBFS = -54
/** A step of the cloth's edge. */
const STEP_HOPS = 3

export const LevelCloth = memo(function LevelCloth({ pitch: { frameAt, power }, frame, colour }: { pitch: SungPitch; frame: Frame; colour: string }) {
  const path = useMemo(() => {
    const edge: [x: number, height: number][] = []
    for (let hop = 0; hop < power.length; hop += STEP_HOPS) {
      const decibels = 10 * Math.log10(Math.max(...power.subarray(hop, hop + STEP_HOPS)) + 1e-12)
      const share = Math.max(0, Math.min(1, (decibels - SOFTEST_DBFS) / (LOUD_DBFS - SOFTEST_DBFS)))
      edge.push([frame.x(frameAt(hop)), 0.6 + share * (LEVEL_HALF - 0.6)])
    }
    const above = edge.map(([x, height]) => `${x.toFixed(1)} ${(LEVEL_Y - height).toFixed(1)}`)
    const below = edge.toReversed().map(([x, height]) => `${x.toFixed(1)} ${(LEVEL_Y + height).toFixed(1)}`)
    return edge.length > 1 ? `M${above.join('L')}L${below.join('L')}Z` : ''
  }, [frameAt, power, frame])
  return <path d={path} fill={colour} fillOpacity={0.28} />
})

/** Up where it is louder, down where it is softer; stitched while it is only proposed. */
export function GainLine({
  gain,
  frame,
  isProposed = false,
}: {
  gain: Pick<GainInSong, 'startFrame' | 'endFrame' | 'gainDecibels' | 'fadeFrames'>
  frame: Frame
  isProposed?: boolean
}) {
  const { startFrame, endFrame, gainDecibels } = gain
  const fade = Math.min(gain.fadeFrames, (endFrame - startFrame) / 2)
  if (frame.x(endFrame) <= LEFT || frame.x(startFrame) >= frame.right) return null
  const clip = (x: number) => Math.max(LEFT, Math.min(frame.right, x))
  const [y, zero] = [levelY(gainDecibels), levelY(0)]
  const corners = [startFrame, startFrame + fade, endFrame - fade, endFrame].map(at => clip(frame.x(at)))
  return (
    <g stroke="var(--chakra-colors-brand)" fill="none">
      <path
        d={`M${corners[0]} ${zero}L${corners[1]} ${y}L${corners[2]} ${y}L${corners[3]} ${zero}`}
        strokeWidth={2}
        strokeLinejoin="round"
        strokeDasharray={isProposed ? '5 4' : undefined}
      />
      {isProposed ? [corners[1], corners[2]].map((x, i) => <circle key={i} cx={x} cy={y} r={3} fill="var(--chakra-colors-card)" strokeWidth={1.5} />) : null}
    </g>
  )
}

/** A level as a soft band behind its slider, drawn in animation frames. */
import { Box } from '@chakra-ui/react'
import type { MeterId } from '../../../core/mix/plan'
import { useCallback, useRef } from 'react'
import { useFrameLoop } from '../../shared/use-frame-loop'
import { useLive } from '../../song/live'

/** -60 dBFS at the left, 0 dBFS at the right. */
export function levelFraction(peak: number): number {
  return peak <= 0.001 ? 0 : Math.min(1, (20 * Math.log10(peak) + 60) / 60)
}

export function LevelBand({ of, colour }: { of: MeterId; colour: string }) {
  const band = useRef<HTMLDivElement>(null)
  const draw = useCallback(() => {
    const { engine, playing } = useLive.getState()
    if (band.current) band.current.style.transform = `scaleX(${engine && playing ? levelFraction(engine.peakOf(of)) : 0})`
  }, [of])
  useFrameLoop(draw)
  return (
    <Box ref={band} aria-hidden position="absolute" inset="4px 0" borderRadius="8px" opacity={0.22} transformOrigin="left" style={{ background: colour }} />
  )
}

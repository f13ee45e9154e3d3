/** The beat that is being brought in, as far as it has arrived. */
import { create } from 'zustand'
import type { PeakLevel, Peaks } from '../../../core/audio/peaks'

export interface Arriving {
  /** One level; null before any sound has arrived. */
  peaks: Peaks | null
  /** How long the beat will be, as far as can be told. */
  lengthFrames: number
}

/** Null while no beat is on its way. */
export const useArriving = create<{ beat: Arriving | null }>(() => ({ beat: null }))

export function beatArrives(): void {
  useArriving.setState({ beat: { peaks: null, lengthFrames: 1 } })
}

export function noBeatArrives(): void {
  useArriving.setState({ beat: null })
}

/** @param fraction How much of the file has been used, with this piece. */
export function pieceArrived(fraction: number, piece: PeakLevel): void {
  const before = useArriving.getState().beat?.peaks?.levels[0]
  const level = before ? { binFrames: piece.binFrames, peak: joined(before.peak, piece.peak), rms: joined(before.rms, piece.rms) } : piece
  const frames = level.peak.length * level.binFrames
  useArriving.setState({ beat: { peaks: { frames, levels: [level] }, lengthFrames: frames / Math.max(fraction, 1e-3) } })
}

function joined(a: Float32Array, b: Float32Array): Float32Array<ArrayBuffer> {
  const both = new Float32Array(a.length + b.length)
  both.set(a)
  both.set(b, a.length)
  return both
}

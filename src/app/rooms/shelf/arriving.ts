/** What is being brought in, as far as it has arrived; apart from the rest of the page, because it changes many times a second. */
import { create } from 'zustand'
import type { PeakLevel, Peaks } from '../../../core/audio/peaks'

export interface ArrivingBeat {
  /** One level; null before any sound has arrived. */
  peaks: Peaks | null
  /** How long the beat will be, as far as can be told. */
  lengthFrames: number
}

interface Arriving {
  /** 0..1 of the file. */
  fraction: number
  /** Null while no beat is on its way. */
  beat: ArrivingBeat | null
}

export const useArriving = create<Arriving>(() => ({ fraction: 0, beat: null }))

export function nothingArrives(): void {
  useArriving.setState({ fraction: 0, beat: null })
}

export function beatArrives(): void {
  useArriving.setState({ fraction: 0, beat: { peaks: null, lengthFrames: 1 } })
}

/** @param fraction How much of the file has been used. @param piece What has become known of the beat with that. */
export function partArrived(fraction: number, piece?: PeakLevel): void {
  useArriving.setState(({ beat }) => ({ fraction, beat: piece ? withPiece(beat, fraction, piece) : beat }))
}

function withPiece(beat: ArrivingBeat | null, fraction: number, piece: PeakLevel): ArrivingBeat {
  const before = beat?.peaks?.levels[0]
  const level = before ? { binFrames: piece.binFrames, peak: joined(before.peak, piece.peak), rms: joined(before.rms, piece.rms) } : piece
  const frames = level.peak.length * level.binFrames
  return { peaks: { frames, levels: [level] }, lengthFrames: frames / Math.max(fraction, 1e-3) }
}

function joined(a: Float32Array, b: Float32Array): Float32Array<ArrayBuffer> {
  const both = new Float32Array(a.length + b.length)
  both.set(a)
  both.set(b, a.length)
  return both
}

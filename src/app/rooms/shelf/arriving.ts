/** The file that is being imported, as far as it has arrived. A store of its own, because it changes many times a second. */
import { create } from 'zustand'
import { concatMono } from '../../../core/audio/frames'
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

/** @param fraction How much of the file has been used. @param piece The levels of the part that arrived. */
export function partArrived(fraction: number, piece?: PeakLevel): void {
  useArriving.setState(({ beat }) => ({ fraction, beat: piece ? withPiece(beat, fraction, piece) : beat }))
}

function withPiece(beat: ArrivingBeat | null, fraction: number, piece: PeakLevel): ArrivingBeat {
  const before = beat?.peaks?.levels[0]
  const level = before ? { binFrames: piece.binFrames, peak: concatMono(before.peak, piece.peak), rms: concatMono(before.rms, piece.rms) } : piece
  const frames = level.peak.length * level.binFrames
  return { peaks: { frames, levels: [level] }, lengthFrames: frames / Math.max(fraction, 1e-3) }
}

/** A voice drawn to where its notes should lie. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import type { PitchTrack } from '../voice/pitch'
import { resynthesise } from './resynthesise'
import { shiftAt, shiftsOf } from './shifts'
import type { TargetedNote } from './targets'
import type { TuneSettings } from '../song/tidy-schema'

/**
 * @param voice One channel at 48 kHz, and its pitch.
 * @returns as many frames; to the bit the voice's own wherever nothing is moved: consonants, breaths, rests, notes that are left.
 */
export function tune(voice: Mono, track: PitchTrack, notes: readonly TargetedNote[], settings: TuneSettings): Mono {
  const hopFrames = Math.round(track.hopSeconds * SAMPLE_RATE_HZ)
  const shifts = shiftsOf(track, notes, settings)
  if (settings.throatSemitones === 0 && shifts.every(shift => shift === 0)) return voice
  return resynthesise(voice, {
    pitch: { f0Hz: track.f0Hz, hopFrames },
    centsAt: frame => shiftAt(shifts, frame / hopFrames),
    time: { from: [], to: [] },
    throatSemitones: settings.throatSemitones,
  })
}

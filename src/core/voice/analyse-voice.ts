/** Everything that is read off a take at once: pitch, phrases, onsets, clipping, the room. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { highPass, StereoBiquad } from '../effects/biquad'
import { findBackground } from './background'
import { findClipping } from './clipping'
import { framePowers, gateOf, noiseFloorDbfs } from './level'
import { findOnsets } from './onsets'
import { HOP_SECONDS } from './hop'
import { findPhrases, type Band, type Stretch } from './phrases'
import { trackPitch, type PitchTrack } from './pitch'

/** Changes whenever the same take would be read otherwise; part of the cache's key. */
export const VOICE_ANALYSIS_VERSION = 3

export interface VoiceAnalysis extends PitchTrack {
  /** Mean power by hop, without rumble. */
  power: Float32Array<ArrayBuffer>
  phrases: Stretch[]
  onsetSeconds: number[]
  clipped: Stretch[]
  /** Of the room, root mean square; -Infinity if the take is digitally silent. */
  noiseFloorDbfs: number
}

/** Below this lie steps, traffic and wind; above HIGHS_HZ esses and breath. */
const RUMBLE_HZ = 120
const HIGHS_HZ = 3_500

/** @param voice One channel at 48 kHz. */
export function analyseVoice(voice: Mono, onProgress: (fraction: number) => void = () => {}): VoiceAnalysis {
  const track = trackPitch(voice, onProgress)
  const body = bandAbove(voice, RUMBLE_HZ, track.f0Hz)
  return {
    ...track,
    power: body.power,
    phrases: findPhrases(track.f0Hz, body, bandAbove(voice, HIGHS_HZ, track.f0Hz)),
    onsetSeconds: findOnsets(track.f0Hz, body.power),
    clipped: findClipping(voice),
    noiseFloorDbfs: noiseFloorDbfs(framePowers(voice, SAMPLE_RATE_HZ)),
  }
}

/** Analyses of pieces that follow each other, as one; all but the last are `pieceSeconds` long, a whole number of hops. */
export function joinAnalyses(pieces: readonly VoiceAnalysis[], pieceSeconds: number): VoiceAnalysis {
  if (pieces.length === 1) return pieces[0]
  const hops = Math.round(pieceSeconds / HOP_SECONDS)
  const join = (read: (piece: VoiceAnalysis) => Float32Array) => {
    const joined = new Float32Array((pieces.length - 1) * hops + read(pieces[pieces.length - 1]).length)
    // A piece has one hop at its very end that is the next one's first.
    pieces.forEach((piece, i) => joined.set(read(piece), i * hops))
    return joined
  }
  const later = (stretches: Stretch[], i: number) =>
    stretches.map(({ startSeconds, endSeconds }) => ({ startSeconds: startSeconds + i * pieceSeconds, endSeconds: endSeconds + i * pieceSeconds }))
  return {
    hopSeconds: HOP_SECONDS,
    f0Hz: join(piece => piece.f0Hz),
    clarity: join(piece => piece.clarity),
    power: join(piece => piece.power),
    phrases: pieces.flatMap((piece, i) => later(piece.phrases, i)),
    onsetSeconds: pieces.flatMap((piece, i) => piece.onsetSeconds.map(seconds => seconds + i * pieceSeconds)),
    clipped: pieces.flatMap((piece, i) => later(piece.clipped, i)),
    noiseFloorDbfs: Math.min(...pieces.map(piece => piece.noiseFloorDbfs)),
  }
}

function bandAbove(voice: Mono, cutoffHz: number, f0Hz: Float32Array): Band & { power: Float32Array<ArrayBuffer> } {
  const filtered = voice.slice()
  new StereoBiquad(highPass(cutoffHz)).process(filtered, new Float32Array(voice.length))
  const power = framePowers(filtered, SAMPLE_RATE_HZ)
  return { power, ...gateOf(power), ...findBackground(f0Hz, power) }
}

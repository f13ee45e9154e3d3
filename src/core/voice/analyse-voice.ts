/** Everything that is read off a take at once: pitch, phrases, onsets, clipping, the room. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { filtered, highPass } from '../effects/biquad'
import { KWeighting } from '../loudness/loudness'
import { findBackground } from './background'
import { AIR_FROM_HZ, findBreaths } from './breaths'
import { findClicks } from './clicks'
import { findClipping } from './clipping'
import { findEsses } from './esses'
import { findFinals } from './finals'
import { framePowers, gateOf, noiseFloorDbfs } from './level'
import { findNoises } from './noises'
import { findOnsets } from './onsets'
import { HALF_RATE_HZ, hearThrough, type HeardThrough } from './hear-through'
import { HOP_SECONDS } from './hop'
import { findPhrases, type Band, type Stretch } from './phrases'
import { dropThumpPitch, findPops, measurePops, withoutThumps, type Struck } from './pops'
import { trackPitch, type PitchTrack } from './pitch'

/** Changes whenever the same take would be read otherwise; part of the cache's key. */
export const VOICE_ANALYSIS_VERSION = 8

export interface VoiceAnalysis extends PitchTrack {
  /** Mean power by hop, without rumble. */
  power: Float32Array<ArrayBuffer>
  /** Mean power by hop as the ear weighs it (ITU-R BS.1770). */
  weightedPower: Float32Array<ArrayBuffer>
  phrases: Stretch[]
  onsetSeconds: number[]
  clipped: Stretch[]
  /** Outside the phrases. */
  breaths: Stretch[]
  esses: Stretch[]
  pops: Stretch[]
  clicks: Stretch[]
  /** Between the phrases: neither sung nor breathed. */
  noises: Stretch[]
  /** Consonants at the ends of phrases. */
  finals: Stretch[]
  /** Of the room, root mean square; -Infinity if the take is digitally silent. */
  noiseFloorDbfs: number
}

/** Below this lie steps, traffic and wind; above HIGHS_HZ esses and breath. */
const RUMBLE_HZ = 120
const NEAR_SECONDS = 0.005
const HIGHS_HZ = 3_500

/** @param voice One channel at 48 kHz. */
export function analyseVoice(voice: Mono, onProgress: (fraction: number) => void = () => {}): VoiceAnalysis {
  const heard = hearThrough(voice)
  const track = trackPitch(voice, onProgress, heard)
  const body = bandAbove(voice, SAMPLE_RATE_HZ, RUMBLE_HZ, track.f0Hz)
  const pops = findPops(voice, body.power, body.backgroundPeakPower)
  const struck = measurePops(voice, pops)
  dropThumpPitch(track, struck)
  const phrases = findPhrasesIn(heard, track.f0Hz, struck)
  const clipped = findClipping(voice)
  const floor = noiseFloorDbfs(framePowers(voice, SAMPLE_RATE_HZ))
  const airPower = framePowers(filtered(voice, highPass(AIR_FROM_HZ), highPass(AIR_FROM_HZ)), SAMPLE_RATE_HZ)
  const breaths = findBreaths({ power: body.power, airPower, phrases, noiseFloorDbfs: floor, musicPower: body.backgroundPower })
  return {
    ...track,
    power: body.power,
    weightedPower: weightedPowers(voice),
    phrases,
    onsetSeconds: findOnsets(track.f0Hz, body.power),
    clipped,
    breaths,
    noises: findNoises({ power: withoutThumps(body.power, struck), phrases, breaths, roomPower: Math.max(body.noisePower, body.backgroundPeakPower) }),
    finals: findFinals({ f0Hz: track.f0Hz, power: body.power, airPower, phrases, roomPower: body.noisePower }),
    esses: findEsses(voice),
    pops,
    clicks: findClicks(voice).filter(click => !clipped.some(clip => touch(click, clip))),
    noiseFloorDbfs: floor,
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
  const joinStretches = (read: (piece: VoiceAnalysis) => Stretch[]) => pieces.flatMap((piece, i) => later(read(piece), i))
  return {
    hopSeconds: HOP_SECONDS,
    f0Hz: join(piece => piece.f0Hz),
    clarity: join(piece => piece.clarity),
    power: join(piece => piece.power),
    weightedPower: join(piece => piece.weightedPower),
    phrases: joinStretches(piece => piece.phrases),
    breaths: joinStretches(piece => piece.breaths),
    esses: joinStretches(piece => piece.esses),
    pops: joinStretches(piece => piece.pops),
    clicks: joinStretches(piece => piece.clicks),
    noises: joinStretches(piece => piece.noises),
    finals: joinStretches(piece => piece.finals),
    onsetSeconds: pieces.flatMap((piece, i) => piece.onsetSeconds.map(seconds => seconds + i * pieceSeconds)),
    clipped: joinStretches(piece => piece.clipped),
    noiseFloorDbfs: Math.min(...pieces.map(piece => piece.noiseFloorDbfs)),
  }
}

/** What is soft at a phrase's ends is looked for in what is heard through the room. */
function findPhrasesIn({ raw, clean, isSteadyRoom, hidden }: HeardThrough, f0Hz: Float32Array, struck: readonly Struck[]): Stretch[] {
  const band = (cutoffHz: number): Band =>
    isSteadyRoom ? { ...bandAbove(clean, HALF_RATE_HZ, cutoffHz, f0Hz), backgroundPeakPower: 0 } : bandAbove(raw, HALF_RATE_HZ, cutoffHz, f0Hz)
  const body = band(RUMBLE_HZ)
  return findPhrases(f0Hz, { ...body, power: withoutThumps(body.power, struck) }, band(HIGHS_HZ), hidden)
}

/** Hop i is centred on i hops. */
function weightedPowers(voice: Mono): Float32Array<ArrayBuffer> {
  const hop = HOP_SECONDS * SAMPLE_RATE_HZ
  const filter = new KWeighting()
  return Float32Array.from({ length: Math.floor(voice.length / hop) + 1 }, (_, i) => {
    const from = Math.max(0, (i - 0.5) * hop)
    const to = Math.min(voice.length, (i + 0.5) * hop)
    return to > from ? filter.power(voice, from, to) / (to - from) : 0
  })
}

/** Where the top of a wave was cut off, its corners click. */
function touch(a: Stretch, b: Stretch): boolean {
  return a.startSeconds - NEAR_SECONDS < b.endSeconds && b.startSeconds - NEAR_SECONDS < a.endSeconds
}

function bandAbove(
  voice: Mono,
  sampleRateHz: number,
  cutoffHz: number,
  f0Hz: Float32Array,
): Band & { power: Float32Array<ArrayBuffer>; backgroundPower: number } {
  const power = framePowers(filtered(voice, highPass((cutoffHz * SAMPLE_RATE_HZ) / sampleRateHz)), sampleRateHz)
  return { power, ...gateOf(power), ...findBackground(f0Hz, power) }
}

/** How a take was sung into the microphone, and whether a later one was sung otherwise. */
import { median } from '../audio/statistics'
import { gainToDecibels, peakOf, powerToDecibels } from '../audio/decibels'
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { filtered, highPass } from '../effects/biquad'
import type { TakeLevel } from '../song/schema'
import type { FrameRange } from '../song/select'
import type { VoiceAnalysis } from './analyse-voice'

const QUIETEST_DECIBELS = -120
const VOICE_QUANTILE = 0.7
const SPLIT_HZ = 4_500

/** @param voice The take (or the stretch of it that counts) whose analysis is given; one channel at 48 kHz. */
export function levelOf(
  voice: Float32Array,
  { power, f0Hz, noiseFloorDbfs, hopSeconds }: Pick<VoiceAnalysis, 'power' | 'f0Hz' | 'noiseFloorDbfs' | 'hopSeconds'>,
): TakeLevel {
  const voiced = Array.from(power)
    .filter((_, i) => f0Hz[i] > 0)
    .sort((a, b) => a - b)
  // Twice: a voice's strong lower parts must not leak in.
  const highs = filtered(voice, highPass(SPLIT_HZ), highPass(SPLIT_HZ))
  const hop = Math.round(hopSeconds * SAMPLE_RATE_HZ)
  let below = 0
  let above = 0
  for (let frame = 0; frame < f0Hz.length; frame++) {
    if (f0Hz[frame] === 0) continue
    for (let i = frame * hop; i < Math.min(voice.length, (frame + 1) * hop); i++) {
      below += voice[i] * voice[i]
      above += highs[i] * highs[i]
    }
  }
  const finite = (decibels: number) => Math.max(QUIETEST_DECIBELS, decibels)
  return {
    peakDbfs: finite(gainToDecibels(peakOf(voice))),
    voiceDbfs: finite(powerToDecibels(voiced[Math.floor(VOICE_QUANTILE * voiced.length)] ?? 0)),
    noiseDbfs: finite(noiseFloorDbfs),
    tiltDecibels: below > 0 ? Math.max(-60, Math.min(60, powerToDecibels((below - above + 1e-12) / (above + 1e-12)))) : 0,
  }
}

/** Of stretches of one capture. @param read Frames of it. */
export async function levelsOfStretches<S extends FrameRange>(
  analysis: VoiceAnalysis,
  stretches: readonly S[],
  read: (startFrame: number, endFrame: number) => Promise<Mono>,
): Promise<{ stretch: S; level: TakeLevel }[]> {
  const { f0Hz, power } = analysis
  const hop = Math.round(analysis.hopSeconds * SAMPLE_RATE_HZ)
  const levels = []
  for (const stretch of stretches) {
    const from = Math.max(0, Math.ceil(stretch.startFrame / hop))
    const to = Math.max(from, Math.floor(stretch.endFrame / hop))
    const voice = await read(from * hop, to * hop)
    levels.push({ stretch, level: levelOf(voice, { ...analysis, f0Hz: f0Hz.subarray(from, to), power: power.subarray(from, to) }) })
  }
  return levels
}

export type LevelChange = { kind: 'louder' | 'quieter' | 'noisier' | 'brighter' | 'duller'; decibels: number }

const LEVEL_STEP_DECIBELS = 3
const NOISE_STEP_DECIBELS = 6
const TONE_STEP_DECIBELS = 3.5
/** Noise below this is not worth a word. */
const QUIET_ROOM_DBFS = -66

/** In what a pass differs from the earlier ones of the same lines; nothing to compare with gives nothing. */
export function compareLevels(now: TakeLevel, earlier: readonly TakeLevel[]): LevelChange[] {
  if (earlier.length === 0) return []
  const usual = (read: (level: TakeLevel) => number) => median(earlier.map(read))
  const changes: LevelChange[] = []
  const louder = now.voiceDbfs - usual(level => level.voiceDbfs)
  if (Math.abs(louder) > LEVEL_STEP_DECIBELS) changes.push({ kind: louder > 0 ? 'louder' : 'quieter', decibels: Math.abs(louder) })
  const noisier = now.noiseDbfs - usual(level => level.noiseDbfs)
  if (noisier > NOISE_STEP_DECIBELS && now.noiseDbfs > QUIET_ROOM_DBFS) changes.push({ kind: 'noisier', decibels: noisier })
  const duller = now.tiltDecibels - usual(level => level.tiltDecibels)
  if (Math.abs(duller) > TONE_STEP_DECIBELS) changes.push({ kind: duller > 0 ? 'duller' : 'brighter', decibels: Math.abs(duller) })
  return changes
}

/** What is read off stored sounds, chunk by chunk. */
import { SAMPLE_RATE_HZ } from '../core/audio/frames'
import { LevelMeter, type BeatLevel } from '../core/beat/level'
import type { AssetId } from '../core/song/schema'
import { analyseVoice, joinAnalyses, type VoiceAnalysis } from '../core/voice/analyse-voice'
import { cachedVoiceAnalysis } from '../storage/analyses'
import { chunksOf, readPeaks, readStretch, requireAsset } from '../storage/sounds'

/** Long captures are heard piece by piece, so that an hour needs no more memory than this much of it. */
const PIECE_FRAMES = 240 * SAMPLE_RATE_HZ

export function hearVoice(assetId: AssetId, onProgress: (fraction: number) => void): Promise<VoiceAnalysis> {
  return cachedVoiceAnalysis(assetId, async () => {
    const { frames } = await requireAsset(assetId)
    const pieces: VoiceAnalysis[] = []
    for (let start = 0; start === 0 || start < frames; start += PIECE_FRAMES) {
      const [voice] = await readStretch(assetId, start, Math.min(frames, start + PIECE_FRAMES))
      pieces.push(analyseVoice(voice!, fraction => onProgress(Math.min(1, (start + fraction * PIECE_FRAMES) / frames))))
    }
    return joinAnalyses(pieces, PIECE_FRAMES / SAMPLE_RATE_HZ)
  })
}

/** The level of a stored beat. */
export async function measureStored(assetId: AssetId): Promise<BeatLevel> {
  const [{ channels }, peaks] = await Promise.all([requireAsset(assetId), readPeaks(assetId)])
  const meter = new LevelMeter(
    channels,
    peaks!.levels.at(-1)!.peak.reduce((a, b) => Math.max(a, b), 0),
  )
  for await (const planes of chunksOf(assetId)) meter.push(planes)
  return meter.read()
}

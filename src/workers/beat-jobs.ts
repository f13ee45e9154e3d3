/** Jobs on the beat. */
import { transfer } from 'comlink'
import { z } from 'zod'
import { BEAT_ANALYSIS_VERSION, hearBeat, hearTempo, type HeardBeat } from '../core/beat/analyse'
import { flamTest } from '../core/beat/half-speed'
import type { BeatLevel } from '../core/beat/level'
import { matchBeats } from '../core/beat/match'
import { readTags } from '../core/files/tags'
import { readLeak } from '../core/latency/leak'
import { SAMPLE_RATE_HZ } from '../core/audio/frames'
import { alignJoins } from '../core/mix/align-joins'
import { renderBeatAlone } from '../core/mix/beat-alone'
import type { Song } from '../core/song/schema'
import type { FrameRange } from '../core/song/select'
import { cachedAnalysis } from '../storage/analyses'
import { loadForEars, makeAssetStore, readStretch } from '../storage/sounds'
import type { Jobs } from './contract'
import { fileSource } from './file-source'
import { measureStored } from './hear-stored'
import { storeSound } from './store-sound'
import { prepared } from './stored-sounds'

type BeatJobs = Pick<Jobs, 'importBeat' | 'hearBeat' | 'measureBeat' | 'hearTempo' | 'alignJoins' | 'flamTest' | 'matchBeats' | 'readLeak'>

const HeardBeatSchema = z.custom<HeardBeat>(value => typeof value === 'object' && value !== null && 'tempo' in value)
const BeatLevelSchema = z.custom<BeatLevel>(value => typeof value === 'object' && value !== null && 'integratedLufs' in value)

/** Enough of a take to find a leak in. */
const MOST_LEAK_FRAMES = 90 * SAMPLE_RATE_HZ

export const beatJobs: BeatJobs = {
  async importBeat({ file, assetId, acceptCutShort }, onProgress) {
    const [result, fileSays] = await Promise.all([storeSound(file, assetId, planes => planes, { onProgress, acceptCutShort }), readTags(fileSource(file))])
    return result.kind === 'imported' ? { ...result, fileSays } : result
  },

  hearBeat({ assetId }, onProgress) {
    return cachedAnalysis(assetId, 'beat', BEAT_ANALYSIS_VERSION, HeardBeatSchema, async () => hearBeat(await loadForEars(assetId), onProgress))
  },

  measureBeat({ assetId }) {
    return cachedAnalysis(assetId, 'beat-level', BEAT_ANALYSIS_VERSION, BeatLevelSchema, () => measureStored(assetId))
  },

  async hearTempo({ assetId, wish }) {
    return hearTempo(await loadForEars(assetId), wish)
  },

  alignJoins({ beat }) {
    return alignJoins(beat, readStretch)
  },

  async flamTest({ song, startFrame, frames, clickGain }) {
    const plain = { ...song, beat: { ...song.beat, gainDecibels: 0 } }
    const slow = flamTest(await beatAlone(plain, { startFrame, endFrame: startFrame + frames }), song.beat.grid, startFrame, clickGain)
    return transfer(slow, [slow.buffer])
  },

  async matchBeats({ before, after }) {
    return matchBeats(await loadForEars(before), await loadForEars(after))
  },

  async readLeak({ song, takeId }) {
    const take = song.takes.find(entry => entry.id === takeId)
    if (!take) return null
    const { assetId, originFrame, startFrame } = take
    const endFrame = Math.min(take.endFrame, startFrame + MOST_LEAK_FRAMES)
    const [captured] = await readStretch(assetId, startFrame - originFrame, endFrame - originFrame)
    return readLeak(await beatAlone(song, { startFrame, endFrame }), captured!)
  },
}

async function beatAlone(song: Song, range: FrameRange) {
  return renderBeatAlone(song, range, { store: makeAssetStore(), prints: (await prepared({ ...song, layers: [] })).prints })
}

/** Jobs on sung takes. */
import { transfer } from 'comlink'
import { copiesInLines } from '../core/align/copies-in-song'
import { candidatesByLine, takesToCompare, type Heard } from '../core/comp/candidates'
import { checkClaps } from '../core/latency/clap-check'
import { measureRoundTrip } from '../core/latency/round-trip'
import { singStretch } from '../core/rehearsal/sing-stretch'
import { besideTheLead } from '../core/stack/marks'
import type { HeardSounds } from '../core/stack/line-offers'
import { proposeDoubles } from '../core/stack/propose-doubles'
import type { Song } from '../core/song/schema'
import { matchTakes } from '../core/voice/match-takes'
import { checkRoom } from '../core/voice/mic-check'
import { levelsOfStretches } from '../core/voice/take-level'
import { findMissingSound, keepFacts, readStretch, rereadFacts } from '../storage/sounds'
import type { Jobs } from './contract'
import { hearVoice } from './hear-stored'
import { pathsOfLines, readStored } from './stored-sounds'
import { storeVoice } from './store-voice'

type VoiceJobs = Pick<
  Jobs,
  | 'sing'
  | 'analyseVoice'
  | 'readLevels'
  | 'measureRoundTrip'
  | 'checkClaps'
  | 'checkRoom'
  | 'importVoice'
  | 'matchVoice'
  | 'compareTakes'
  | 'findCopies'
  | 'findPaths'
  | 'proposeDoubles'
  | 'besideTheLead'
  | 'recoverAsset'
>

export const voiceJobs: VoiceJobs = {
  sing({ song, range, ...wish }, onProgress) {
    const voice = singStretch(song, range, wish, onProgress)
    return Promise.resolve(transfer(voice, [voice.buffer]))
  },

  analyseVoice({ assetId }, onProgress) {
    return hearVoice(assetId, onProgress)
  },

  async readLevels({ assetId, stretches }) {
    const analysis = await hearVoice(assetId, () => {})
    const levels = await levelsOfStretches(analysis, stretches, async (from, to) => (await readStretch(assetId, from, to))[0]!)
    return levels.map(({ stretch, level }) => ({ takeId: stretch.takeId, level }))
  },

  measureRoundTrip({ captured }) {
    return Promise.resolve(measureRoundTrip(captured))
  },

  checkClaps({ captured, clickFrames }) {
    return Promise.resolve(checkClaps(captured, clickFrames))
  },

  checkRoom({ captured }) {
    return Promise.resolve(checkRoom(captured))
  },

  importVoice({ file, assetId }, onProgress) {
    return storeVoice(file, assetId, onProgress)
  },

  async matchVoice({ assetId, against }, onProgress) {
    const brought = await hearVoice(assetId, fraction => onProgress(0.5 * fraction))
    const heard = await Promise.all(against.map(async take => ({ ...(await hearVoice(take.assetId, () => {})), originFrame: take.originFrame })))
    return matchTakes(brought, heard)
  },

  async compareTakes({ song, layerId }, onProgress) {
    const takes = takesToCompare(song, layerId)
    const heard: Heard[] = []
    for (const [i, take] of takes.entries())
      heard.push({ take, analysis: await hearVoice(take.assetId, fraction => onProgress((0.95 * (i + fraction)) / takes.length)) })
    return candidatesByLine(song, heard)
  },

  async findCopies({ song, lineIds }, onProgress) {
    return copiesInLines(song, lineIds, await readStored(song), onProgress)
  },

  findPaths({ song, lines }, onProgress) {
    return pathsOfLines(song, lines, onProgress)
  },

  async proposeDoubles({ song, wish }, onProgress) {
    return proposeDoubles(song, wish, await heardSounds(song), onProgress)
  },

  async besideTheLead({ song, layerId, lineIds }) {
    return besideTheLead(song, layerId, lineIds, await heardSounds(song))
  },

  async recoverAsset({ assetId }) {
    const facts = await rereadFacts(assetId)
    if (!facts) return null
    await keepFacts(assetId, facts)
    return { frames: facts.frames }
  },
}

/** What of a song is stored; a take is listened to once. */
async function heardSounds(song: Song): Promise<HeardSounds> {
  const missing = new Set((await findMissingSound([...new Set(song.takes.map(take => take.assetId))])).map(({ assetId }) => assetId))
  return { read: await readStored(song), analysisOf: take => (missing.has(take.assetId) ? Promise.resolve(null) : hearVoice(take.assetId, () => {})) }
}

/** The worker: each job is a few lines that call the core and the storage. */
import { expose, transfer } from 'comlink'
import { z } from 'zod'
import { BEAT_ANALYSIS_VERSION, hearBeat, hearTempo, type HeardBeat } from '../core/beat/analyse'
import { mixToMono, SAMPLE_RATE_HZ } from '../core/audio/frames'
import { flamTest } from '../core/beat/half-speed'
import type { BeatLevel } from '../core/beat/level'
import { bestJoinShift, matchBeats, MAX_JOIN_SHIFT_FRAMES } from '../core/beat/match'
import { treat } from '../core/beat/treatments'
import { candidatesOfLine } from '../core/comp/candidates'
import { extentOfComp, printComp } from '../core/mix/print'
import { seamCostAt } from '../core/comp/quiet-places'
import { renderDelivery } from '../core/deliver/delivery'
import { encodeSamples, encodeWavHeader } from '../core/files/wav'
import { readTags } from '../core/files/tags'
import { checkClaps } from '../core/latency/clap-check'
import { readLeak } from '../core/latency/leak'
import { measureRoundTrip } from '../core/latency/round-trip'
import { LoudnessMeter } from '../core/loudness/loudness'
import { JOIN_FRAMES } from '../core/mix/beat-spans'
import { cutIntoChunks } from '../core/mix/chunk-window'
import { assetsOfSpans, missingInSpans, soundingSpans } from '../core/mix/missing-sound'
import { spansOfPicks } from '../core/mix/pick-spans'
import { planMix } from '../core/mix/plan'
import { renderOffline, type AssetStore } from '../core/mix/render-offline'
import type { Span } from '../core/mix/spans'
import { scoreOfSheet } from '../core/rehearsal/score'
import { sing } from '../core/rehearsal/sing'
import type { Take } from '../core/song/schema'
import { covers, currentComp, placedLines, requireLayer } from '../core/song/select'
import type { VoiceAnalysis } from '../core/voice/analyse-voice'
import { matchTakes } from '../core/voice/match-takes'
import { checkRoom } from '../core/voice/mic-check'
import { levelOf } from '../core/voice/take-level'
import { cachedAnalysis } from '../storage/analyses'
import { database } from '../storage/database'
import { AssetWriter, findMissingSound, keepFacts, loadForEars, makeAssetStore, readStretch, rereadFacts } from '../storage/sounds'
import type { Jobs, MissingResult, OnProgress } from './contract'
import { fileSource } from './file-source'
import { hearVoice, measureStored } from './hear-stored'
import { readyDecoder } from './open-beside'
import { exportSong, importSong } from './song-files'
import { storeSound } from './store-sound'
import { storeVoice } from './store-voice'

const jobs: Jobs = {
  async getReady() {
    readyDecoder()
    await database.open()
  },

  async importBeat({ file, assetId, acceptCutShort }, onProgress) {
    const [result, fileSays] = await Promise.all([storeSound(file, assetId, planes => planes, { onProgress, acceptCutShort }), readTags(fileSource(file))])
    return result.kind === 'imported' ? { ...result, fileSays } : result
  },

  hearBeat({ assetId }, onProgress) {
    return cachedAnalysis(
      assetId,
      'beat',
      BEAT_ANALYSIS_VERSION,
      z.custom<HeardBeat>(value => isObject(value) && 'tempo' in value),
      async () => hearBeat(await loadForEars(assetId), onProgress),
    )
  },

  measureBeat({ assetId }) {
    return cachedAnalysis(
      assetId,
      'beat-level',
      BEAT_ANALYSIS_VERSION,
      z.custom<BeatLevel>(value => isObject(value) && 'integratedLufs' in value),
      () => measureStored(assetId),
    )
  },

  async hearTempo({ assetId, wish }) {
    return hearTempo(await loadForEars(assetId), wish)
  },

  async treatBeat({ beatAssetId, assetId, startFrame, endFrame, treatment }, onProgress) {
    const stretch = await readStretch(beatAssetId, startFrame, endFrame)
    onProgress(0.3)
    const treated = treat(stretch, treatment)
    const writer = await AssetWriter.create(assetId, treated.length)
    for (const chunk of cutIntoChunks(treated)) await writer.push(chunk)
    await writer.finish()
  },

  async alignJoins({ beat }) {
    const shifts = beat.pieces.map(() => 0)
    for (let i = 1; i < beat.pieces.length; i++) {
      const [before, piece] = [beat.pieces[i - 1]!, beat.pieces[i]!]
      const leaves = before.sourceFrame + before.frames
      if (before.muted || piece.muted || leaves === piece.sourceFrame) continue
      const half = JOIN_FRAMES / 2
      const outgoing = mixToMono(await readStretch(beat.assetId, leaves - half, leaves + half))
      const incoming = mixToMono(
        await readStretch(beat.assetId, piece.sourceFrame - half - MAX_JOIN_SHIFT_FRAMES, piece.sourceFrame + half + MAX_JOIN_SHIFT_FRAMES),
      )
      shifts[i] = bestJoinShift(outgoing, incoming)
    }
    return shifts
  },

  async flamTest({ song, startFrame, frames, clickGain }) {
    const passage = new Float32Array(frames)
    const plan = planMix({ ...song, beat: { ...song.beat, muted: false, gainDecibels: 0 } }, { kind: 'only', beat: true, layerIds: [] })
    let at = 0
    await renderOffline({
      plan,
      store: makeAssetStore(),
      range: { startFrame, endFrame: startFrame + frames },
      sink: planes => {
        passage.set(mixToMono(planes).subarray(0, frames - at), at)
        at += planes[0]!.length
      },
    })
    const slow = flamTest(passage, song.beat.grid, startFrame, clickGain)
    return transfer(slow, [slow.buffer])
  },

  async matchBeats({ before, after }) {
    return matchBeats(await loadForEars(before), await loadForEars(after))
  },

  async deliver({ plan, sampleRateHz, withoutMissing }, onProgress) {
    const began = performance.now()
    const { missing, store } = await storeFor(soundingSpans(plan), withoutMissing)
    if (missing) return missing
    const result = await renderDelivery({ plan, store, sampleRateHz, onProgress })
    if (result.kind !== 'delivered') return { kind: 'nothing-sounds' }
    return { kind: 'delivered', file: new Blob(result.parts, { type: 'audio/wav' }), report: result.report, renderSeconds: (performance.now() - began) / 1_000 }
  },

  exportSong,
  importSong,

  async compareLoudness({ plans, range }, onProgress) {
    const store = makeAssetStore()
    const loudness: number[] = []
    for (const [i, plan] of plans.entries()) {
      const meter = new LoudnessMeter(2)
      await renderOffline({ plan, store, range, sink: planes => meter.push(planes), onProgress: fraction => onProgress((i + fraction) / 2) })
      loudness.push(meter.read().integratedLufs)
    }
    const difference = loudness[1]! - loudness[0]!
    return Number.isFinite(difference) ? difference : 0
  },

  sing({ song, range, passes, firstTake, degreeShift }, onProgress) {
    const frames = range.endFrame - range.startFrame
    const startSeconds = range.startFrame / SAMPLE_RATE_HZ
    const score = scoreOfSheet(song, degreeShift)
      .filter(line => line.startSeconds < range.endFrame / SAMPLE_RATE_HZ && line.notes.at(-1)!.endSeconds > startSeconds)
      .map(line => ({
        startSeconds: line.startSeconds - startSeconds,
        notes: line.notes.map(note => ({ ...note, startSeconds: note.startSeconds - startSeconds, endSeconds: note.endSeconds - startSeconds })),
      }))
    const voice = new Float32Array(frames * passes)
    for (let pass = 0; pass < passes; pass++)
      voice.set(sing({ score, frames, seed: 7, take: firstTake + pass, onProgress: fraction => onProgress((pass + fraction) / passes) }), pass * frames)
    return Promise.resolve(transfer(voice, [voice.buffer]))
  },

  analyseVoice({ assetId }, onProgress) {
    return hearVoice(assetId, onProgress)
  },

  async readLevels({ assetId, stretches }) {
    const analysis = await hearVoice(assetId, () => {})
    const hop = Math.round(analysis.hopSeconds * SAMPLE_RATE_HZ)
    const levels = []
    for (const { takeId, startFrame, endFrame } of stretches) {
      const from = Math.max(0, Math.ceil(startFrame / hop))
      const to = Math.max(from, Math.floor(endFrame / hop))
      const [voice] = await readStretch(assetId, from * hop, to * hop)
      levels.push({ takeId, level: levelOf(voice!, { ...analysis, f0Hz: analysis.f0Hz.subarray(from, to), power: analysis.power.subarray(from, to) }) })
    }
    return levels
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

  async readLeak({ song, takeId }) {
    const take = song.takes.find(entry => entry.id === takeId)
    if (!take) return null
    const endFrame = Math.min(take.endFrame, take.startFrame + MOST_LEAK_FRAMES)
    const played = new Float32Array(endFrame - take.startFrame)
    const plan = planMix({ ...song, beat: { ...song.beat, muted: false } }, { kind: 'only', beat: true, layerIds: [] })
    let at = 0
    await renderOffline({
      plan,
      store: makeAssetStore(),
      range: { startFrame: take.startFrame, endFrame },
      sink: planes => {
        played.set(mixToMono(planes).subarray(0, played.length - at), at)
        at += planes[0]!.length
      },
    })
    const [captured] = await readStretch(take.assetId, take.startFrame - take.originFrame, endFrame - take.originFrame)
    return readLeak(played, captured!)
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
    const lines = placedLines(song)
    const takes = song.takes.filter(take => take.layerId === layerId && !take.binned && !take.printOf && lines.some(line => covers(take, line)))
    const heard: { take: Take; analysis: VoiceAnalysis }[] = []
    for (const [i, take] of takes.entries())
      heard.push({ take, analysis: await hearVoice(take.assetId, fraction => onProgress((0.95 * (i + fraction)) / takes.length)) })
    return lines.map(line => {
      const covering = heard.filter(({ take }) => covers(take, line))
      return {
        lineId: line.line.id,
        startFrame: line.startFrame,
        endFrame: line.endFrame,
        takes: candidatesOfLine(song, line, covering),
        seamCost: seamCostAt(
          covering.map(({ take, analysis }) => ({ analysis, originFrame: take.originFrame })),
          line.startFrame,
        ),
      }
    })
  },

  async printComp({ song, layerId, assetId, withoutMissing }, onProgress) {
    const comp = currentComp(requireLayer(song, layerId))
    const extent = extentOfComp(song, comp)
    if (!extent) return { kind: 'empty' }
    const { missing, store } = await storeFor(spansOfPicks(comp.picks, song), withoutMissing)
    if (missing) return missing
    const writer = await AssetWriter.create(assetId, 1)
    let at = 0
    for await (const piece of printComp(song, comp, store)) {
      await writer.push([piece])
      at += piece.length
      onProgress(at / (extent.endFrame - extent.startFrame))
    }
    await writer.finish()
    return { kind: 'printed', extent }
  },

  async exportComp({ song, layerId, withoutMissing }, onProgress) {
    const comp = currentComp(requireLayer(song, layerId))
    const extent = extentOfComp(song, comp)
    if (!extent) return { kind: 'empty' }
    const { missing, store } = await storeFor(spansOfPicks(comp.picks, song), withoutMissing)
    if (missing) return missing
    // A voice that begins before the song does is cut there.
    const skip = Math.max(0, -extent.startFrame)
    const parts = [
      encodeWavHeader({ frames: extent.endFrame, channels: 1, sampleRateHz: SAMPLE_RATE_HZ, encoding: 'float32' }),
      encodeSamples([new Float32Array(Math.max(0, extent.startFrame))], 'float32'),
    ]
    let at = 0
    for await (const piece of printComp(song, comp, store)) {
      parts.push(encodeSamples([piece.subarray(Math.min(piece.length, Math.max(0, skip - at)))], 'float32'))
      at += piece.length
      onProgress(at / (extent.endFrame - extent.startFrame))
    }
    return { kind: 'made', file: new Blob(parts, { type: 'audio/wav' }) }
  },

  async recoverAsset({ assetId }) {
    const facts = await rereadFacts(assetId)
    if (!facts) return null
    await keepFacts(assetId, facts)
    return { frames: facts.frames }
  },
}

/** Enough of a take to find a leak in. */
const MOST_LEAK_FRAMES = 90 * SAMPLE_RATE_HZ
function isObject(value: unknown): value is object {
  return typeof value === 'object' && value !== null
}

/** The store that some spans are read from; first it is looked whether all of their sound is there. */
async function storeFor(spans: readonly Span[], withoutMissing: boolean): Promise<{ missing: MissingResult | null; store: AssetStore }> {
  const missing = withoutMissing ? [] : missingInSpans(spans, await findMissingSound(assetsOfSpans(spans)))
  return { missing: missing.length > 0 ? { kind: 'missing-sound', missing } : null, store: makeAssetStore(withoutMissing ? () => {} : undefined) }
}

const TELL_MILLISECONDS = 100

/** A job that tells how far it is at most ten times a second, for each telling is drawn; what it finds it tells at once. */
function calmly(job: (options: never, onProgress: OnProgress<unknown>) => unknown) {
  return (options: never, onProgress: OnProgress<unknown>) => {
    let told = -Infinity
    return job(options, (fraction, found) => {
      const now = performance.now()
      if (found === undefined && now - told < TELL_MILLISECONDS) return
      told = now
      onProgress(fraction, found)
    })
  }
}

expose(Object.fromEntries(Object.entries(jobs).map(([name, job]) => [name, calmly(job)])))

/** Jobs that render what a song plays. */
import { CLICK_ASSET, withClick } from '../core/deliver/click-sound'
import { compAsWav } from '../core/deliver/comp-file'
import { compareLoudness } from '../core/deliver/compare-loudness'
import { renderDelivery } from '../core/deliver/delivery'
import { NoEncoderError } from '../core/deliver/packed-encoder'
import { planPart, songOfPart } from '../core/deliver/parts'
import { bounceComp, extentOfComp } from '../core/mix/bounce'
import { soundingSpans } from '../core/mix/missing-sound'
import { spansOfPicks, type Played } from '../core/mix/pick-spans'
import { clarityInMix } from '../core/mix/clarity-in-mix'
import { checkMono } from '../core/mix/mono-check'
import { planMix } from '../core/mix/plan'
import { secondOpinion } from '../core/mix/reference'
import { coverOfRest, type RestCover } from '../core/mix/rest-cover'
import { readCorrections } from '../core/propose/corrections'
import { linesInMix } from '../core/propose/lines-in-mix'
import { whatStepDoes } from '../core/mix/what-step-does'
import { setRide } from '../core/mix/rides'
import { readBeatLines, readMixFacts, type MixSounds } from '../core/propose/mix-facts'
import type { LayerId, Song } from '../core/song/schema'
import { currentComp, lengthOf, requireLayer } from '../core/song/select'
import { AssetWriter, findMissingSound, makeAssetStore } from '../storage/sounds'
import type { Jobs } from './contract'
import { ensurePrint } from './ensure-print'
import { hearVoice } from './hear-stored'
import { prepared, storeFor } from './stored-sounds'

type MixJobs = Pick<
  Jobs,
  | 'makePrint'
  | 'deliver'
  | 'compareLoudness'
  | 'readMix'
  | 'readRide'
  | 'readStep'
  | 'checkMono'
  | 'readClarity'
  | 'readSecondOpinion'
  | 'coverOfRests'
  | 'bounceComp'
  | 'exportComp'
>

/** Of the progress of a delivery, what its prints are. */
const PRINTS_SHARE = 0.2

function playedBy(song: Song, layerId: LayerId): Played {
  const layer = requireLayer(song, layerId)
  return { picks: currentComp(layer).picks, layer }
}

export const mixJobs: MixJobs = {
  makePrint({ job }) {
    return ensurePrint(job)
  },

  async deliver({ song: asked, part, withoutMissing, range, ...wish }, onProgress) {
    const began = performance.now()
    const { song, prints } = await prepared(songOfPart(asked, part), fraction => onProgress(PRINTS_SHARE * fraction))
    const plan = planPart(song, part, prints)
    const { missing, store } = await storeFor(
      soundingSpans(plan).filter(({ assetId }) => assetId !== CLICK_ASSET),
      withoutMissing,
    )
    if (missing) return missing
    const rest = prints.size > 0 ? 1 - PRINTS_SHARE : 1
    try {
      const result = await renderDelivery({
        plan,
        store: withClick(store, song),
        ...wish,
        range: range ?? undefined,
        onProgress: fraction => onProgress(1 - rest + rest * fraction),
      })
      if (result.kind !== 'delivered') return { kind: 'nothing-sounds' }
      const { parts, mediaType, report } = result
      return { kind: 'delivered', file: new Blob(parts, { type: mediaType }), report, renderSeconds: (performance.now() - began) / 1_000 }
    } catch (error) {
      if (error instanceof NoEncoderError) return { kind: 'no-encoder' }
      throw error
    }
  },

  async compareLoudness({ song: asked, views, range }, onProgress) {
    const { song, prints } = await prepared(asked)
    return compareLoudness([planMix(song, views[0], prints), planMix(song, views[1], prints)], range, makeAssetStore(), onProgress)
  },

  async readMix({ song: asked, leadOverBeatLu }, onProgress) {
    const { song, prints } = await prepared(asked, fraction => onProgress(PRINTS_SHARE * fraction))
    const missing = new Set((await findMissingSound([...new Set(song.takes.map(take => take.assetId))])).map(({ assetId }) => assetId))
    const sounds: MixSounds = {
      store: makeAssetStore(() => {}),
      prints,
      analysisOf: take => (missing.has(take.assetId) ? Promise.resolve(null) : hearVoice(take.assetId, () => {})),
    }
    const facts = await readMixFacts(song, sounds, fraction => onProgress(PRINTS_SHARE + 0.5 * fraction))
    const lead = facts.voices.find(voice => requireLayer(song, voice.layerId).role === 'lead')
    if (!lead) return { facts, corrections: null }
    const corrections = await readCorrections(song, lead.layerId, facts, leadOverBeatLu, sounds, fraction => onProgress(PRINTS_SHARE + 0.5 + 0.3 * fraction))
    return { facts, corrections }
  },

  async readStep({ song: asked, ...step }, onProgress) {
    const { song, prints } = await prepared(asked, fraction => onProgress(PRINTS_SHARE * fraction))
    return whatStepDoes(song, step, { store: makeAssetStore(() => {}), prints }, fraction => onProgress(PRINTS_SHARE + (1 - PRINTS_SHARE) * fraction))
  },

  async readRide({ song: asked, layerId, of }, onProgress) {
    const { song, prints } = await prepared(setRide(asked, { layerId, of, points: [] }), fraction => onProgress(PRINTS_SHARE * fraction))
    const sounds = { store: makeAssetStore(() => {}), prints }
    const beat = await readBeatLines(song, [requireLayer(song, layerId)], sounds)
    return linesInMix(song, layerId, { beat }, 0, sounds, fraction => onProgress(PRINTS_SHARE + (1 - PRINTS_SHARE) * fraction))
  },

  async checkMono({ song: asked, range }, onProgress) {
    const { song, prints } = await prepared(asked, fraction => onProgress(PRINTS_SHARE * fraction))
    return checkMono(song, range, { store: makeAssetStore(() => {}), prints, onProgress: fraction => onProgress(PRINTS_SHARE + (1 - PRINTS_SHARE) * fraction) })
  },

  async readClarity({ song: asked, range }, onProgress) {
    const { song, prints } = await prepared(asked, fraction => onProgress(PRINTS_SHARE * fraction))
    return clarityInMix(song, range, {
      store: makeAssetStore(() => {}),
      prints,
      onProgress: fraction => onProgress(PRINTS_SHARE + (1 - PRINTS_SHARE) * fraction),
    })
  },

  async readSecondOpinion({ song: asked }, onProgress) {
    const { song, prints } = await prepared(asked, fraction => onProgress(PRINTS_SHARE * fraction))
    return secondOpinion(song, { store: makeAssetStore(() => {}), prints, onProgress: fraction => onProgress(PRINTS_SHARE + (1 - PRINTS_SHARE) * fraction) })
  },

  async coverOfRests({ song, layerId, rests }, onProgress) {
    const covers: RestCover[] = []
    for (const rest of rests) {
      covers.push(await coverOfRest(song, { layerId, rest, store: makeAssetStore() }))
      onProgress(covers.length / rests.length)
    }
    return covers
  },

  async bounceComp({ song: asked, layerId, assetId, withoutMissing }, onProgress) {
    const { song, prints } = await prepared(asked)
    const played = playedBy(song, layerId)
    const extent = extentOfComp(song, played)
    if (!extent) return { kind: 'empty' }
    const { missing, store } = await storeFor(spansOfPicks(played, song, prints), withoutMissing)
    if (missing) return missing
    const writer = await AssetWriter.create(assetId, 1)
    let at = 0
    for await (const piece of bounceComp(song, played, { store, prints })) {
      await writer.push([piece])
      at += piece.length
      onProgress(at / lengthOf(extent))
    }
    await writer.finish()
    return { kind: 'bounced', extent }
  },

  async exportComp({ song: asked, layerId, withoutMissing }, onProgress) {
    const { song, prints } = await prepared(asked)
    const played = playedBy(song, layerId)
    if (played.picks.length === 0) return { kind: 'empty' }
    const { missing, store } = await storeFor(spansOfPicks(played, song, prints), withoutMissing)
    if (missing) return missing
    const parts: BlobPart[] = []
    for await (const bytes of compAsWav(song, played, { store, prints }, onProgress)) parts.push(bytes)
    return { kind: 'made', file: new Blob(parts, { type: 'audio/wav' }) }
  },
}

/** Prints in memory, for commands that render a song file. */
import type { Planar } from '../src/core/audio/frames'
import { CHUNK_FRAMES, cutIntoChunks } from '../src/core/mix/chunk-window'
import { keyOfJob, type PrintTable } from '../src/core/prints/jobs'
import { makePrint, type PrintSource } from '../src/core/prints/make-print'
import { planPrints } from '../src/core/prints/plan-prints'
import { heardOf, unheardTakes } from '../src/core/edits/heard-of'
import type { AssetId, Song, Take, TakeId } from '../src/core/song/schema'
import { noteHeard } from '../src/core/song/takes'
import type { Heard } from '../src/core/song/tidy-schema'
import { analyseVoice } from '../src/core/voice/analyse-voice'
import { trackPitch } from '../src/core/voice/pitch'

export type Loaded = Map<AssetId, { frames: number; chunks: Planar[] }>

/** Makes all that a song needs and puts it among the loaded sounds: what was found in its takes, and its prints. */
export async function makePrints(asked: Song, loaded: Loaded): Promise<{ song: Song; prints: PrintTable }> {
  const prints = new Map<string, AssetId>()
  const source = sourceOf(loaded)
  const unheard = new Set(unheardTakes(asked).map(({ id }) => id))
  const song = await listenTo(asked, loaded, take => unheard.has(take.id))
  for (const [i, job] of planPrints(song).entries()) {
    const planes = await makePrint(job, source)
    const assetId = `print-${i}` as AssetId
    loaded.set(assetId, { frames: planes[0].length, chunks: [...cutIntoChunks(planes)] })
    prints.set(keyOfJob(job), assetId)
  }
  return { song, prints }
}

/** The song with what was found in takes that were not listened to. @param isWanted Which of them. */
export async function listenTo(song: Song, loaded: Loaded, isWanted: (take: Take) => boolean): Promise<Song> {
  const source = sourceOf(loaded)
  const heard = new Map<TakeId, Heard>()
  for (const take of song.takes) {
    if (take.heard || !isWanted(take)) continue
    const [sound] = await source.read(take.assetId, 0, loaded.get(take.assetId)!.frames)
    heard.set(take.id, heardOf(analyseVoice(sound), take))
  }
  return noteHeard(song, { heard })
}

function sourceOf(loaded: Loaded): PrintSource {
  const read = (assetId: AssetId, startFrame: number, endFrame: number): Planar => {
    const { chunks } = loaded.get(assetId)!
    return chunks[0].map((_, c) => {
      const plane = new Float32Array(endFrame - startFrame)
      for (let i = 0; i < plane.length; i++) {
        const frame = startFrame + i
        plane[i] = chunks[Math.floor(frame / CHUNK_FRAMES)]?.[c][frame % CHUNK_FRAMES] ?? 0
      }
      return plane
    })
  }
  return {
    read: (assetId, startFrame, endFrame) => Promise.resolve(read(assetId, startFrame, endFrame)),
    pitchOf: assetId => Promise.resolve(trackPitch(read(assetId, 0, loaded.get(assetId)!.frames)[0])),
  }
}

/** A second opinion: a finished song beside the mix. Commands on it, and what is told of both. */
import type { Planar } from '../audio/frames'
import type { PrintTable } from '../prints/jobs'
import type { Reference, Song } from '../song/schema'
import type { View } from './heard'
import { planMix } from './plan'
import { joinPlanes, renderOffline, type AssetStore } from './render-offline'
import { soundFacts, type SoundFacts } from './sound-facts'

/** Null where nothing sounds. */
export interface SecondOpinion {
  mix: SoundFacts | null
  reference: SoundFacts | null
}

/** Command: a song to hold the mix against; null: none. */
export function setReference(song: Song, { reference }: { reference: Reference | null }): Song {
  return { ...song, reference }
}

/** Both from their start to their end. */
export async function secondOpinion(
  song: Song,
  { store, prints, onProgress }: { store: AssetStore; prints: PrintTable; onProgress?: (fraction: number) => void },
): Promise<SecondOpinion> {
  const facts = async (of: Song, view: View, part: number): Promise<SoundFacts | null> => {
    const pieces: Planar[] = []
    const plan = planMix(of, view, prints)
    await renderOffline({
      plan,
      store,
      sink: planes => void pieces.push(planes),
      onProgress: fraction => onProgress?.((part + fraction) / 2),
    })
    const planes = joinPlanes(pieces)
    return planes.length > 0 && planes[0].length > 0 ? soundFacts(planes) : null
  }
  // What is brought in is not held down by this song's ceiling.
  const free = { ...song, output: { ...song.output, ceilingDbfs: 0 } }
  return {
    mix: await facts(song, { kind: 'song' }, 0),
    reference: song.reference ? await facts(free, { kind: 'reference', gainDecibels: 0 }, 1) : null,
  }
}

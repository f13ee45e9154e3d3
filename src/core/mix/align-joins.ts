/** Where the pieces of a rearranged beat meet: how far each is moved in its file so that the sound runs on. */
import { mixToMono, type Planar } from '../audio/frames'
import { bestJoinShift, MAX_JOIN_SHIFT_FRAMES } from '../beat/match'
import type { AssetId, Song } from '../song/schema'
import { JOIN_FRAMES } from './beat-spans'

/** @param read Frames of a stored sound. @returns for each piece, how many frames later in the file it should begin; 0 where nothing is cut. */
export async function alignJoins(
  { assetId, pieces }: Pick<Song['beat'], 'assetId' | 'pieces'>,
  read: (assetId: AssetId, startFrame: number, endFrame: number) => Promise<Planar>,
): Promise<number[]> {
  const shifts = pieces.map(() => 0)
  const half = JOIN_FRAMES / 2
  for (let i = 1; i < pieces.length; i++) {
    const [before, piece] = [pieces[i - 1], pieces[i]]
    const leaves = before.sourceFrame + before.frames
    if (before.muted || piece.muted || leaves === piece.sourceFrame) continue
    const outgoing = mixToMono(await read(assetId, leaves - half, leaves + half))
    const reach = half + MAX_JOIN_SHIFT_FRAMES
    shifts[i] = bestJoinShift(outgoing, mixToMono(await read(assetId, piece.sourceFrame - reach, piece.sourceFrame + reach)))
  }
  return shifts
}

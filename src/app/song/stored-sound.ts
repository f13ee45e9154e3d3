/** What picks need to know of sound, from this browser's storage. */
import type { SoundOfTakes } from '../../core/comp/pick-into'
import { readStretch } from '../../storage/sounds'
import { peaksLookup } from './sounds'
import { analysedTake } from './voices'

export const storedSound: SoundOfTakes = {
  peaksOf: takes => peaksLookup([...takes]),
  analysed: (take, nudgeFrames) => analysedTake(take, nudgeFrames),
  read: async (assetId, startFrame, endFrame) => (await readStretch(assetId, startFrame, endFrame))[0]!,
}

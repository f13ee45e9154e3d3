/** Sound that is not stored, in words: whose it is and where in the song. */
import type { AssetStretch } from '../../core/mix/missing-sound'
import type { Song } from '../../core/song/schema'
import { formatClock } from './format'
import { namesOfSounds } from './names-of-sounds'

const SHOWN = 4

export function missingText(song: Song, missing: readonly AssetStretch[]): string {
  const shown = missing
    .slice(0, SHOWN)
    .map(
      ({ assetId, startFrame, endFrame }) =>
        `${namesOfSounds(song, [assetId]).join()} from ${formatClock(startFrame)}${Number.isFinite(endFrame) ? ` to ${formatClock(endFrame)}` : ' on'}`,
    )
  return `Not stored: ${shown.join('; ')}${missing.length > SHOWN ? `; ${missing.length - SHOWN} more` : ''}.`
}

/** Rests of the line in which the beat does not cover what the room sounds like: a dip is proposed for them. */
import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { dipFor } from '../../../core/mix/rest-cover'
import type { MendInSong } from '../../../core/prints/laid-in'
import { runJob } from '../../../workers/run-job'
import { currentSong } from '../../song/song-store'
import type { Line } from './use-line'

export interface BareRest {
  rest: MendInSong
  dipDecibels: number
}

/** A rest that is lowered by less is no silence. */
const SILENT_DECIBELS = -30
/** The longest rests of a line say enough. */
const MOST_RESTS = 8
const NONE: BareRest[] = []

export function useCover({ song, layer, mends }: Line): BareRest[] {
  const rests = useMemo(
    () => mends.filter(({ mend, isOff }) => mend.kind === 'rest' && !isOff && mend.decibels <= SILENT_DECIBELS).slice(0, MOST_RESTS),
    [mends],
  )
  const places = rests.map(({ startFrame, endFrame }) => ({ startFrame, endFrame }))
  // What of the mix decides how loud the room and the beat are there; measured again when it changes.
  const { beat } = song
  const heard = [layer.id, layer.gainDecibels, layer.recipe, layer.muted, beat.assetId, beat.pieces, beat.gainDecibels, song.vocalBus.gainDecibels]
  const covers = useQuery({
    queryKey: ['cover of rests', JSON.stringify([places, heard])],
    queryFn: async () => {
      const result = await runJob('coverOfRests', { song: currentSong(), layerId: layer.id, rests: places })
      return result.kind === 'done' ? result.value : null
    },
    enabled: places.length > 0,
    staleTime: Infinity,
  }).data
  if (!covers) return NONE
  return rests.flatMap((rest, i) => {
    const dipDecibels = covers[i] ? dipFor(covers[i]) : null
    return dipDecibels === null ? [] : [{ rest, dipDecibels }]
  })
}

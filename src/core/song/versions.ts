/** A song as it was at another time, and how it differs from what it is now. */
import type { Song } from './schema'
import { placedLines } from './select'

/** Command: the song is as it was; what was sung since stays among its takes, played by nothing. */
export function goBackTo(now: Song, before: Song): Song {
  const then = new Set(before.takes.map(take => take.id))
  const since = now.takes.filter(take => !then.has(take.id))
  return { ...before, id: now.id, reference: now.reference, takes: [...before.takes, ...since] }
}

/** By how much the present has more (or less) of each. */
export interface VersionDifference {
  takes: number
  layers: number
  /** Lines of words. */
  lines: number
  picks: number
  /** Whether levels, places, recipes or spaces are others. */
  isMixedOtherwise: boolean
}

export function differenceOf(now: Song, before: Song): VersionDifference {
  const counts = (song: Song) => ({
    takes: song.takes.filter(take => !take.binned).length,
    layers: song.layers.length,
    lines: placedLines(song).length,
    picks: song.layers.reduce((sum, { comps }) => sum + comps.reduce((own, comp) => own + comp.picks.length, 0), 0),
  })
  const mixed = ({ layers, buses, vocalBus, spaces, stage, output, beat }: Song) =>
    JSON.stringify([
      layers.map(({ id, gainDecibels, ride, pan, distance, recipe, sends }) => [id, gainDecibels, ride, pan, distance, recipe, sends]),
      [buses, vocalBus, spaces, stage, output, beat.gainDecibels, beat.room],
    ])
  const [a, b] = [counts(now), counts(before)]
  return {
    takes: a.takes - b.takes,
    layers: a.layers - b.layers,
    lines: a.lines - b.lines,
    picks: a.picks - b.picks,
    isMixedOtherwise: mixed(now) !== mixed(before),
  }
}

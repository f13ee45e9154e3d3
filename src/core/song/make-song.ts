/** A new song from an imported beat. */
import type { Grid } from '../beat/grid'
import { NO_ROOM } from './beat-room'
import { DEFAULT_RECIPE, DEFAULT_SPACES, EMPTY_RECIPE } from './usual-mix'
import { defaultSections } from './sections'
import { USUAL_STAGE } from './stage-schema'
import { SONG_VERSION, type AssetId, type Song, type SongId } from './schema'

/** The grid a beat wears until its own is found or typed. */
const UNKNOWN_GRID: Grid = { tempoBpm: 120, barOneFrame: 0, beatsPerBar: 4, beatUnit: 'quarter', map: null }

export function makeSong(options: {
  songId: SongId
  title: string
  assetId: AssetId
  fileName: string
  frames: number
  fileSays?: Song['beat']['fileSays']
  makeId: () => string
}): Song {
  const song: Song = {
    version: SONG_VERSION,
    id: options.songId,
    title: options.title.trim().slice(0, 120) || 'Untitled',
    beat: {
      assetId: options.assetId,
      fileName: options.fileName.slice(0, 255),
      fileSays: options.fileSays ?? { title: null, tempoBpm: null, key: null },
      sourceFrames: options.frames,
      pieces: [{ startFrame: 0, sourceFrame: 0, frames: options.frames, muted: false }],
      treatments: [],
      frames: options.frames,
      grid: UNKNOWN_GRID,
      gridSource: 'unknown',
      key: null,
      colour: null,
      keySource: 'unknown',
      chords: [],
      tuningCents: 0,
      gainDecibels: -4,
      pan: 0,
      muted: false,
      soloed: false,
      room: NO_ROOM,
    },
    sections: [],
    sectionsAreDefault: true,
    layers: [],
    buses: [],
    vocalBus: { gainDecibels: 0, recipe: DEFAULT_RECIPE },
    spaces: DEFAULT_SPACES,
    stage: USUAL_STAGE,
    output: { recipe: EMPTY_RECIPE, ceilingDbfs: -1 },
    mixes: [],
    reference: null,
    takes: [],
    spares: [],
  }
  return { ...song, sections: defaultSections(song.beat.grid, song.beat.frames, options.makeId) }
}

/** What guides a singer through a layer: voices beside it that are in no song. */
import { frameOfBeat } from '../beat/grid'
import type { Made, PlacedPartNote } from '../song/part-schema'
import type { Layer, LayerId, Pick, Song } from '../song/schema'
import { currentComp, overlapFrames } from '../song/select'
import { playing } from './playing'

/** An entry is given a beat before it, for half a beat. */
const ENTRY_BEATS = { before: 1, length: 0.5 } as const

interface Guides {
  by: readonly unknown[]
  guides: Layer[]
}
/** By the layer's picks: while a level is moved they are the same, so that nothing but the level has to be told. */
const knownGuides = new WeakMap<readonly Pick[], Guides>()

/** Two voices beside the layer that are in no song: its part where it plays nothing, unless a made voice sings that already; and the notes of its entries. */
export function guidesOf(song: Song, layer: Layer, sound: 'voice' | 'tone'): Layer[] {
  const { picks } = currentComp(layer)
  const by = [layer.id, layer.role, layer.part, layer.made, layer.recipe, layer.sends, song.beat.grid, sound]
  const before = knownGuides.get(picks)
  if (before && by.every((value, i) => value === before.by[i])) return before.guides
  const guides = makeGuides(song, layer, sound)
  knownGuides.set(picks, { by, guides })
  return guides
}

function makeGuides(song: Song, layer: Layer, sound: 'voice' | 'tone'): Layer[] {
  const { picks } = currentComp(layer)
  const notes = layer.part.filter(note => picks.every(pick => overlapFrames(pick, note) === 0))
  if (notes.length === 0) return []
  const bare: Layer = {
    ...layer,
    gainDecibels: 0,
    ride: [],
    pan: 0,
    panRide: [],
    distance: 0,
    tidy: null,
    tune: null,
    together: null,
    muted: false,
    soloed: false,
  }
  const guide = (name: string, part: PlacedPartNote[], made: Made): Layer => ({
    ...playing(bare, []),
    id: `${name} of ${layer.id}`.slice(0, 64) as LayerId,
    part,
    made,
  })
  const tone: Made = { sound: 'tone', throatSemitones: 0, seed: 0 }
  const voice: Made = { sound: 'lead', throatSemitones: 0, seed: 1 }
  const parts = layer.made ? [] : [guide('guide', notes, sound === 'tone' ? tone : voice)]
  return [...parts, guide('entry', entriesOf(song, notes), tone)]
}

/** Of every note before which nothing is sung for a beat. */
function entriesOf({ beat: { grid } }: Song, notes: readonly PlacedPartNote[]): PlacedPartNote[] {
  const beatFrames = frameOfBeat(grid, 1) - frameOfBeat(grid, 0)
  return notes.flatMap((note, i) => {
    const startFrame = Math.round(note.startFrame - ENTRY_BEATS.before * beatFrames)
    if (startFrame < 0 || (i > 0 && notes[i - 1].endFrame > startFrame)) return []
    return [{ midi: note.midi, startFrame, endFrame: Math.round(startFrame + ENTRY_BEATS.length * beatFrames) }]
  })
}

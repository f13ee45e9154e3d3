/** The parts of a song that can be delivered, and their plans. */
import { planMix, type MixPlan } from '../mix/plan'
import { NO_PRINTS, type PrintTable } from '../prints/jobs'
import { madePhrases } from '../prints/made-voices'
import type { Layer, LayerId, Role, Song } from '../song/schema'
import { currentComp, requireLayer } from '../song/select'
import { EMPTY_RECIPE } from '../song/usual-mix'

/**
 * The mix, all voices, the beat, or a stem: what one role or one layer has its part in of the mix. Dry: as it is picked, tidied and tuned, at its
 * level and place, without recipes, colours and spaces.
 */
export type Part =
  { kind: 'mix' } | { kind: 'vocals'; dry?: boolean } | { kind: 'beat' } | { kind: 'role'; role: Role } | { kind: 'layer'; layerId: LayerId; dry?: boolean }

/**
 * Mutes hold; a solo holds among what the part is made of. Stems and the beat sum to the mix as it is before the ceiling: what all voices go
 * through together turns each stem down by as much as it turns them all down.
 */
export function planPart(song: Song, part: Part, prints: PrintTable = NO_PRINTS): MixPlan {
  const plan = (of: Song) => planMix(of, { kind: 'song' }, prints)
  const { beat, layers } = song
  const voices = { ...song, beat: { ...beat, muted: true, soloed: false } }
  switch (part.kind) {
    case 'mix':
      return plan(song)
    case 'vocals':
      return plan(part.dry ? drySong(voices) : voices)
    case 'beat':
      return beatPlan(song, plan)
    case 'role':
      return { ...plan(voices), stem: layers.filter(layer => layer.role === part.role).map(layer => layer.id) }
    case 'layer':
      return { ...plan(part.dry ? drySong(voices) : voices), stem: [requireLayer(song, part.layerId).id] }
  }
}

function drySong(song: Song): Song {
  const bare = <P extends { recipe: Song['vocalBus']['recipe'] }>(part: P): P => ({ ...part, recipe: EMPTY_RECIPE })
  return {
    ...song,
    vocalBus: bare(song.vocalBus),
    buses: song.buses.map(bare),
    layers: song.layers.map(layer => ({ ...bare(layer), sends: [], throws: [], colours: [] })),
  }
}

/** The beat by itself: with the voices unheard beside it where it gives way to them, and without them where it does not. */
function beatPlan({ beat, layers, ...song }: Song, plan: (of: Song) => MixPlan): MixPlan {
  const givesWay = beat.room.dipDecibels > 0 || beat.room.levelDecibels > 0
  const alone = plan({ ...song, beat: { ...beat, soloed: false }, layers: layers.map(layer => ({ ...layer, muted: layer.muted || !givesWay, soloed: false })) })
  return givesWay ? { ...alone, stem: [] } : alone
}

/** Layers of which something would be heard: picked or made, not muted, and soloed where any is. In the song's order. */
export function layersHeard(song: Song): Song['layers'] {
  const { channels } = planPart(song, { kind: 'vocals' })
  const sounds = (layer: Layer, spans: readonly unknown[]) => spans.length > 0 || madePhrases(song, layer).length > 0
  return song.layers.filter(layer => channels.some(({ id, gain, spans }) => id === layer.id && gain > 0 && sounds(layer, spans)))
}

/** A stem for each role, or for each layer, of which something would be heard. */
export function planStems(song: Song, by: 'role' | 'layer', { dry = false } = {}): Part[] {
  const heard = layersHeard(song)
  if (by === 'layer') return heard.map(layer => ({ kind: 'layer', layerId: layer.id, ...(dry ? { dry } : {}) }))
  return [...new Set(heard.map(layer => layer.role))].map(role => ({ kind: 'role', role }))
}

/** For a file's name, in the song's own words. Two layers may have one name. */
export function nameOfPart(song: Song, part: Part): string {
  if (part.kind === 'role') return song.buses.find(bus => bus.role === part.role)?.name ?? part.role
  const dry = 'dry' in part && part.dry ? ' dry' : ''
  if (part.kind === 'layer') return nameOfLayer(requireLayer(song, part.layerId)) + dry
  return part.kind + dry
}

/** What nobody sang says so. */
function nameOfLayer(layer: Layer): string {
  return layer.made && currentComp(layer).picks.length === 0 ? `${layer.name} (made)` : layer.name
}

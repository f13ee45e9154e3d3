/** The parts of a song that can be delivered, and their plans. */
import { spansOfBeat } from '../mix/beat-spans'
import { guidesOf } from '../mix/guides'
import { beforeWhole } from '../mix/heard'
import { planMix, type MixPlan } from '../mix/plan'
import { playing } from '../mix/playing'
import { NO_PRINTS, type PrintTable } from '../prints/jobs'
import { madePhrases } from '../prints/made-voices'
import type { SpaceId } from '../song/mix-schema'
import type { Layer, LayerId, Role, Song } from '../song/schema'
import { currentComp, requireLayer } from '../song/select'
import { EMPTY_RECIPE } from '../song/usual-mix'
import { CLICK_ASSET } from './click-sound'

/**
 * The mix, all voices, the beat, or a stem: what one role, one layer or one space has its part in of the mix; the click, or the notes that a layer is to
 * sing, as a tone. Dry: as it is picked, tidied and tuned, at its level and place, without recipes, colours and spaces. Bare: with all of them but spaces.
 */
export type Part =
  | { kind: 'mix' }
  | { kind: 'vocals'; dry?: boolean }
  | { kind: 'beat' }
  | { kind: 'role'; role: Role }
  | { kind: 'layer'; layerId: LayerId; dry?: boolean; bare?: boolean }
  | { kind: 'space'; spaceId: SpaceId }
  | { kind: 'click' }
  | { kind: 'guide'; layerId: LayerId }

/**
 * Mutes hold; a solo holds among what the part is made of. Stems and the beat sum to the mix as it is before what the whole goes through and the
 * ceiling: what all voices go through together turns each stem down by as much as it turns them all down.
 * @param song As `songOfPart` gives it, with its prints.
 */
export function planPart(song: Song, part: Part, prints: PrintTable = NO_PRINTS): MixPlan {
  const plan = (of: Song) => planMix(of, { kind: 'song' }, prints)
  if (part.kind === 'mix') return plan(song)
  const { layers } = song
  const before = beforeWhole(song)
  const voices = withoutBeat(before)
  switch (part.kind) {
    case 'guide':
      return plan(voices)
    case 'vocals':
      return plan(part.dry ? drySong(voices) : voices)
    case 'beat':
      return beatPlan(before, plan)
    case 'role':
      return { ...plan(voices), stem: layers.filter(layer => layer.role === part.role).map(layer => layer.id) }
    case 'layer': {
      const stem = { ...plan(part.dry ? drySong(voices) : voices), stem: [requireLayer(song, part.layerId).id] }
      return part.bare ? { ...stem, answering: [] } : stem
    }
    case 'space':
      return spacePlan(plan(voices), part.spaceId)
    case 'click':
      return clickPlan(plan(before), before)
  }
}

/** The song that a part is made from: what it needs is made ready of this one. */
export function songOfPart(song: Song, part: Part): Song {
  if (part.kind !== 'guide') return song
  const layer = requireLayer(song, part.layerId)
  const [guide] = guidesOf(song, { ...playing(layer, []), made: null }, 'tone')
  return { ...song, layers: guide ? [{ ...guide, recipe: EMPTY_RECIPE, sends: [], throws: [], colours: [] }] : [], buses: [] }
}

function withoutBeat(song: Song): Song {
  return { ...song, beat: { ...song.beat, muted: true, soloed: false } }
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

/** What one space answers to all voices, with what other spaces feed into it; it and its twins for thrown words. */
function spacePlan(voices: MixPlan, spaceId: SpaceId): MixPlan {
  const own = voices.spaces.flatMap(({ id }, i) => (id === spaceId || id.startsWith(`${spaceId} `) ? [i] : []))
  return { ...voices, buses: voices.buses.map(bus => (bus.into === 'output' ? { ...bus, dry: 0 } : bus)), answering: own }
}

function clickPlan(whole: MixPlan, { beat }: Song): MixPlan {
  const pieces = [{ startFrame: 0, sourceFrame: 0, frames: beat.frames, muted: false }]
  const spans = spansOfBeat({ assetId: CLICK_ASSET, pieces, treatments: [] })
  const channel = whole.channels.find(({ id }) => id === 'beat')!
  return { ...whole, channels: [{ ...channel, spans, gain: 1, pan: 0 }], spaces: [], meters: ['beat', 'output'], standby: [], endFrame: beat.frames }
}

/** Layers of which something would be heard: picked or made, not muted, and soloed where any is. In the song's order. */
export function layersHeard(song: Song): Song['layers'] {
  const { channels } = planPart(song, { kind: 'vocals' })
  const sounds = (layer: Layer, spans: readonly unknown[]) => spans.length > 0 || madePhrases(song, layer).length > 0
  return song.layers.filter(layer => channels.some(({ id, gain, spans }) => id === layer.id && gain > 0 && sounds(layer, spans)))
}

/**
 * A stem for each role, or for each layer, of which something would be heard.
 * @param options `dry`: without all that is done to them; `bare`: without spaces, each of which is then a stem of its own. Of layers.
 */
export function planStems(song: Song, by: 'role' | 'layer', { dry = false, bare = false } = {}): Part[] {
  const heard = layersHeard(song)
  if (by === 'role') return [...new Set(heard.map(layer => layer.role))].map(role => ({ kind: 'role', role }))
  const layers: Part[] = heard.map(layer => ({ kind: 'layer', layerId: layer.id, ...(dry ? { dry } : {}), ...(bare ? { bare } : {}) }))
  return bare ? [...layers, ...spacesFed(song, heard)] : layers
}

/** Spaces that something goes into: a layer, a thrown word, or another space. */
function spacesFed({ spaces }: Song, heard: readonly Layer[]): Part[] {
  const fed = new Set<SpaceId>(heard.flatMap(({ sends, throws }) => [...sends, ...throws].map(({ spaceId }) => spaceId)))
  for (let before = -1; fed.size !== before;) {
    before = fed.size
    for (const { id, feeds } of spaces) if (feeds && fed.has(id)) fed.add(feeds.spaceId)
  }
  return spaces.filter(({ id }) => fed.has(id)).map(({ id }) => ({ kind: 'space', spaceId: id }))
}

/** The notes of each layer that has some to sing. */
export function planGuides({ layers }: Song): Part[] {
  return layers.filter(({ part }) => part.length > 0).map(({ id }) => ({ kind: 'guide', layerId: id }))
}

/** For a file's name, in the song's own words. Two layers may have one name. */
export function nameOfPart(song: Song, part: Part): string {
  switch (part.kind) {
    case 'role':
      return song.buses.find(bus => bus.role === part.role)?.name ?? part.role
    case 'space':
      return song.spaces.find(({ id }) => id === part.spaceId)?.name ?? 'space'
    case 'guide':
      return `${requireLayer(song, part.layerId).name} guide`
    case 'layer':
      return `${nameOfLayer(requireLayer(song, part.layerId))}${part.dry ? ' dry' : ''}${part.bare ? ' without spaces' : ''}`
    default:
      return 'dry' in part && part.dry ? `${part.kind} dry` : part.kind
  }
}

/** What nobody sang says so. */
function nameOfLayer(layer: Layer): string {
  return layer.made && currentComp(layer).picks.length === 0 ? `${layer.name} (made)` : layer.name
}

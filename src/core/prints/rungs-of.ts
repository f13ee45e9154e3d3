/** To which rung each note of a take is drawn in a layer: the key's, the chord's of the moment, or that of another layer's notes. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { chordTones } from '../beat/chord-names'
import { frameOfBeat } from '../beat/grid'
import { scaleSemitones, TONICS } from '../beat/key-names'
import type { Layer, LayerId, Song, Take } from '../song/schema'
import { currentComp, placedLines, requireTake, type FrameRange } from '../song/select'
import type { Heard, LayerTune, TuneTo } from '../song/tidy-schema'
import { chordRung, guideRung, toScale, type GuideNote, type Scale, type TargetedNote } from '../tune/targets'
import type { SungNote } from '../voice/notes'

/** What was found never changes, and every edit of its take asks for the rungs again. */
const knownNotes = new WeakMap<Heard, SungNote[]>()
const knownScaled = new WeakMap<Heard, { by: readonly unknown[]; notes: TargetedNote[] }>()
const knownRungs = new WeakMap<Heard, { by: readonly unknown[]; notes: TargetedNote[] }>()

/** By what, beside the take itself, its rungs change. */
export function rungsDependOn({ beat, sections, layers, takes }: Song, { part }: Pick<Layer, 'part'>, { to, lines }: LayerTune): unknown[] {
  const all = [to, ...lines.map(line => line.to)]
  const inTime = all.some(({ kind }) => kind === 'chord') || lines.length > 0 ? [beat.chords, beat.grid, sections] : []
  const guides = all.flatMap(wanted => {
    const guide = wanted.kind === 'layer' && layers.find(({ id }) => id === wanted.layerId)
    return guide ? [guide.comps, guide.currentCompId, takes] : []
  })
  const own = all.some(({ kind }) => kind === 'part') ? [part] : []
  return [beat.key, beat.colour, beat.tuningCents, ...inTime, ...guides, ...own]
}

/** In the order of the notes; `targetCents` is null without a key. */
export function rungsOf(song: Song, layer: Layer, take: Take, heard: Heard): TargetedNote[] {
  const { key, colour, tuningCents } = song.beat
  const { tune } = layer
  const scale = key && { key, colour, tuningCents }
  const scaled = scaledNotes(heard, scale)
  if (!scale || !tune || (tune.to.kind === 'key' && tune.lines.length === 0)) return scaled
  return remembered(knownRungs, heard, [tune, layer.id, take.originFrame, ...rungsDependOn(song, layer, tune)], () => {
    const rungAt = rungsBy(song, layer, tune, scale)
    return scaled.map(note => {
      const frame = (seconds: number) => take.originFrame + Math.round(seconds * SAMPLE_RATE_HZ)
      const targetCents = rungAt({ startFrame: frame(note.startSeconds), endFrame: frame(note.endSeconds), cents: note.cents, keyRung: note.targetCents! })
      return targetCents === null ? note : { ...note, targetCents }
    })
  })
}

function remembered(
  known: WeakMap<Heard, { by: readonly unknown[]; notes: TargetedNote[] }>,
  heard: Heard,
  by: readonly unknown[],
  make: () => TargetedNote[],
) {
  const before = known.get(heard)
  if (before && before.by.length === by.length && before.by.every((value, i) => value === by[i])) return before.notes
  const notes = make()
  known.set(heard, { by, notes })
  return notes
}

function scaledNotes(heard: Heard, scale: Scale | null): TargetedNote[] {
  return remembered(knownScaled, heard, [scale?.key, scale?.colour, scale?.tuningCents], () => {
    const sung = sungNotes(heard)
    return scale ? toScale(sung, scale) : sung.map(note => ({ ...note, targetCents: null }))
  })
}

/** A note in the song. */
type PlacedNote = FrameRange & { cents: number; keyRung: number }

/** Where a note goes that does not go to the key; null where the key says. */
function rungsBy(song: Song, { id: layerId, part }: Layer, { to, lines }: LayerTune, scale: Scale): (note: PlacedNote) => number | null {
  const own =
    lines.length > 0 ? placedLines(song).flatMap(placed => lines.filter(({ lineId }) => lineId === placed.line.id).map(line => ({ placed, to: line.to }))) : []
  const chords = chordsOf(song)
  const written = part.map(({ midi, ...range }) => ({ ...range, cents: 100 * midi + scale.tuningCents }))
  const guides = new Map<LayerId, GuideNote[]>()
  const rungTo = (wanted: TuneTo, note: PlacedNote): number | null => {
    const middle = (note.startFrame + note.endFrame) / 2
    if (wanted.kind === 'chord') {
      const chord = chords.find(({ startFrame, endFrame }) => middle >= startFrame && middle < endFrame)
      return chord ? chordRung(note.cents, note.keyRung, chord.tones, scale.tuningCents) : null
    }
    if (wanted.kind === 'part') return guideRung(note, written)
    if (wanted.kind === 'key' || wanted.layerId === layerId) return null
    if (!guides.has(wanted.layerId)) guides.set(wanted.layerId, guideOf(song, wanted.layerId, scale))
    return guideRung(note, guides.get(wanted.layerId)!)
  }
  return note => {
    const middle = (note.startFrame + note.endFrame) / 2
    const line = own.find(({ placed }) => middle >= placed.startFrame && middle < placed.endFrame)
    return rungTo(line ? line.to : to, note)
  }
}

/**
 * The rungs that a layer's singer is drawn to at a moment of the song, in every octave: in cents above C, 0 to 1200; none without a key. What was
 * sung is not known yet: where another layer is followed, its note of this moment is the one rung, and in its rests the key's are.
 */
export function rungsAt(song: Song, layer: Layer, frame: number): number[] {
  const { key, colour, tuningCents } = song.beat
  if (!key) return []
  const scale = { key, colour, tuningCents }
  const tonic = TONICS.indexOf(key.tonic)
  const ofKey = scaleSemitones(key.mode, colour).map(semitone => 100 * ((tonic + semitone) % 12) + tuningCents)
  const to = layer.tune ? toAt(song, layer.tune, frame) : { kind: 'key' as const }
  if (to.kind === 'chord') {
    const chord = chordsOf(song).find(({ startFrame, endFrame }) => frame >= startFrame && frame < endFrame)
    return chord ? chord.tones.map(tone => 100 * tone + tuningCents) : ofKey
  }
  if (to.kind === 'part') {
    const written = layer.part.find(({ startFrame, endFrame }) => frame >= startFrame && frame < endFrame)
    return written ? [100 * (written.midi % 12) + tuningCents] : ofKey
  }
  if (to.kind === 'key' || to.layerId === layer.id) return ofKey
  const note = guideOf(song, to.layerId, scale).find(({ startFrame, endFrame }) => frame >= startFrame && frame < endFrame)
  return note ? [((note.cents % 1_200) + 1_200) % 1_200] : ofKey
}

function toAt(song: Song, { to, lines }: LayerTune, frame: number): TuneTo {
  const placed = lines.length > 0 && placedLines(song).find(({ startFrame, endFrame }) => frame >= startFrame && frame < endFrame)
  return (placed && lines.find(({ lineId }) => lineId === placed.line.id)?.to) || to
}

function chordsOf({ beat: { chords, grid } }: Song) {
  return chords.map(chord => ({
    startFrame: frameOfBeat(grid, chord.startBeat),
    endFrame: frameOfBeat(grid, chord.startBeat + chord.beatCount),
    tones: chordTones(chord),
  }))
}

/** The notes that a layer plays, each on its rung of the key; none of a layer that is gone. */
function guideOf(song: Song, layerId: LayerId, scale: Scale): GuideNote[] {
  const layer = song.layers.find(({ id }) => id === layerId)
  if (!layer) return []
  return currentComp(layer).picks.flatMap(pick => {
    const take = requireTake(song, pick.takeId)
    if (!take.heard) return []
    const origin = take.originFrame + pick.nudgeFrames
    return scaledNotes(take.heard, scale)
      .map(note => {
        const middle = ((note.startSeconds + note.endSeconds) / 2) * SAMPLE_RATE_HZ
        const changed = take.edits.notes.find(({ startFrame, endFrame }) => startFrame <= middle && endFrame > middle)
        return {
          startFrame: origin + Math.round(note.startSeconds * SAMPLE_RATE_HZ),
          endFrame: origin + Math.round(note.endSeconds * SAMPLE_RATE_HZ),
          cents: changed?.rungCents ?? note.targetCents!,
        }
      })
      .filter(note => note.startFrame < pick.endFrame && note.endFrame > pick.startFrame)
  })
}

/** What was found, as notes. */
export function sungNotes(heard: Heard): SungNote[] {
  const notes = knownNotes.get(heard) ?? heard.notes.map(noteOf)
  knownNotes.set(heard, notes)
  return notes
}

function noteOf([start, end, heldFrom, heldTo, cents, vibratoCents, vibratoHz]: Heard['notes'][number]): SungNote {
  return {
    startSeconds: start / SAMPLE_RATE_HZ,
    endSeconds: end / SAMPLE_RATE_HZ,
    heldFromSeconds: heldFrom / SAMPLE_RATE_HZ,
    heldToSeconds: heldTo / SAMPLE_RATE_HZ,
    cents,
    vibratoCents,
    vibratoHz,
  }
}

/** What is kept of a take's analysis with the song. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import type { Song, Take } from '../song/schema'
import { currentComp } from '../song/select'
import { MOST_FOUND, type Heard } from '../song/tidy-schema'
import type { VoiceAnalysis } from '../voice/analyse-voice'
import { readNotes, type SungNote } from '../voice/notes'
import type { Stretch } from '../voice/phrases'

/** The passes of a loop are one sound: of each only what a pick of it could play is kept, and so much beside it. */
const BESIDE_FRAMES = 2 * SAMPLE_RATE_HZ

/** Read once for all takes of a sound. */
const knownNotes = new WeakMap<VoiceAnalysis, SungNote[]>()

export function heardOf(analysis: VoiceAnalysis, { originFrame, startFrame, endFrame }: Pick<Take, 'originFrame' | 'startFrame' | 'endFrame'>): Heard {
  const notes = knownNotes.get(analysis) ?? readNotes(analysis)
  knownNotes.set(analysis, notes)
  const [from, to] = [startFrame - originFrame - BESIDE_FRAMES, endFrame - originFrame + BESIDE_FRAMES]
  const frames = Math.max(0, Math.min(to, Math.round(analysis.f0Hz.length * analysis.hopSeconds * SAMPLE_RATE_HZ)))
  const frame = (seconds: number) => Math.max(0, Math.round(seconds * SAMPLE_RATE_HZ))
  const within = <S extends Stretch>(stretches: readonly S[]) =>
    stretches
      .filter(stretch => frame(stretch.endSeconds) > Math.max(from, frame(stretch.startSeconds)) && frame(stretch.startSeconds) < to)
      .slice(0, MOST_FOUND)
  const pairs = (stretches: readonly Stretch[]) =>
    within(stretches).map(({ startSeconds, endSeconds }): [number, number] => [frame(startSeconds), frame(endSeconds)])
  const tenth = (value: number) => Math.round(value * 10) / 10
  return {
    frames,
    phrases: pairs(analysis.phrases),
    breaths: pairs(analysis.breaths),
    esses: pairs(analysis.esses),
    pops: pairs(analysis.pops),
    clicks: pairs(analysis.clicks),
    noises: pairs(analysis.noises),
    finals: pairs(analysis.finals),
    clipped: pairs(analysis.clipped),
    notes: within(notes).map(note => [
      frame(note.startSeconds),
      frame(note.endSeconds),
      frame(note.heldFromSeconds),
      frame(note.heldToSeconds),
      tenth(note.cents),
      tenth(note.vibratoCents),
      tenth(note.vibratoHz),
    ]),
  }
}

/**
 * Takes of which nothing is kept yet, and that a layer plays which is tidied, tuned, throws or colours words or ends with the lead, or one whose
 * notes or ends another follows, or that another is made from.
 */
export function unheardTakes({ layers, takes }: Pick<Song, 'layers' | 'takes'>): Take[] {
  const guides = layers
    .flatMap(({ tune }) => (tune ? [tune.to, ...tune.lines.map(line => line.to)] : []))
    .flatMap(to => (to.kind === 'layer' ? [to.layerId] : []))
  const isFollowed = layers.some(({ tidy, part }) => part.length > 0 || tidy?.endsWithLead)
  const asked = layers.filter(
    ({ id, role, tidy, tune, together, throws, colours }) =>
      tidy || tune || throws.length + colours.length > 0 || together?.endsTogether || guides.includes(id) || (isFollowed && role === 'lead'),
  )
  const played = new Set(asked.flatMap(layer => currentComp(layer).picks.map(pick => pick.takeId)))
  return takes.filter(take => take.heard === null && played.has(take.id))
}

/** Opening a stored or imported document: checked, migrated, or refused with what is wrong. */
import { z } from 'zod'
import { NO_ROOM } from './beat-room'
import { mendSong, type Mend } from './mend'
import { SONG_VERSION, SongSchema, type Song } from './schema'
import { USUAL_STAGE } from './stage-schema'
import { EMPTY_RECIPE } from './usual-mix'

export type OpenedSong =
  /** `mends` says what had to be cut or clamped to fit. */
  | { kind: 'current'; song: Song; mends: Mend[] }
  /** From a later release: shown if it can be, never edited. */
  | { kind: 'newer'; version: number; song: Song | null }
  | { kind: 'damaged'; problems: { path: string; expected: string }[] }

/** Each entry turns a document of version `key` into one of the next. Version 1 is the first. */
const MIGRATIONS: Record<number, (document: Record<string, unknown>) => Record<string, unknown>> = {
  // Version 0 was never released: it kept lyrics-free songs without `sectionsAreDefault`. It stands here so that the path is walked.
  0: document => ({ sectionsAreDefault: false, ...document, version: 1 }),
  // Version 1 knew quarters and steady tempos only, and beats without chords, arrangement or treatments.
  1: document => {
    const beat = (document.beat ?? {}) as Record<string, unknown>
    const grid = (beat.grid ?? {}) as Record<string, unknown>
    const whole = [{ startFrame: 0, sourceFrame: 0, frames: beat.frames, muted: false }]
    return {
      ...document,
      version: 2,
      beat: {
        ...beat,
        fileSays: { title: null, tempoBpm: null, key: null },
        sourceFrames: beat.frames,
        pieces: whole,
        treatments: [],
        colour: null,
        chords: [],
        grid: { ...grid, beatUnit: 'quarter', map: null },
      },
    }
  },
  // Version 2 knew less about takes.
  2: document => {
    return {
      ...document,
      version: 3,
      takes: listOf(document.takes).map(take => ({ ...take, roundTripMeasuredAt: null, inputName: '', level: null, flaws: [], note: '', spare: false })),
    }
  },
  // Version 3 had no seams of its own choice, no locks, no parked stretches.
  3: document => {
    const picks = (value: unknown) => listOf(value).map(pick => ({ ...pick, levelMatched: false, seam: null, split: false }))
    const comps = (value: unknown) => listOf(value).map(comp => ({ ...comp, locked: false, picks: picks(comp.picks) }))
    return {
      ...document,
      version: 4,
      layers: listOf(document.layers).map(layer => ({ ...layer, comps: comps(layer.comps), singAgain: [] })),
      takes: listOf(document.takes).map(take => ({ ...take, printOf: null })),
      spares: [],
    }
  },
  // Version 4 had one recipe of a fixed shape, one space, and one send a layer.
  4: document => {
    const { space, ...others } = document
    const bus = fieldsOf(document.vocalBus)
    const { enabled, lowCut, compressor, shelf } = fieldsOf(bus.recipe)
    const step = (kind: string, settings: unknown) => ({ id: kind, kind, enabled: true, ...fieldsOf(settings) })
    const empty = { enabled: true, steps: [] }
    return {
      ...others,
      version: 5,
      vocalBus: { ...bus, recipe: { enabled, steps: [step('low-cut', lowCut), step('compressor', compressor), step('air', shelf)] } },
      buses: listOf(document.buses).map(entry => ({ ...entry, recipe: empty })),
      spaces: [{ id: 'plate', kind: 'plate', ...fieldsOf(space) }],
      layers: listOf(document.layers).map(({ sendDecibels, ...layer }) => ({
        ...layer,
        ride: [],
        recipe: empty,
        sends: [{ spaceId: 'plate', gainDecibels: sendDecibels }],
      })),
    }
  },
  // Version 5 moved levels only, laid nothing over a take, rendered treatments when they were laid, and called a bounce a print.
  5: document => ({
    ...document,
    version: 6,
    layers: listOf(document.layers).map(layer => ({
      ...layer,
      ride: listOf(layer.ride).map(({ gainDecibels, ...point }) => ({ ...point, value: gainDecibels })),
      panRide: [],
      comps: listOf(layer.comps).map(comp => ({ ...comp, picks: asSungOrNot(comp.picks) })),
      sends: listOf(layer.sends).map(send => ({ ...send, ride: [] })),
    })),
    takes: listOf(document.takes).map(({ printOf, ...take }) => ({ ...take, edits: { gains: [], notes: [], times: [] }, bounceOf: bounceOfPrint(printOf) })),
    beat: { ...fieldsOf(document.beat), treatments: listOf(fieldsOf(document.beat).treatments).map(treatment => ({ ...treatment, fadeFrames: 0 })) },
  }),
  // Version 6 neither tidied nor tuned a layer, and kept nothing of what was found in a take.
  6: document => ({
    ...document,
    version: 7,
    layers: listOf(document.layers).map(layer => ({ ...layer, tidy: null, tune: null })),
    takes: listOf(document.takes).map(take => ({ ...take, edits: withRungs(take.edits), heard: null, bounceOf: tidiedBounce(take.bounceOf) })),
  }),
  // Version 7 tuned to the key only.
  7: document => ({
    ...document,
    version: 8,
    layers: listOf(document.layers).map(layer => ({ ...layer, tune: tunedToKey(layer.tune) })),
    takes: listOf(document.takes).map(take =>
      take.bounceOf ? { ...take, bounceOf: { ...fieldsOf(take.bounceOf), tune: tunedToKey(fieldsOf(take.bounceOf).tune) } } : take,
    ),
  }),
  // Version 8 knew neither noises, clipped tops nor final consonants, and let every voice begin and end by itself.
  8: document => ({
    ...document,
    version: 9,
    layers: listOf(document.layers).map(layer => ({ ...layer, tidy: tidiedSo(layer.tidy), together: null, paths: [], part: [], made: null })),
    takes: listOf(document.takes).map(take => ({
      ...take,
      heard: take.heard ? { ...fieldsOf(take.heard), noises: [], finals: [], clipped: [] } : take.heard,
      bounceOf: take.bounceOf ? { ...fieldsOf(take.bounceOf), tidy: tidiedSo(fieldsOf(take.bounceOf).tidy) } : take.bounceOf,
    })),
  }),
  // Version 9 knew no plan of a stack, no near and far, no ends that lie together, and no part that sounds as a tone.
  9: document => ({
    ...document,
    version: 10,
    stage: USUAL_STAGE,
    layers: listOf(document.layers).map(layer => ({
      ...layer,
      distance: 0,
      wanted: [],
      made: layer.made ? { sound: 'lead', ...fieldsOf(layer.made) } : layer.made,
      together: layer.together ? { ...fieldsOf(layer.together), endsTogether: false } : layer.together,
    })),
  }),
  // Version 10 threw and coloured no words, took every recipe whole, and its spaces answered all alike.
  10: document => ({
    ...document,
    version: 11,
    mixes: [],
    reference: null,
    beat: { ...fieldsOf(document.beat), room: NO_ROOM },
    vocalBus: withAmount(fieldsOf(document.vocalBus)),
    buses: listOf(document.buses).map(withAmount),
    spaces: listOf(document.spaces).map(space => ({
      ...space,
      duckDecibels: 0,
      duckReleaseSeconds: 0.3,
      feeds: null,
      ...(space.kind === 'echo' ? { wornFraction: 0 } : { lowCutHz: 20, widthFraction: 1 }),
    })),
    layers: listOf(document.layers).map(layer => ({ ...withAmount(layer), throws: [], colours: [] })),
  }),
  // Version 11 planned no lines that were not there yet, and its reverbs were of one size each.
  11: document => ({
    ...document,
    version: 12,
    spaces: listOf(document.spaces).map(withSize),
    mixes: listOf(document.mixes).map(mix => ({ ...mix, values: { ...fieldsOf(mix.values), spaces: listOf(fieldsOf(mix.values).spaces).map(withSize) } })),
    layers: listOf(document.layers).map(layer => ({ ...layer, sings: [] })),
  }),
  // In version 12 voices and beat together went through nothing but the ceiling.
  12: document => ({
    ...document,
    version: 13,
    output: withRecipe(document.output),
    mixes: listOf(document.mixes).map(mix => ({ ...mix, values: { ...fieldsOf(mix.values), output: withRecipe(fieldsOf(mix.values).output) } })),
  }),
}

/** An output as it was before the whole mix had a recipe. */
export function withRecipe(output: unknown): Record<string, unknown> {
  return { recipe: EMPTY_RECIPE, ...fieldsOf(output) }
}

/** A space as it was before reverbs had a size. */
export function withSize(space: Record<string, unknown>): Record<string, unknown> {
  return space.kind === 'echo' || space.kind === 'press' ? space : { sizeFraction: 1, ...space }
}

/** A part with its recipe, whose steps could do less. */
function withAmount(part: Record<string, unknown>): Record<string, unknown> {
  const { steps, ...recipe } = fieldsOf(part.recipe)
  const more: Record<string, object> = { 'low-cut': { slopeDecibels: 12 }, compressor: { kneeDecibels: 6, mixFraction: 1 } }
  return { ...part, recipe: { ...recipe, amount: 1, steps: listOf(steps).map(step => ({ ...more[String(step.kind)], ...step })) } }
}

function tidiedSo(tidy: unknown): unknown {
  return tidy ? { ...fieldsOf(tidy), fillsNoises: false, roundsClips: false, finalDecibels: 0, endsWithLead: false } : tidy
}

function tunedToKey(tune: unknown): unknown {
  return tune ? { ...fieldsOf(tune), to: { kind: 'key' }, lines: [] } : tune
}

function asSungOrNot(picks: unknown): Record<string, unknown>[] {
  return listOf(picks).map(pick => ({ ...pick, asSung: false }))
}

function bounceOfPrint(printOf: unknown): unknown {
  if (typeof printOf !== 'object' || printOf === null) return printOf
  const { picks, ...others } = fieldsOf(printOf)
  return { ...others, picks: asSungOrNot(picks), edits: [] }
}

function withRungs(edits: unknown): unknown {
  const { notes, ...others } = fieldsOf(edits)
  return { ...others, notes: listOf(notes).map(note => ({ ...note, rungCents: null })), mends: [] }
}

function tidiedBounce(bounceOf: unknown): unknown {
  if (typeof bounceOf !== 'object' || bounceOf === null) return bounceOf
  const { edits, ...others } = fieldsOf(bounceOf)
  return { ...others, edits: listOf(edits).map(entry => ({ ...entry, edits: withRungs(entry.edits) })), tidy: null, tune: null }
}

function fieldsOf(value: unknown): Record<string, unknown> {
  return ((typeof value === 'object' ? value : null) as Record<string, unknown>) ?? {}
}

function listOf(value: unknown): Record<string, unknown>[] {
  return Array.isArray(value) ? value.map(fieldsOf) : []
}

/** @param value Anything that came from outside, such as parsed JSON. */
export function openSong(value: unknown): OpenedSong {
  const head = z.looseObject({ version: z.number().int().min(0) }).safeParse(value)
  if (!head.success) return { kind: 'damaged', problems: listProblems(head.error) }
  let document: Record<string, unknown> = head.data
  if (head.data.version > SONG_VERSION) {
    const asCurrent = SongSchema.safeParse({ ...document, version: SONG_VERSION })
    return { kind: 'newer', version: head.data.version, song: asCurrent.success ? asCurrent.data : null }
  }
  for (let version = head.data.version; version < SONG_VERSION; version++) document = MIGRATIONS[version](document)
  const parsed = SongSchema.safeParse(document)
  if (parsed.success) return { kind: 'current', song: parsed.data, mends: [] }
  const mended = mendSong(document)
  return mended ? { kind: 'current', ...mended } : { kind: 'damaged', problems: listProblems(parsed.error) }
}

function listProblems(error: z.ZodError): { path: string; expected: string }[] {
  return error.issues.slice(0, 10).map(issue => ({ path: issue.path.join('.') || '(document)', expected: issue.message }))
}

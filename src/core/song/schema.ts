/** The song document, described once: every type of it is inferred from here. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { z } from 'zod'
import { CHORD_QUALITIES } from '../beat/chord-names'
import { MODE_COLOURS, TONICS } from '../beat/key-names'
import { TEMPO_RANGE_BPM } from '../beat/grid'
import { TREATMENT_KINDS } from '../beat/treatment-kinds'
import { BeatRoomSchema } from './beat-room'
import { TakeEditsSchema } from './edit-schema'
import { frame, gainDecibels, id, MAX_FRAME, name, pan, sings } from './fields'
import { ColoursSchema, LevelRideSchema, PanRideSchema, RecipeSchema, SendsSchema, ThrowsSchema } from './mix-schema'
import { BusesSchema, KeptMixesSchema, OutputSchema, SpacesSchema, VocalBusSchema } from './kept-mix-schema'
import { MadeSchema, PartSchema } from './part-schema'
import { findBrokenReferences } from './references'
import { RoleSchema } from './role-schema'
import { DistanceSchema, StageSchema } from './stage-schema'
import { HeardSchema, LayerTidySchema, LayerTuneSchema } from './tidy-schema'
import { LedPathsSchema, TogetherSchema } from './together-schema'

export { GAIN_RANGE_DECIBELS } from './fields'
export type { Role } from './role-schema'

export const SONG_VERSION = 13

export const SongIdSchema = id.brand<'SongId'>()
export const AssetIdSchema = id.brand<'AssetId'>()
const SectionIdSchema = id.brand<'SectionId'>()
const LineIdSchema = id.brand<'LineId'>()
const LayerIdSchema = id.brand<'LayerId'>()
const TakeIdSchema = id.brand<'TakeId'>()
const CompIdSchema = id.brand<'CompId'>()
const PickIdSchema = id.brand<'PickId'>()
const SpareIdSchema = id.brand<'SpareId'>()
export type SongId = z.infer<typeof SongIdSchema>
export type AssetId = z.infer<typeof AssetIdSchema>
export type SectionId = z.infer<typeof SectionIdSchema>
export type LineId = z.infer<typeof LineIdSchema>
export type LayerId = z.infer<typeof LayerIdSchema>
export type TakeId = z.infer<typeof TakeIdSchema>
export type CompId = z.infer<typeof CompIdSchema>
export type PickId = z.infer<typeof PickIdSchema>
export type SpareId = z.infer<typeof SpareIdSchema>

const GridSchema = z.strictObject({
  tempoBpm: z.number().min(TEMPO_RANGE_BPM.min).max(TEMPO_RANGE_BPM.max),
  barOneFrame: frame,
  beatsPerBar: z.number().int().min(1).max(12),
  beatUnit: z.enum(['quarter', 'dotted-quarter']),
  map: z
    .strictObject({ firstBeat: z.number().int().min(-20_000).max(20_000), frames: z.array(frame).min(2).max(20_000) })
    .refine(({ frames }) => frames.every((at, i) => i === 0 || at > frames[i - 1]), 'beats in rising order')
    .nullable(),
})

const KeySchema = z.strictObject({ tonic: z.enum(TONICS), mode: z.enum(['major', 'minor']) })

/** Where the grid or the key comes from. */
const SourceSchema = z.enum(['unknown', 'found', 'typed'])

const ChordSchema = z.strictObject({
  /** Counted from bar one. */
  startBeat: z.number().int().min(-20_000).max(20_000),
  beatCount: z.number().int().min(1).max(20_000),
  root: z.number().int().min(0).max(11),
  quality: z.enum(CHORD_QUALITIES),
})
export type BeatChord = z.infer<typeof ChordSchema>

/** A stretch of the imported file where it sounds in the song. */
const BeatPieceSchema = z.strictObject({
  startFrame: frame,
  /** In the file; may reach before its start or past its end, where it is silent. */
  sourceFrame: frame,
  frames: z.number().int().min(1).max(MAX_FRAME),
  muted: z.boolean(),
})
export type BeatPiece = z.infer<typeof BeatPieceSchema>

/** A stretch of the file with another colour: a print of it stands in for it; its fades are inside. */
const TreatmentSchema = z.strictObject({
  id: z.string().min(1).max(64),
  kind: z.enum(TREATMENT_KINDS),
  amount: z.number().min(0).max(1),
  fadeFrames: z.number().int().min(0).max(MAX_FRAME),
  sourceStartFrame: frame,
  sourceEndFrame: frame,
  /** What stands in for it in a song of version 5 or before, whose treatments were rendered when they were laid; otherwise null. */
  assetId: AssetIdSchema.nullable(),
})
export type Treatment = z.infer<typeof TreatmentSchema>

/** The imported instrumental. Its key is null until found or typed. */
const BeatSchema = z.strictObject({
  assetId: AssetIdSchema,
  fileName: z.string().max(255),
  /** What the file's tags say; only shown. */
  fileSays: z.strictObject({
    title: name.nullable(),
    tempoBpm: z.number().min(TEMPO_RANGE_BPM.min).max(TEMPO_RANGE_BPM.max).nullable(),
    key: KeySchema.nullable(),
  }),
  /** Length of the file. */
  sourceFrames: z.number().int().min(1).max(MAX_FRAME),
  /** In order and without gaps from frame 0 to `frames`; one piece of the whole file if nothing was rearranged. */
  pieces: z.array(BeatPieceSchema).min(1).max(2_000),
  /** In order, without overlap. */
  treatments: z.array(TreatmentSchema).max(200),
  /** Length of the beat as arranged. */
  frames: z.number().int().min(1).max(MAX_FRAME),
  grid: GridSchema,
  gridSource: SourceSchema,
  key: KeySchema.nullable(),
  /** A shade of the key's mode, such as dorian. */
  colour: z.enum(MODE_COLOURS).nullable(),
  keySource: SourceSchema,
  /** In order; beats between them have none. */
  chords: z.array(ChordSchema).max(10_000),
  tuningCents: z.number().min(-100).max(100),
  gainDecibels,
  pan,
  muted: z.boolean(),
  soloed: z.boolean(),
  room: BeatRoomSchema,
})

const ReferenceSchema = z
  .strictObject({
    assetId: AssetIdSchema,
    name: z.string().max(255),
    frames: z.number().int().min(1).max(MAX_FRAME),
  })
  .nullable()
export type Reference = NonNullable<z.infer<typeof ReferenceSchema>>

/** A stretch of a section, counted in beats from the section's first; one that begins before its section's bar has a negative start. */
const LineSchema = z.strictObject({
  id: LineIdSchema,
  words: z.string().max(500),
  startBeat: z.number().min(-10_000).max(10_000),
  beatCount: z.number().positive().max(10_000),
})

/** A named stretch of bars. Sections lie in order and never overlap; bars between them may be free. */
const SectionSchema = z.strictObject({
  id: SectionIdSchema,
  name,
  startBar: z.number().int().min(-100).max(5_000),
  barCount: z.number().int().min(1).max(5_000),
  lines: z.array(LineSchema).max(500),
  /** Where it lay before a corrected tempo rounded it to whole bars; another correction starts from there. Absent where the bars are exact. */
  heldAt: z.strictObject({ startFrame: frame, endFrame: frame }).optional(),
})

export const SEAM_FRAMES_RANGE = { min: 48, max: 9_600 } as const

/** How a pick is crossfaded with the one it meets at its start. */
const SeamSchema = z.strictObject({
  frames: z.number().int().min(SEAM_FRAMES_RANGE.min).max(SEAM_FRAMES_RANGE.max),
  /** The fades add up to one in amplitude, for sounds that are alike; otherwise in power. */
  alike: z.boolean(),
  /** Chosen by the singer, not by the sound. */
  byHand: z.boolean(),
})
export type Seam = z.infer<typeof SeamSchema>

/** How far a pick may sound from where it was sung. */
export const NUDGE_RANGE_FRAMES = { min: -SAMPLE_RATE_HZ, max: SAMPLE_RATE_HZ } as const

/** "From here to here this take sounds." `nudgeFrames` later than it was sung; 0 unless the singer typed a number. */
const PickSchema = z.strictObject({
  id: PickIdSchema,
  takeId: TakeIdSchema,
  startFrame: frame,
  endFrame: frame,
  gainDecibels,
  /** Whether the gain follows the levels across its seams; otherwise it is the singer's. */
  levelMatched: z.boolean(),
  nudgeFrames: z.number().int().min(NUDGE_RANGE_FRAMES.min).max(NUDGE_RANGE_FRAMES.max),
  /** At its start; null: the usual one. */
  seam: SeamSchema.nullable(),
  /** The singer cut here: the cut stays even where both sides are one take. */
  split: z.boolean(),
  /** Without what is laid over the take. */
  asSung: z.boolean(),
})

/** Picks in time order, without overlap. A locked comp is not changed. */
const CompSchema = z.strictObject({ id: CompIdSchema, name, locked: z.boolean(), picks: z.array(PickSchema).max(5_000) })

const LayerSchema = z.strictObject({
  id: LayerIdSchema,
  name,
  role: RoleSchema,
  /** The role whose colour the layer wears; it may differ from its own. */
  tint: RoleSchema,
  gainDecibels,
  /** Added to the level. */
  ride: LevelRideSchema,
  pan,
  /** In place of `pan`, where it has points. */
  panRide: PanRideSchema,
  /** How far it stands from the listener: its level, its air and what it sends follow by the song's rule. */
  distance: DistanceSchema,
  muted: z.boolean(),
  soloed: z.boolean(),
  /** Laid over whatever it plays. */
  tidy: LayerTidySchema,
  tune: LayerTuneSchema,
  /** How tightly it follows the lead's timing, and where the lead's syllables are in its takes. */
  together: TogetherSchema,
  paths: LedPathsSchema,
  /** What it is to sing, and whether a made voice sings it where no take does. */
  part: PartSchema,
  made: MadeSchema,
  /** What its voice goes through by itself, before its level. */
  recipe: RecipeSchema,
  /** After level and place. */
  sends: SendsSchema,
  throws: ThrowsSchema,
  /** After its recipe, before its level. */
  colours: ColoursSchema,
  comps: z.array(CompSchema).min(1).max(100),
  currentCompId: CompIdSchema,
  /** Lines that it is meant to sing; they may be gone. */
  wanted: z.array(LineIdSchema).max(2_000),
  /** Sections, by their plain names, of which every line that comes into the sheet is wanted of it; null: of all. */
  sings,
  /** Lines that no take gets right, each with what is wrong. */
  singAgain: z.array(z.strictObject({ lineId: LineIdSchema, note: z.string().max(200) })).max(1_000),
})

/**
 * How a take's place was known: measured while the same devices were open, typed, measured at another opening, the browser's own figures,
 * the simulated interface's, the beat that leaked into the microphone, matched against other takes (a file brought in), or not moved at all.
 */
const RoundTripSourceSchema = z.enum(['measured', 'typed', 'remembered', 'estimated', 'simulated', 'leak', 'matched', 'none'])
export type RoundTripSource = z.infer<typeof RoundTripSourceSchema>

/** What is wrong with a stretch of a take, in song frames: samples that never came (silence stands for them), or a clock that leapt. */
const TakeFlawSchema = z.strictObject({ startFrame: frame, endFrame: frame, kind: z.enum(['missing', 'clock-jump', 'input-gone', 'suspended']) })
export type TakeFlaw = z.infer<typeof TakeFlawSchema>

/** Of levels that were measured. */
export const MEASURED_RANGE_DECIBELS = { min: -200, max: 100 } as const
const decibels = z.number().min(MEASURED_RANGE_DECIBELS.min).max(MEASURED_RANGE_DECIBELS.max)
/** How a take was sung into the microphone; to notice when a later pass is not like it. */
const TakeLevelSchema = z.strictObject({
  peakDbfs: decibels,
  /** Root mean square of the louder voiced parts. */
  voiceDbfs: decibels,
  noiseDbfs: decibels,
  /** How much weaker the voice is above 4.5 kHz than below: changes when the microphone is moved. */
  tiltDecibels: decibels,
})
export type TakeLevel = z.infer<typeof TakeLevelSchema>

/** One recorded pass. Its sound lies in an asset whose frame 0 is song frame `originFrame`; startFrame..endFrame is what of it belongs to the pass. */
const TakeSchema = z.strictObject({
  id: TakeIdSchema,
  layerId: LayerIdSchema,
  name,
  pass: z.number().int().min(1).max(100_000),
  assetId: AssetIdSchema,
  originFrame: frame,
  startFrame: frame,
  endFrame: frame,
  /** How much earlier than it was captured it lies. */
  roundTripFrames: z.number().int().min(0).max(96_000),
  roundTripSource: RoundTripSourceSchema,
  /** When the round trip was measured, if it was. */
  roundTripMeasuredAt: z.iso.datetime().nullable(),
  recordedAt: z.iso.datetime(),
  /** The microphone's or file's name. */
  inputName: z.string().max(255),
  /** Null until the take was listened to. */
  level: TakeLevelSchema.nullable(),
  flaws: z.array(TakeFlawSchema).max(1_000),
  note: z.string().max(500),
  starred: z.boolean(),
  /** Put aside for other layers or later. */
  spare: z.boolean(),
  binned: z.boolean(),
  /** What is laid over its sound, in frames of its asset. */
  edits: TakeEditsSchema,
  /** What was found in it; null until a layer that plays it is tidied or tuned. */
  heard: HeardSchema.nullable(),
  /** If it was not sung but bounced from a comp: which, the picks it was bounced from, what lay over the takes that they play and over all of its layer. */
  bounceOf: z
    .strictObject({
      compId: CompIdSchema,
      picks: z.array(PickSchema).max(5_000),
      edits: z.array(z.strictObject({ takeId: TakeIdSchema, edits: TakeEditsSchema })).max(5_000),
      tidy: LayerTidySchema,
      tune: LayerTuneSchema,
    })
    .nullable(),
})

/** A stretch of a take put aside to be called back later, from any layer. */
const SpareSchema = z.strictObject({ id: SpareIdSchema, takeId: TakeIdSchema, startFrame: frame, endFrame: frame, note: z.string().max(200) })
export type Spare = z.infer<typeof SpareSchema>

export const SongSchema = z
  .strictObject({
    version: z.literal(SONG_VERSION),
    id: SongIdSchema,
    title: z.string().min(1).max(120),
    beat: BeatSchema,
    sections: z.array(SectionSchema).max(500),
    /** True until a section is touched: default blocks are laid anew when the grid changes. */
    sectionsAreDefault: z.boolean(),
    layers: z.array(LayerSchema).max(64),
    /** The layers of a role together. */
    buses: BusesSchema,
    /** All voices together. */
    vocalBus: VocalBusSchema,
    spaces: SpacesSchema,
    /** What distance does. */
    stage: StageSchema,
    output: OutputSchema,
    /** Kept under names, to be compared with what is heard. */
    mixes: KeptMixesSchema,
    /** A finished song to hold the mix against; it is never delivered. */
    reference: ReferenceSchema,
    takes: z.array(TakeSchema).max(20_000),
    spares: z.array(SpareSchema).max(2_000),
  })
  .superRefine((song, context) => {
    for (const problem of findBrokenReferences(song)) context.addIssue({ code: 'custom', path: problem.path, message: problem.expected })
  })

export type Song = z.infer<typeof SongSchema>
export type Beat = z.infer<typeof BeatSchema>
export type Section = z.infer<typeof SectionSchema>
export type Line = z.infer<typeof LineSchema>
export type Layer = z.infer<typeof LayerSchema>
export type Comp = z.infer<typeof CompSchema>
export type Pick = z.infer<typeof PickSchema>
export type Take = z.infer<typeof TakeSchema>

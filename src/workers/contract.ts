/** The jobs that run in workers, and what they answer. Types only. */
import type { CopyInLine } from '../core/align/copies-in-song'
import type { LedLine } from '../core/align/led-paths'
import type { HeardBeat } from '../core/beat/analyse'
import type { BeatLevel } from '../core/beat/level'
import type { BeatMatch } from '../core/beat/match'
import type { TempoAnalysis, TempoWish } from '../core/beat/tempo'
import type { DeliveryReport } from '../core/deliver/delivery'
import type { DeliveryShape } from '../core/deliver/delivery-shape'
import type { DeliveryFormat, DeliveryTags } from '../core/deliver/encoders'
import type { LoudnessAim } from '../core/deliver/loudness-aim'
import type { Part } from '../core/deliver/parts'
import type { ImportedSound, ImportSoundResult } from '../core/files/import-sound'
import type { SoundFormat } from '../core/files/sniff'
import type { FileSays } from '../core/files/tags'
import type { ReadSongFileResult } from '../core/files/song-file'
import type { PeakLevel } from '../core/audio/peaks'
import type { AssetStretch } from '../core/mix/missing-sound'
import type { RecipePlace } from '../core/mix/recipes'
import type { WhatStepDoes } from '../core/mix/what-step-does'
import type { StepId } from '../core/song/mix-schema'
import type { Ridden } from '../core/mix/rides'
import type { View } from '../core/mix/heard'
import type { Clarity } from '../core/mix/clarity-in-mix'
import type { MonoCheck } from '../core/mix/mono-check'
import type { SecondOpinion } from '../core/mix/reference'
import type { RestCover } from '../core/mix/rest-cover'
import type { PrintJob } from '../core/prints/jobs'
import type { Mono } from '../core/audio/frames'
import type { RoundTripMeasurement } from '../core/latency/round-trip'
import type { LineCandidates } from '../core/comp/propose-comp'
import type { Corrections } from '../core/propose/first-mix'
import type { MixFacts } from '../core/propose/mix-facts'
import type { BesideTheLead } from '../core/stack/marks'
import type { DoublesWish } from '../core/stack/line-offers'
import type { DoublesProposal } from '../core/stack/propose-doubles'
import type { AssetId, LayerId, LineId, Song, SongId, TakeId, TakeLevel } from '../core/song/schema'
import type { FrameRange } from '../core/song/select'
import type { LedPath } from '../core/song/together-schema'
import type { VoiceAnalysis } from '../core/voice/analyse-voice'
import type { RoomCheck } from '../core/voice/mic-check'
import type { ClapCheck } from '../core/latency/clap-check'
import type { LeakReading } from '../core/latency/leak'

/** @param found What a job has found so far, where it finds things one after the other. */
export type OnProgress<Found = never> = (fraction: number, found?: Found) => void

export type ImportBeatResult =
  | { kind: 'imported'; sound: ImportedSound; fileSays: FileSays }
  | Exclude<ImportSoundResult, { kind: 'imported' } | { kind: 'cancelled' }>
  | { kind: 'storage-full' }
  | { kind: 'stuck' }

export type ImportVoiceResult =
  | Exclude<StoreSoundResult, { kind: 'imported' }>
  /** @param sidesCancel The left side alone was taken: together both were all but silent. */
  | { kind: 'imported'; sound: ImportedSound; sidesCancel: boolean }
  | { kind: 'refused'; reason: 'silent'; format: SoundFormat }

export type StoreSoundResult =
  | { kind: 'imported'; sound: ImportedSound }
  | Exclude<ImportSoundResult, { kind: 'imported' } | { kind: 'cancelled' }>
  | { kind: 'storage-full' }
  | { kind: 'stuck' }

/** Sound is not stored that would be heard; song frames. Asked again with `withoutMissing`, the job goes on with silence in its place. */
export interface MissingResult {
  kind: 'missing-sound'
  missing: AssetStretch[]
}

export type DeliverResult =
  | { kind: 'delivered'; file: Blob; report: DeliveryReport; renderSeconds: number }
  | { kind: 'nothing-sounds' }
  /** Nothing in this browser writes the format. */
  | { kind: 'no-encoder' }
  | MissingResult

/** A sound that is not stored is told once, by who plays it: a print of it is just not made. */
export type MakePrintResult = { kind: 'made'; assetId: AssetId } | { kind: 'missing-sound' } | { kind: 'storage-full' }

export type BounceResult = { kind: 'bounced'; extent: FrameRange } | { kind: 'empty' } | MissingResult

export type ExportCompResult = { kind: 'made'; file: Blob } | { kind: 'empty' } | MissingResult

export type ExportSongResult = { kind: 'made'; file: Blob } | MissingResult

export type ImportSongResult =
  | { kind: 'imported'; songId: SongId }
  /** A backup: how many songs came back, which were here already, and which could not be read. */
  | { kind: 'brought-back'; songs: number; here: string[]; refused: string[] }
  | Extract<ReadSongFileResult, { kind: 'refused' }>
  | { kind: 'storage-full' }

/** @param leftOut Songs that cannot be read or lack sound, by title. */
export type BackUpResult = { kind: 'made'; file: Blob; songs: number; leftOut: string[] } | { kind: 'empty'; leftOut: string[] }

export type ReadAddedResult =
  | { kind: 'read'; theirs: Song; assetIds: AssetId[] }
  /** It is a song over another beat. */
  | { kind: 'other-beat' }
  | Extract<ReadSongFileResult, { kind: 'refused' }>
  | { kind: 'storage-full' }

export interface MixReading {
  facts: MixFacts
  corrections: Corrections | null
}

/** What is asked for of every file of a delivery. */
export interface DeliverWish {
  format: DeliveryFormat
  /** Null: as mixed. */
  aim: LoudnessAim | null
  shape: DeliveryShape
  /** Null: the whole song, with its tail. */
  range: FrameRange | null
  tags: DeliveryTags
}

export interface Jobs {
  /** Makes ready what takes a while to start, for the import that is likely to come. */
  getReady(options: object, onProgress: OnProgress): Promise<void>
  /** Decodes, resamples and stores a dropped file; tells its coarsest peaks as they arrive, each bin once. Nothing stays of one that is refused. */
  importBeat(options: { file: File; assetId: AssetId; acceptCutShort: boolean }, onProgress: OnProgress<PeakLevel>): Promise<ImportBeatResult>
  /** What is heard in a stored beat, told as it is found; from the cache if it is known. */
  hearBeat(options: { assetId: AssetId }, onProgress: OnProgress<Partial<HeardBeat>>): Promise<HeardBeat>
  /** How loud a stored beat is and what is wrong with its level; from the cache if it is known. */
  measureBeat(options: { assetId: AssetId }, onProgress: OnProgress): Promise<BeatLevel>
  /** Listens to a stored beat for its tempo and bars alone, with a wish. */
  hearTempo(options: { assetId: AssetId; wish: TempoWish }, onProgress: OnProgress): Promise<TempoAnalysis>
  /** Makes and stores a print, if it is not stored yet. */
  makePrint(options: { job: PrintJob }, onProgress: OnProgress): Promise<MakePrintResult>
  /** For each piece of the beat, how many frames later in the file it should begin so that the joins run on. */
  alignJoins(options: { beat: Song['beat'] }, onProgress: OnProgress): Promise<number[]>
  /** A passage of the beat as arranged, at half speed with the click over it. The samples are the caller's. */
  flamTest(options: { song: Song; startFrame: number; frames: number; clickGain: number }, onProgress: OnProgress): Promise<Mono>
  /** Where an old beat lies in a new file of it. */
  matchBeats(options: { before: AssetId; after: AssetId }, onProgress: OnProgress): Promise<BeatMatch>
  /** A part of a song as a file, once all its prints are made. */
  deliver(options: DeliverWish & { song: Song; part: Part; withoutMissing: boolean }, onProgress: OnProgress): Promise<DeliverResult>
  /**
   * The whole song as one zip, opened again before it is handed over. With `withoutMissing`, takes whose sound is not stored are left out; with
   * `onlyUsed`, takes that nothing plays. `withPrints`: what is made of its sounds goes along, so that nothing has to be made again where it is opened.
   */
  exportSong(options: { song: Song; withoutMissing: boolean; onlyUsed: boolean; withPrints: boolean }, onProgress: OnProgress): Promise<ExportSongResult>
  /** Every song of the Shelf in one zip. */
  backUp(options: object, onProgress: OnProgress): Promise<BackUpResult>
  /** What a copy of the song, in a file, has beyond it. */
  readAdded(options: { song: Song; file: Blob }, onProgress: OnProgress): Promise<ReadAddedResult>
  /** A song file, or a backup of several, into storage, under ids of its own. */
  importSong(options: { file: Blob }, onProgress: OnProgress): Promise<ImportSongResult>
  /** By how many decibels the second view is louder over a range, by integrated loudness; 0 if either is silent. */
  compareLoudness(options: { song: Song; views: [View, View]; range: FrameRange }, onProgress: OnProgress): Promise<number>
  /** Layers that play one and the same sound. */
  findCopies(options: { song: Song; lineIds: LineId[] }, onProgress: OnProgress): Promise<CopyInLine[]>
  /** Where the lead's syllables are in lines of other layers. */
  findPaths(options: { song: Song; lines: LedLine[] }, onProgress: OnProgress): Promise<LedPath['places'][]>
  /** Doubles of the lead from takes that no layer plays. */
  proposeDoubles(options: { song: Song; wish: DoublesWish }, onProgress: OnProgress): Promise<DoublesProposal>
  /** How lines of a layer lie beside the lead, in time and in tune. */
  besideTheLead(options: { song: Song; layerId: LayerId; lineIds: LineId[] }, onProgress: OnProgress): Promise<BesideTheLead[]>
  /** What a step of a recipe does to a stretch; null where nothing sounds in the range. */
  readStep(options: { song: Song; place: RecipePlace; stepId: StepId; range: FrameRange }, onProgress: OnProgress): Promise<WhatStepDoes | null>
  /** How far each line of a layer stands over the beat's voice band, in LU, without the ride that is asked about. */
  readRide(options: { song: Song; layerId: LayerId; of: Ridden }, onProgress: OnProgress): Promise<Map<LineId, number>>
  /** What a first mix is laid by, and how far each line of the lead comes out of it off its aim. */
  readMix(options: { song: Song; leadOverBeatLu: number }, onProgress: OnProgress): Promise<MixReading>
  /** What a stretch of the mix loses in mono; as it is mixed, with its prints. */
  checkMono(options: { song: Song; range: FrameRange }, onProgress: OnProgress): Promise<MonoCheck>
  /** How clearly the voices are understood over a stretch of the beat, with and without the room that it makes. */
  readClarity(options: { song: Song; range: FrameRange }, onProgress: OnProgress): Promise<Clarity>
  /** What is told of the mix and of the song that it is held against. */
  readSecondOpinion(options: { song: Song }, onProgress: OnProgress): Promise<SecondOpinion>
  /** What rests of a layer hold, beside the beat there; song frames. */
  coverOfRests(options: { song: Song; layerId: LayerId; rests: FrameRange[] }, onProgress: OnProgress): Promise<RestCover[]>
  /** What the practice singer sings over a stretch of the song, several passes one after the other. The samples are the caller's. */
  sing(
    options: { song: Song; range: { startFrame: number; endFrame: number }; passes: number; firstTake: number; degreeShift: number },
    onProgress: OnProgress,
  ): Promise<Mono>
  /** Pitch, phrases, onsets and the room of a stored take; from the cache if they are known. */
  analyseVoice(options: { assetId: AssetId }, onProgress: OnProgress): Promise<VoiceAnalysis>
  /** How loud stretches of a stored capture were sung; frames of the asset. */
  readLevels(
    options: { assetId: AssetId; stretches: { takeId: TakeId; startFrame: number; endFrame: number }[] },
    onProgress: OnProgress,
  ): Promise<{ takeId: TakeId; level: TakeLevel }[]>
  /** The round trip from what came in while the probe was sent. */
  measureRoundTrip(options: { captured: Mono }, onProgress: OnProgress): Promise<RoundTripMeasurement>
  /** Where claps lie against clicks. */
  checkClaps(options: { captured: Mono; clickFrames: number[] }, onProgress: OnProgress): Promise<ClapCheck | null>
  /** Floor, hum and peaks of what the microphone heard. */
  checkRoom(options: { captured: Mono }, onProgress: OnProgress): Promise<RoomCheck>
  /** How far a take's place is off by the beat that leaked into it; null if none did. */
  readLeak(options: { song: Song; takeId: TakeId }, onProgress: OnProgress): Promise<LeakReading | null>
  /** Decodes, resamples and stores a sung file as one channel. Nothing stays of one that is refused. */
  importVoice(options: { file: File; assetId: AssetId }, onProgress: OnProgress): Promise<ImportVoiceResult>
  /** Where a sung file lies against takes of the song: the song frame of its frame 0. Null if it fits nowhere. */
  matchVoice(
    options: { assetId: AssetId; against: { assetId: AssetId; originFrame: number }[] },
    onProgress: OnProgress,
  ): Promise<{ originFrame: number; confidence: number } | null>
  /** What is known of every take of a layer, line by line; takes that were not listened to yet are. */
  compareTakes(options: { song: Song; layerId: LayerId }, onProgress: OnProgress): Promise<LineCandidates[]>
  /** What a layer's current comp plays, as a new asset whose frame 0 is song frame `startFrame`. */
  bounceComp(options: { song: Song; layerId: LayerId; assetId: AssetId; withoutMissing: boolean }, onProgress: OnProgress): Promise<BounceResult>
  /** The same as a 32-bit float WAV file that begins where the song does, so that it lies in place beside the beat. */
  exportComp(options: { song: Song; layerId: LayerId; withoutMissing: boolean }, onProgress: OnProgress): Promise<ExportCompResult>
  /** Makes a stored asset's facts and peaks from its chunks: for a recording that was never ended. Null if no chunk is there. */
  recoverAsset(options: { assetId: AssetId }, onProgress: OnProgress): Promise<{ frames: number } | null>
}

/** What a job comes to. Errors lose their class between threads, so outcomes are values. */
export type JobResult<T> = { kind: 'done'; value: T } | { kind: 'cancelled' } | { kind: 'failed'; reason: 'worker-died' | 'unexpected'; detail: string }

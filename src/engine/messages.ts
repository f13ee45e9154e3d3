/** What the page, the feeder and the mix worklet tell each other. */
import type { Mono, Planar } from '../core/audio/frames'
import type { Grid } from '../core/beat/grid'
import type { PackedPlan, SparsePlan } from '../core/mix/packed-plan'
import type { InterfaceSettings } from '../core/rehearsal/simulated-interface'
import type { CaptureFlaw } from '../core/song/recording'
import type { AssetId } from '../core/song/schema'

export interface PlayCommand {
  kind: 'play'
  fromFrame: number
  loop: { startFrame: number; endFrame: number } | null
  /** Before this song frame only the click sounds: the count-in. */
  silentBeforeFrame: number | null
  /** The transport stops by itself here. */
  stopAtFrame: number | null
}

/** Commands go from the page to the feeder, which sends them on once the sound they need has gone ahead of them. */
export type ToMix =
  /** Without the spans that the feeder knows. */
  | { kind: 'plan'; plan: SparsePlan }
  /** Of a fader that moves: the last plan has these levels now; see `levelsOf`. */
  | { kind: 'levels'; levels: Float64Array<ArrayBuffer> }
  | PlayCommand
  | { kind: 'stop' }
  /** The click sounds at this linear gain; 0 is off. In the count-in it sounds at `countInGain` even when off. Beat one is louder by `accentGain`. */
  | { kind: 'click'; grid: Grid; gain: number; countInGain: number; accentGain: number }

/** What the feeder sends: a plan is made ready there, and the audio thread builds nothing of it. The planes and the plan's numbers are transferred. */
export type FromFeeder =
  | Exclude<ToMix, { kind: 'plan' }>
  | { kind: 'plan'; plan: PackedPlan }
  | { kind: 'chunk'; assetId: AssetId; frames: number; index: number; planes: Planar }
  | { kind: 'drop'; assetId: AssetId; index: number }

/**
 * What the feeder tells the page: sound that is not stored, for which silence stands, once an asset; or that reading failed, and the
 * commands went on without.
 */
export type FromFeederToPage = { kind: 'missing'; assetId: AssetId; startFrame: number; endFrame: number } | { kind: 'failed'; detail: string }

export type ToFeeder = { kind: 'connect'; port: MessagePort; transport: Float64Array<SharedArrayBuffer> } | ToMix

/** What the mix worklet tells the page. */
export type FromMix = { kind: 'started'; contextFrame: number; songFrame: number } | { kind: 'stopped'; songFrame: number }

/** What the page tells the simulated interface: how it is, and what the practice singer sings. The voice is transferred. */
export type ToInterface =
  { kind: 'settings'; settings: InterfaceSettings } | { kind: 'voice'; voice: Mono; originFrame: number; passFrames: number } | { kind: 'quiet' }

/** A sound to be added to the output from a frame of the audio clock on. The samples are transferred. */
export interface ToOutput {
  samples: Mono
  atFrame: number
}

/** The monitor has muted itself because a howl began. */
export interface FromMonitor {
  kind: 'howl'
}

/** What the capture worklet tells the page: frames of the capture that are not as they were sung. */
export type FromCapture = CaptureFlaw

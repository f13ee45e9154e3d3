/** What the Booth knows while it records: view state, never part of the song. */
import { create } from 'zustand'
import type { AssetId, TakeId } from '../../core/song/schema'
import type { PassMarks } from '../../core/song/recording'
import type { FrameRange } from '../../core/song/select'
import type { InputResult } from '../../engine/engine'
import { useView } from '../song/view-store'

export type Input =
  | { kind: 'none' }
  | { kind: 'opening' }
  | { kind: 'microphone' | 'singer'; deviceId: string | null; result: Extract<InputResult, { kind: 'open' }> }
  | { kind: 'failed'; reason: Extract<InputResult, { kind: 'failed' }>['reason'] }

/** What to record: the selection, one word of its line, from the cursor to the end, or bars from one to another. */
export type Scope = { kind: 'selection' } | { kind: 'word'; index: number } | { kind: 'from-here' } | { kind: 'bars'; fromBar: number; toBar: number }

export type Stopped = 'beside-range' | 'no-answer' | 'asleep' | 'storage-full' | 'capture-failed' | 'input-gone-in-take' | 'suspended-in-take'

interface RecorderState {
  input: Input
  channel: number
  scope: Scope
  /** checking: the input is listened to, nothing is recorded. */
  phase: 'idle' | 'checking' | 'preparing' | 'waiting' | 'rolling' | 'finishing'
  /** What is being recorded, while it is. */
  assetId: AssetId | null
  /** Captures of this session that have not become takes yet: no leftovers of a closed tab. */
  unfinished: readonly AssetId[]
  range: FrameRange | null
  /** Where each turn of the loop begins; null if it does not loop. */
  loopStartFrame: number | null
  marks: PassMarks
  keptFrames: number
  /** Seconds of sound that wait for the disk; 0 while it keeps up. */
  backlogSeconds: number
  /** Why the last recording ended by itself. */
  stopped: Stopped | null
  /** The Booth is in view; only then the singer is sent back to themself. */
  inBooth: boolean
  /** The monitor muted itself. */
  howled: boolean
  lastTakeIds: TakeId[]
  /** Who sent the singer here for one pass, and is told of it. */
  onTaken: ((takeIds: TakeId[]) => void) | null
}

export const useRecorder = create<RecorderState>(() => ({
  input: { kind: 'none' },
  channel: 0,
  scope: { kind: 'selection' },
  phase: 'idle',
  assetId: null,
  unfinished: [],
  range: null,
  loopStartFrame: null,
  marks: {},
  keptFrames: 0,
  backlogSeconds: 0,
  stopped: null,
  inBooth: false,
  howled: false,
  lastTakeIds: [],
  onTaken: null,
}))

// A word belongs to the line it was chosen in: with another line, section or song chosen on the sheet, that is what is recorded.
useView.subscribe((state, before) => {
  if (state.selection !== before.selection && useRecorder.getState().scope.kind === 'word') useRecorder.setState({ scope: { kind: 'selection' } })
})

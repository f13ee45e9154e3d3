/** What the Booth knows while it records: view state, never part of the song. */
import { create } from 'zustand'
import type { AssetId, TakeId } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import type { InputResult } from '../../../engine/engine'

export type NotReady = 'read-only' | 'no-layer' | 'no-input' | 'not-allowed' | 'no-device' | 'device-in-use' | 'no-audio' | 'no-signal' | 'storage-low' | 'range-too-short' | 'input-gone' | 'nothing-to-sing'

export type Input = { kind: 'none' } | { kind: 'opening' } | { kind: 'microphone' | 'singer'; deviceId: string | null; result: Extract<InputResult, { kind: 'open' }> } | { kind: 'failed'; reason: Extract<InputResult, { kind: 'failed' }>['reason'] }

interface RecorderState {
  input: Input
  channel: number
  /** What is heard over the beat while singing: nothing, or what the other layers play. */
  hearing: 'beat' | 'stack'
  phase: 'idle' | 'preparing' | 'rolling' | 'finishing'
  /** What is being recorded, while it is. */
  assetId: AssetId | null
  range: FrameRange | null
  keptFrames: number
  problem: NotReady | 'storage-full' | 'capture-failed' | null
  lastTakeIds: TakeId[]
  /** Seconds of silence that stood in for blocks that never came, in the last recording. */
  gapSeconds: number
}

export const useRecorder = create<RecorderState>(() => ({
  input: { kind: 'none' }, channel: 0, hearing: 'stack', phase: 'idle', assetId: null, range: null, keptFrames: 0, problem: null, lastTakeIds: [], gapSeconds: 0,
}))

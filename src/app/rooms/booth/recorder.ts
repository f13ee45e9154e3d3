/** Recording: from the button to takes on the sheet. */
import { frameOfBar, barAtFrame } from '../../../core/beat/grid'
import { pickTake } from '../../../core/comp/picks'
import { quietRange } from '../../../core/comp/quiet-spot'
import { cutPasses, type CapturePlacement } from '../../../core/song/recording'
import type { AssetId, LayerId, Song, Take, TakeId } from '../../../core/song/schema'
import { currentComp, overlapFrames, placedLines, requireLayer, type FrameRange } from '../../../core/song/select'
import { addTakes } from '../../../core/song/takes'
import type { Engine } from '../../../engine/engine'
import { makeId } from '../../../storage/database'
import { beginRecording, endRecording, placeRecording } from '../../../storage/recordings'
import { discardAsset } from '../../../storage/sounds'
import { runJob } from '../../../workers/run-job'
import { ensureEngine, useLive } from '../../song/live'
import { currentSong, edit, editBesideHistory } from '../../song/song-store'
import { placedPeaksOf } from '../../song/sounds'
import { rangeOf, useView } from '../../song/view-store'
import { checkReady } from './readiness'
import { useRecorder } from './recorder-store'

export async function openInput(kind: 'microphone' | 'singer', deviceId: string | null = null): Promise<void> {
  useRecorder.setState({ input: { kind: 'opening' }, problem: null })
  const engine = await ensureEngine()
  if (!engine) return useRecorder.setState({ input: { kind: 'failed', reason: 'unavailable' } })
  const result = kind === 'singer' ? engine.openPracticeSinger() : await engine.openMicrophone(deviceId)
  useRecorder.setState({ input: result.kind === 'open' ? { kind, deviceId, result } : { kind: 'failed', reason: result.reason } })
  chooseChannel(0)
}

export function chooseChannel(channel: number): void {
  useRecorder.setState({ channel })
  useLive.getState().engine?.setChannel(channel)
}

export function toggleRecording(): void {
  const { phase } = useRecorder.getState()
  if (phase === 'rolling') useLive.getState().engine?.stop()
  else if (phase === 'idle') void record()
}

const POST_ROLL_FRAMES = 48_000
/** The practice singer prepares this many passes of a loop, then begins again. */
const LOOP_VOICES = 4
const VOICE_LEAD_FRAMES = 48_000

async function record(): Promise<void> {
  const ready = await checkReady()
  if (!ready.ok) return useRecorder.setState({ problem: ready.reason })
  const { engine } = useLive.getState()
  const { layerId, looping, countInBars, selection } = useView.getState()
  if (!engine || !layerId) return
  const song = currentSong()
  const range = rangeOf(song, selection)
  const assetId = makeId() as AssetId
  useRecorder.setState({ phase: 'preparing', assetId, range, keptFrames: 0, problem: null, gapSeconds: 0 })
  useLive.setState({ recording: true })
  const viewBefore = useView.getState().view
  try {
    if (useRecorder.getState().input.kind === 'singer') await prepareSinger(engine, song, layerId, range, looping)
    const roundTrip = engine.roundTrip
    const startedAt = new Date().toISOString()
    await beginRecording({ id: assetId, songId: song.id, layerId, startedAt, roundTripSource: roundTrip.source, placement: null })
    useView.setState({ view: { kind: 'only', beat: true, layerIds: useRecorder.getState().hearing === 'stack' ? song.layers.filter(layer => layer.id !== layerId && !layer.muted).map(layer => layer.id) : [] } })
    const { grid } = song.beat
    const fromFrame = countInBars > 0 ? frameOfBar(grid, barAtFrame(grid, range.startFrame) - countInBars) + (range.startFrame - frameOfBar(grid, barAtFrame(grid, range.startFrame))) : range.startFrame
    let placement: CapturePlacement | null = null
    const { done } = await engine.record({
      assetId,
      play: { fromFrame, loop: looping ? range : null, silentBeforeFrame: countInBars > 0 ? range.startFrame : null, stopAtFrame: looping ? null : range.endFrame + POST_ROLL_FRAMES },
      onPlaced: anchors => {
        placement = { ...anchors, range, looping, roundTripFrames: roundTrip.frames }
        void placeRecording(assetId, placement)
        useRecorder.setState({ phase: 'rolling' })
      },
      onKept: frames => useRecorder.setState({ keptFrames: frames }),
    })
    const outcome = await done
    useRecorder.setState({ phase: 'finishing' })
    if (outcome.kind === 'failed') return useRecorder.setState({ problem: outcome.reason === 'storage-full' ? 'storage-full' : 'capture-failed' })
    useRecorder.setState({ gapSeconds: ((outcome.captured.gapBlocks * 128 + outcome.captured.lostFrames) / 48_000) })
    if (!placement) return void (await discardCapture(assetId))
    await keepCapture({ assetId, layerId, frames: outcome.captured.frames, placement, roundTripSource: roundTrip.source, startedAt })
  } finally {
    useView.setState({ view: viewBefore })
    useRecorder.setState({ phase: 'idle', assetId: null, range: null })
    useLive.setState({ recording: false })
  }
}

async function prepareSinger(engine: Engine, song: Song, layerId: LayerId, range: FrameRange, looping: boolean): Promise<void> {
  const layer = requireLayer(song, layerId)
  const degreeShift = layer.role === 'high-harmony' ? 2 : layer.role === 'low-harmony' || layer.role === 'octave' ? -7 : 0
  const stretch = { startFrame: range.startFrame - VOICE_LEAD_FRAMES, endFrame: range.endFrame + VOICE_LEAD_FRAMES }
  const firstTake = song.takes.length + 40
  const result = await runJob('sing', { song, range: stretch, passes: looping ? LOOP_VOICES : 1, firstTake, degreeShift })
  if (result.kind === 'done') engine.setVoice(result.value, stretch.startFrame, stretch.endFrame - stretch.startFrame)
}

/** Makes takes of a stored capture; they are no step of undo. Where nothing was picked yet, the first of them sounds. */
export async function keepCapture({ assetId, layerId, frames, placement, roundTripSource, startedAt }: { assetId: AssetId; layerId: LayerId; frames: number; placement: CapturePlacement; roundTripSource: Take['roundTripSource']; startedAt: string }): Promise<void> {
  const passes = cutPasses(frames, placement)
  const song = currentSong()
  const before = song.takes.filter(take => take.layerId === layerId).length
  const takes = passes.map(({ pass, originFrame, startFrame, endFrame }): Take => ({
    id: makeId() as TakeId,
    layerId,
    name: `Pass ${before + pass}`,
    pass: before + pass,
    assetId,
    originFrame,
    startFrame,
    endFrame,
    roundTripFrames: placement.roundTripFrames,
    roundTripSource,
    recordedAt: startedAt,
    starred: false,
    binned: false,
  }))
  if (takes.length === 0) return discardCapture(assetId)
  editBesideHistory(current => addTakes(current, { takes }))
  await endRecording(assetId)
  useRecorder.setState({ lastTakeIds: takes.map(take => take.id) })
  await pickWhereEmpty(takes[0]!, placement.range)
}

export async function discardCapture(assetId: AssetId): Promise<void> {
  await endRecording(assetId)
  await discardAsset(assetId)
}

async function pickWhereEmpty(take: Take, range: FrameRange): Promise<void> {
  const peaks = await placedPeaksOf(take)
  edit(`play ${take.name.toLowerCase()} where nothing was picked`, song => {
    if (!song.layers.some(layer => layer.id === take.layerId)) return song
    const { picks } = currentComp(requireLayer(song, take.layerId))
    const free = placedLines(song).filter(line => overlapFrames(line, range) > 0 && overlapFrames(line, take) > 0.5 * (line.endFrame - line.startFrame) && !picks.some(pick => overlapFrames(pick, line) > 12_000))
    const stretches: FrameRange[] = free.length > 0 || placedLines(song).length > 0 ? free : picks.some(pick => overlapFrames(pick, range) > 0) ? [] : [range]
    return stretches.reduce((current, stretch) => pickTake(current, { layerId: take.layerId, takeId: take.id, ...(peaks ? quietRange([peaks], stretch) : stretch), makeId }), song)
  })
}

/** Recording: from the button until the capture is stored; keep-capture makes takes of it. */
import { SAMPLE_RATE_HZ } from '../../core/audio/frames'
import { decibelsToGain } from '../../core/audio/decibels'
import { withMark, type CaptureFlaw, type CapturePlacement, type PassMark } from '../../core/song/recording'
import type { AssetId, LayerId, Song } from '../../core/song/schema'
import { requireLayer, type FrameRange } from '../../core/song/select'
import { describeTake } from '../../core/song/takes'
import { placeWords } from '../../core/song/words'
import { capture, type CaptureFailure } from '../../engine/capture-session'
import { takeWriter, warmUp } from '../../engine/writer-worker'
import type { Engine } from '../../engine/engine'
import { TRANSPORT } from '../../engine/shared-state'
import { makeId } from '../../storage/database'
import { beginRecording, markPasses, placeRecording } from '../../storage/recordings'
import { whenOpen } from '../../storage/open-tab'
import { runJob } from '../../workers/run-job'
import { playheadFrame, useLive } from '../song/live'
import { currentSong, edit, useSongStore } from '../song/song-store'
import { askToBin } from '../song/binning'
import { focusedLine, select, useView } from '../song/view-store'
import { setBooth, useBoothSettings } from './booth-settings'
import { boothView, restHeadphoneMix } from './headphone-mix'
import { openInput, openRememberedInput } from './inputs'
import { firstObstacle, type Obstacle } from './readiness'
import { discardCapture, keepCapture, type KeptCapture } from './keep-capture'
import { planRoll } from './record-range'
import { useRecorder, type Stopped } from './recorder-store'
import { knownRoundTrip } from './round-trip'

export function toggleRecording(): void {
  const { phase } = useRecorder.getState()
  if (phase === 'rolling') useLive.getState().engine?.stop()
  else if (phase === 'waiting' || phase === 'preparing') waiting?.abort()
  else if (phase === 'finishing' && performance.now() > finishingSince + SLIP_MILLISECONDS) askedAgain = !askedAgain
  else if (phase === 'idle') void record()
}

/** Asked for while the last take was still being kept: it begins once that is. */
let askedAgain = false
/** What comes so soon after the stop is a slip of the same key. */
const SLIP_MILLISECONDS = 400
let finishingSince = 0

/** From anywhere: the line that is worked on, or its word at the playhead, once more, with a bar of the song before it. */
export function singAgain(what: 'line' | 'word', goToBooth: () => unknown): void {
  if (useRecorder.getState().phase !== 'idle') return
  const song = currentSong()
  const line = focusedLine(song, useView.getState().selection)
  const frame = playheadFrame()
  const index = line && what === 'word' ? placeWords(line).findLastIndex(word => word.startFrame <= frame) : -1
  if (line) {
    const cursorFrame = useView.getState().cursorFrame
    select(song, { kind: 'lines', lineIds: [line.line.id] })
    if (index >= 0) useView.setState({ cursorFrame })
  }
  useRecorder.setState({ scope: index >= 0 ? { kind: 'word', index } : { kind: 'selection' } })
  setBooth({ preRollBars: Math.max(1, useBoothSettings.getState().preRollBars) })
  void goToBooth()
  void openRememberedInput().then(record)
}

/** The practice singer prepares this many passes of a loop, then begins again. */
const LOOP_VOICES = 4
const VOICE_LEAD_FRAMES = SAMPLE_RATE_HZ
/** Gives up a recording that waits for sound. */
let waiting: AbortController | null = null

/** A microphone that was just opened is heard from a moment later on. */
const FIRST_SOUND_MILLISECONDS = 3_000
const LOOK_MILLISECONDS = 100

/** Who asks for a recording, and has chosen nothing yet to sing into, asks for the microphone; what was chosen a moment ago is waited for. */
async function obstacleOnceOpen(): Promise<Obstacle | null> {
  await inputOpened()
  if ((await firstObstacle()) !== 'no-input') return firstObstacle()
  await openInput('microphone')
  const until = performance.now() + FIRST_SOUND_MILLISECONDS
  for (;;) {
    const obstacle = await firstObstacle()
    if (obstacle !== 'no-signal' || performance.now() > until) return obstacle
    await new Promise(resolve => setTimeout(resolve, LOOK_MILLISECONDS))
  }
}

function inputOpened(): Promise<void> {
  return new Promise(resolve => {
    if (useRecorder.getState().input.kind !== 'opening') return resolve()
    const stop = useRecorder.subscribe(({ input }) => {
      if (input.kind === 'opening') return
      stop()
      resolve()
    })
  })
}

async function record(): Promise<void> {
  const songId = useSongStore.getState().history?.song.id
  // The list of checks in view says what is in the way.
  if ((await obstacleOnceOpen()) !== null) return
  // Meanwhile it may have been asked for twice, or the song been left.
  if (useRecorder.getState().phase !== 'idle' || useSongStore.getState().history?.song.id !== songId) return
  const { engine } = useLive.getState()
  const { layerId, looping } = useView.getState()
  const { input } = useRecorder.getState()
  if (!engine || !layerId || (input.kind !== 'microphone' && input.kind !== 'singer')) return
  const song = currentSong()
  const roll = planRoll(looping)
  const { range, loop } = roll
  const assetId = makeId() as AssetId
  useRecorder.setState({
    phase: 'preparing',
    assetId,
    range,
    loopStartFrame: loop?.startFrame ?? null,
    marks: {},
    keptFrames: 0,
    backlogSeconds: 0,
    stopped: null,
    lastTakeIds: [],
  })
  useLive.setState({ recording: true })
  waiting = new AbortController()
  const finish = noteUnfinished(assetId)
  let storing: Promise<void> | null = null
  const clickingBefore = useView.getState().clicking
  try {
    if (input.kind === 'singer') await prepareSinger(engine, song, layerId, loop ?? range, loop !== null, waiting.signal)
    if (waiting.signal.aborted) return
    await whenOpen()
    const roundTrip = knownRoundTrip(engine)
    const { opening } = engine
    const startedAt = new Date().toISOString()
    const inputName = input.result.label.slice(0, 255)
    const begun = beginRecording({
      id: assetId,
      songId: song.id,
      layerId,
      startedAt,
      roundTripSource: roundTrip.source,
      roundTripMeasuredAt: roundTrip.measuredAt,
      inputName,
      placement: null,
    })
    // A disk that is full is said by the first chunk that finds no room.
    begun.catch(() => {})
    useView.setState({
      view: boothView(range),
      clicking: useBoothSettings.getState().click === 'always',
      clickInCountIn: useBoothSettings.getState().click !== 'never',
    })
    const { startOnSound, startThresholdDbfs } = useBoothSettings.getState()
    let placement: CapturePlacement | null = null
    const outcome = await capture(
      engine,
      {
        assetId,
        play: { fromFrame: roll.fromFrame, loop, silentBeforeFrame: roll.silentBeforeFrame, stopAtFrame: roll.stopAtFrame },
        startAbove: startOnSound && input.kind === 'microphone' ? decibelsToGain(startThresholdDbfs) : null,
        onWaiting: () => useRecorder.setState({ phase: 'waiting' }),
        onPlaced: anchors => {
          placement = { ...anchors, range, looping: loop !== null, preRollFrame: roll.preRollFrame, roundTripFrames: roundTrip.frames }
          const placed = placement
          void begun.then(() => placeRecording(assetId, placed)).catch(() => {})
          useRecorder.setState({ phase: 'rolling' })
        },
        onKept: frames => useRecorder.setState({ keptFrames: frames, backlogSeconds: 0 }),
        onBacklog: backlogSeconds => useRecorder.setState({ backlogSeconds }),
        signal: waiting.signal,
      },
      takeWriter(),
    )
    warmUp()
    finishingSince = performance.now()
    useRecorder.setState({ phase: 'finishing' })
    if (outcome.kind === 'failed') useRecorder.setState({ stopped: FAILURES[outcome.reason] })
    if (outcome.kind === 'given-up' || !placement) return void (await discardCapture(assetId))
    // The song was closed meanwhile: the recording is offered when it is opened again.
    if (useSongStore.getState().history?.song.id !== song.id) return
    const capturing = { assetId, layerId, placement, roundTrip, startedAt, inputName, marks: useRecorder.getState().marks, opening, songThen: song }
    if (outcome.kind === 'captured') {
      useRecorder.setState({ stopped: stoppedBy(outcome.captured.flaws) })
      await keepCapture({ ...capturing, frames: outcome.captured.frames, flaws: outcome.captured.flaws })
    } else {
      storing = keepStored(capturing, song.id, outcome.reason === 'storage-full')
      if (outcome.reason !== 'storage-full') await storing
    }
  } finally {
    waiting = null
    void (storing ?? Promise.resolve()).finally(finish)
    engine.hushSinger()
    restHeadphoneMix()
    useView.setState({ clicking: clickingBefore, clickInCountIn: true })
    useRecorder.setState({ phase: 'idle', assetId: null, range: null, backlogSeconds: 0 })
    useLive.setState({ recording: false })
    const isAsked = askedAgain && useRecorder.getState().stopped === null
    askedAgain = false
    if (isAsked) void record()
  }
}

const FAILURES: Record<CaptureFailure, Stopped> = {
  'storage-full': 'storage-full',
  'input-gone': 'input-gone-in-take',
  'no-answer': 'no-answer',
  asleep: 'asleep',
  broken: 'capture-failed',
  unexpected: 'capture-failed',
}

/** A capture of this session goes on. @returns to be called when it has become takes, or never will. */
function noteUnfinished(assetId: AssetId): () => void {
  useRecorder.setState(({ unfinished }) => ({ unfinished: [...unfinished, assetId] }))
  return () => useRecorder.setState(({ unfinished }) => ({ unfinished: unfinished.filter(id => id !== assetId) }))
}

const ROOM_AGAIN_MILLISECONDS = 4_000

/** What is in storage is a take like any other. A full disk has no room for what is known of it either: that is tried for until there is some. */
async function keepStored(capturing: Omit<KeptCapture, 'frames' | 'flaws'>, songId: Song['id'], untilThereIsRoom: boolean): Promise<void> {
  for (;;) {
    const recovered = await runJob('recoverAsset', { assetId: capturing.assetId })
    // The song was closed meanwhile: the recording is offered when it is opened again.
    if (useSongStore.getState().history?.song.id !== songId) return
    if (recovered.kind === 'done' && recovered.value) await keepCapture({ ...capturing, frames: recovered.value.frames, flaws: [] })
    if (recovered.kind === 'done' || !untilThereIsRoom) return
    await new Promise(resolve => setTimeout(resolve, ROOM_AGAIN_MILLISECONDS))
  }
}

function stoppedBy(flaws: readonly CaptureFlaw[]): Stopped | null {
  if (flaws.some(flaw => flaw.kind === 'input-gone')) return 'input-gone-in-take'
  return flaws.some(flaw => flaw.kind === 'suspended') ? 'suspended-in-take' : null
}

async function prepareSinger(engine: Engine, song: Song, layerId: LayerId, range: FrameRange, looping: boolean, signal: AbortSignal): Promise<void> {
  const layer = requireLayer(song, layerId)
  const degreeShift = layer.role === 'high-harmony' ? 2 : layer.role === 'low-harmony' || layer.role === 'octave' ? -7 : 0
  const stretch = { startFrame: range.startFrame - VOICE_LEAD_FRAMES, endFrame: range.endFrame + VOICE_LEAD_FRAMES }
  const firstTake = song.takes.length + 40
  const result = await runJob('sing', { song, range: stretch, passes: looping ? LOOP_VOICES : 1, firstTake, degreeShift }, { signal })
  if (result.kind === 'done') engine.setVoice(result.value, stretch.startFrame, stretch.endFrame - stretch.startFrame)
}

/** How many passes of the running loop are sung to their end. */
export function finishedPasses(): number {
  const { engine } = useLive.getState()
  const { range, loopStartFrame } = useRecorder.getState()
  if (!engine || !range || loopStartFrame === null || !engine.isPlaying) return 0
  const audibleFrame =
    engine.context.currentTime * SAMPLE_RATE_HZ -
    (engine.context.outputLatency || 0) * SAMPLE_RATE_HZ -
    engine.transport[TRANSPORT.anchorContextFrame]! +
    engine.transport[TRANSPORT.anchorSongFrame]!
  return Math.max(0, Math.floor((audibleFrame - loopStartFrame) / (range.endFrame - loopStartFrame)))
}

/** Says something of the pass just sung: while the loop goes on of the last whole one, afterwards of the last take. Said twice, it is taken back. */
export function markLastPass(mark: PassMark): void {
  const { phase, marks, assetId, lastTakeIds } = useRecorder.getState()
  if (phase === 'rolling') {
    const pass = finishedPasses()
    if (pass === 0 || !assetId) return
    const next = withMark(marks, pass, mark)
    useRecorder.setState({ marks: next })
    void markPasses(assetId, next)
    return
  }
  const take = currentSong().takes.find(entry => entry.id === lastTakeIds.at(-1))
  if (!take || take.binned) return
  if (mark === 'bin') askToBin(take.id)
  else if (mark === 'star') edit(`${take.starred ? 'unstar' : 'star'} ${take.name}`, song => describeTake(song, { takeId: take.id, starred: !take.starred }))
  else edit(`${take.spare ? 'take back' : 'put aside'} ${take.name}`, song => describeTake(song, { takeId: take.id, spare: !take.spare }))
}

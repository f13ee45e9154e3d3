/** Will this record? Everything that could be in the way, looked at before the singer sings, each with its reason and what mends it. */
import { SAMPLE_RATE_HZ } from '../../core/audio/frames'
import { overlapFrames, placedLines } from '../../core/song/select'
import { LEVEL } from '../../engine/shared-state'
import { useLive } from '../song/live'
import { currentSong, useSongStore } from '../song/song-store'
import { useSongLock } from '../song/song-lock'
import { useView } from '../song/view-store'
import { recordedRange } from './record-range'
import { knownRoundTrip } from './round-trip'
import { useRecorder } from './recorder-store'

export type Obstacle =
  | 'other-tab'
  | 'read-only'
  | 'not-isolated'
  | 'no-audio'
  | 'audio-suspended'
  | 'audio-asleep'
  | 'no-layer'
  | 'no-input'
  | 'not-allowed'
  | 'no-device'
  | 'device-in-use'
  | 'input-gone'
  | 'no-signal'
  | 'clipped'
  | 'storage-low'
  | 'nothing-to-record'
  | 'nothing-to-sing'
export type Doubt = 'storage-short' | 'round-trip-estimated' | 'processed'

export interface Check {
  /** What is looked at, in the singer's words. */
  about: 'page' | 'audio' | 'song' | 'layer' | 'microphone' | 'signal' | 'level' | 'room' | 'stretch' | 'time'
  state: { kind: 'ok'; detail: string } | { kind: 'doubt'; reason: Doubt } | { kind: 'failing'; reason: Obstacle }
}

/** A minute of a voice takes 11.5 MB; less than this many minutes of room is too little to begin. */
const BYTES_A_MINUTE = SAMPLE_RATE_HZ * 4 * 60
const LEAST_MINUTES = 2
const SHORT_MINUTES = 10
/** A short word; what is sung round it is kept with it. */
const LEAST_RANGE_FRAMES = 4_800
const MINUTES_HOLD_MILLISECONDS = 3_000
/** A live microphone in a quiet room still hisses above this. */
const DIGITAL_SILENCE = 1e-6
/** Some interfaces close a gate between phrases: for so long an input that was heard is not taken for a dead one. */
const GATE_HOLD_MILLISECONDS = 5_000
/** An overload this recent means that the next take would be spoilt as well. */
const RECENT_CLIP_MILLISECONDS = 2_500

/** When the open input was last heard. */
let heard: { input: unknown; at: number } | null = null

let minutesSeen: { minutes: number | null; at: number } | null = null

/** Asking takes a moment that a singer waits for: an answer of the last seconds will do. */
async function minutesLeft(): Promise<number | null> {
  if (minutesSeen && performance.now() - minutesSeen.at < MINUTES_HOLD_MILLISECONDS) return minutesSeen.minutes
  const { quota, usage } = await navigator.storage.estimate()
  const minutes = quota === undefined || usage === undefined ? null : (quota - usage) / BYTES_A_MINUTE
  minutesSeen = { minutes, at: performance.now() }
  return minutes
}

/** In the order in which things can be mended. */
export async function lookAtAll(): Promise<Check[]> {
  const ok = (about: Check['about'], detail: string): Check => ({ about, state: { kind: 'ok', detail } })
  const failing = (about: Check['about'], reason: Obstacle): Check => ({ about, state: { kind: 'failing', reason } })
  const doubt = (about: Check['about'], reason: Doubt): Check => ({ about, state: { kind: 'doubt', reason } })
  const song = currentSong()
  const { layerId } = useView.getState()
  const { input } = useRecorder.getState()
  const { engine, status } = useLive.getState()
  const checks: Check[] = []
  if (useSongLock.getState().state === 'elsewhere') checks.push(failing('song', 'other-tab'))
  else checks.push(useSongStore.getState().readOnly ? failing('song', 'read-only') : ok('song', 'open in this tab only'))
  checks.push(status === 'not-isolated' || !crossOriginIsolated ? failing('page', 'not-isolated') : ok('page', 'isolated, sound is stored as it comes'))
  const layer = song.layers.find(entry => entry.id === layerId)
  checks.push(layer ? ok('layer', `${layer.name}; the beat is never recorded over`) : failing('layer', 'no-layer'))
  const microphone = (): Check => {
    if (input.kind === 'failed')
      return failing('microphone', input.reason === 'not-allowed' ? 'not-allowed' : input.reason === 'in-use' ? 'device-in-use' : 'no-device')
    if (input.kind === 'none' || input.kind === 'opening' || !engine) return failing('microphone', 'no-input')
    if (!engine.inputIsLive) return failing('microphone', 'input-gone')
    return input.result.processing.length > 0
      ? doubt('microphone', 'processed')
      : ok('microphone', `${input.result.label || 'open'}, nothing done to the sound`)
  }
  checks.push(
    status === 'no-audio'
      ? failing('audio', 'no-audio')
      : engine && engine.context.state !== 'running'
        ? failing('audio', status === 'asleep' ? 'audio-asleep' : 'audio-suspended')
        : ok('audio', engine ? 'running at 48 kHz' : 'starts with the microphone'),
  )
  checks.push(microphone())
  if (engine && (input.kind === 'microphone' || input.kind === 'singer') && engine.inputIsLive) {
    const { levels } = engine.capture
    const now = performance.now()
    if (levels[LEVEL.peak]! >= DIGITAL_SILENCE) heard = { input, at: now }
    const silent = heard?.input !== input || now - heard.at > GATE_HOLD_MILLISECONDS
    checks.push(input.kind === 'microphone' && silent ? failing('signal', 'no-signal') : ok('signal', 'something is heard on this channel'))
    checks.push(clippedLately() ? failing('level', 'clipped') : ok('level', 'not overloaded'))
    const { source } = knownRoundTrip(engine)
    checks.push(source === 'estimated' || source === 'remembered' ? doubt('time', 'round-trip-estimated') : ok('time', `round trip ${source}`))
  }
  const range = recordedRange()
  if (range.endFrame - range.startFrame < LEAST_RANGE_FRAMES) checks.push(failing('stretch', 'nothing-to-record'))
  else if (input.kind === 'singer' && !placedLines(song).some(line => overlapFrames(line, range) > 0)) checks.push(failing('stretch', 'nothing-to-sing'))
  const minutes = await minutesLeft()
  if (minutes !== null && minutes < LEAST_MINUTES) checks.push(failing('room', 'storage-low'))
  else if (minutes !== null && minutes < SHORT_MINUTES) checks.push(doubt('room', 'storage-short'))
  else
    checks.push(
      ok('room', minutes === null ? 'the browser does not say how much' : `for ${minutes > 600 ? 'more than 10 hours' : `${Math.floor(minutes)} minutes`}`),
    )
  return checks
}

/** The first thing that is in the way; null if it will record. */
export async function firstObstacle(): Promise<Obstacle | null> {
  for (const { state } of await lookAtAll()) if (state.kind === 'failing') return state.reason
  return null
}

let clippedSamplesSeen = 0
let clippedAt = -Infinity

/** When the input was last overloaded is worked out from the worklet's count. */
function clippedLately(): boolean {
  const levels = useLive.getState().engine?.capture.levels
  const clipped = levels?.[LEVEL.clippedSamples] ?? 0
  if (clipped > clippedSamplesSeen + 2) clippedAt = performance.now()
  clippedSamplesSeen = clipped
  return performance.now() - clippedAt < RECENT_CLIP_MILLISECONDS
}

export const CHECK_NAMES: Record<Check['about'], string> = {
  song: 'The song',
  page: 'The page',
  audio: 'The sound system',
  layer: 'The layer',
  microphone: 'The microphone',
  signal: 'A signal',
  level: 'The level',
  stretch: 'What to record',
  room: 'Room on the disk',
  time: 'The timing',
}

/** What is in the way, and what to do about it. */
export const OBSTACLE_TEXT: Record<Obstacle, [what: string, doThis: string]> = {
  'other-tab': ['This song is open in another tab.', 'Close it there; this tab then takes over by itself.'],
  'read-only': ['This song is open for reading only.', 'It comes from a later release; update the app to record on it.'],
  'not-isolated': ['This page is not isolated, so it cannot record safely.', 'Open it from its own server.'],
  'no-audio': ['The browser gives no sound.', 'Check the audio device, then reload the page.'],
  'audio-asleep': ['The browser lets no sound start before a click.', 'Click anywhere in the page.'],
  'audio-suspended': ['The browser has paused the sound.', 'Wake it up, then measure the round trip again.'],
  'no-layer': ['No layer is chosen to sing on.', 'Choose a layer above.'],
  'no-input': ['No microphone is open.', 'Record opens it, or let the practice singer sing.'],
  'not-allowed': ['The browser was not allowed to use the microphone.', 'Allow it with the button beside the address, then open the microphone again.'],
  'no-device': ['No microphone was found.', 'Plug one in, then open it again.'],
  'device-in-use': ['The microphone is used by another program.', 'Close that program, then open the microphone again.'],
  'input-gone': ['The microphone was unplugged.', 'Plug it in, then open it again.'],
  'no-signal': ['The microphone is open but digitally silent.', 'Check its switch, its cable and the chosen channel.'],
  clipped: ['The microphone is overloaded.', 'Turn the input down, or step back.'],
  'storage-low': ['There is room for less than two minutes of singing.', 'Free some disk space, or empty the bin.'],
  'nothing-to-record': ['There is nothing to record here.', 'Select a line, a section or the song on the sheet.'],
  'nothing-to-sing': ['The practice singer has no line to sing here.', 'Select a line, or put words or lines on the sheet with “Words”.'],
}

export const DOUBT_TEXT: Record<Doubt, [what: string, doThis: string]> = {
  'storage-short': ['There is room for less than ten minutes of singing.', 'Free some disk space, or empty the bin.'],
  'round-trip-estimated': ['How late the microphone is, is only estimated.', 'Measure it: three seconds, with a headphone held to the microphone.'],
  processed: [
    'The browser changes the microphone’s sound.',
    'The take will not be dry. Choose another microphone, or switch its processing off in the system.',
  ],
}

/** Will this record? Checked before the singer sings, with the reason if not. */
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { overlapFrames, placedLines } from '../../../core/song/select'
import { LEVEL } from '../../../engine/shared-state'
import { useLive } from '../../song/live'
import { currentSong, useSongStore } from '../../song/song-store'
import { rangeOf, useView } from '../../song/view-store'
import { useRecorder, type NotReady } from './recorder-store'

/** A minute of a voice takes 11.5 MB; less than this many minutes of room is too little to begin. */
const BYTES_A_MINUTE = SAMPLE_RATE_HZ * 4 * 60
const LEAST_MINUTES = 2
/** A live microphone in a quiet room still hisses above this. */
const DIGITAL_SILENCE = 1e-6

export async function minutesLeft(): Promise<number | null> {
  const { quota, usage } = await navigator.storage.estimate()
  return quota === undefined || usage === undefined ? null : (quota - usage) / BYTES_A_MINUTE
}

/** The first thing that is in the way, in the order in which it can be mended. */
export async function checkReady(): Promise<{ ok: true } | { ok: false; reason: NotReady }> {
  const no = (reason: NotReady) => ({ ok: false as const, reason })
  const song = currentSong()
  const { layerId, selection } = useView.getState()
  const { input } = useRecorder.getState()
  const { engine, status } = useLive.getState()
  if (useSongStore.getState().readOnly) return no('read-only')
  if (!layerId || !song.layers.some(layer => layer.id === layerId)) return no('no-layer')
  if (status === 'no-audio' || status === 'not-isolated') return no('no-audio')
  if (input.kind === 'failed') return no(input.reason === 'not-allowed' ? 'not-allowed' : input.reason === 'in-use' ? 'device-in-use' : 'no-device')
  if (input.kind === 'none' || input.kind === 'opening' || !engine) return no('no-input')
  if (!engine.inputIsLive) return no('input-gone')
  if (input.kind === 'microphone' && engine.capture.levels[LEVEL.peak]! < DIGITAL_SILENCE) return no('no-signal')
  const range = rangeOf(song, selection)
  if (range.endFrame - range.startFrame < SAMPLE_RATE_HZ) return no('range-too-short')
  if (input.kind === 'singer' && !placedLines(song).some(line => overlapFrames(line, range) > 0)) return no('nothing-to-sing')
  const minutes = await minutesLeft()
  if (minutes !== null && minutes < LEAST_MINUTES) return no('storage-low')
  return { ok: true }
}

/** What is in the way, and what to do about it. */
export const NOT_READY_TEXT: Record<NotReady | 'storage-full' | 'capture-failed', [what: string, doThis: string]> = {
  'read-only': ['This song is open for reading only.', 'It comes from a later release; update the app to record on it.'],
  'no-layer': ['No layer is chosen to sing on.', 'Choose a layer above, or lay out the vocal template in the Beat room.'],
  'no-input': ['No microphone is open.', 'Open a microphone, or let the practice singer sing.'],
  'not-allowed': ['The browser was not allowed to use the microphone.', 'Allow it with the button beside the address, then open the microphone again.'],
  'no-device': ['No microphone was found.', 'Plug one in, then open it again.'],
  'device-in-use': ['The microphone is used by another program.', 'Close that program, then open the microphone again.'],
  'no-audio': ['The browser gives no sound.', 'Check the audio device, then reload the page.'],
  'no-signal': ['The microphone is open but digitally silent.', 'Check its switch, its cable and the chosen channel.'],
  'storage-low': ['There is room for less than two minutes of singing.', 'Free some disk space, or empty the bin.'],
  'range-too-short': ['The selection is shorter than a second.', 'Select a line, a section or the song on the sheet.'],
  'nothing-to-sing': ['The practice singer has no line to sing here.', 'Select a line, or put words or lines on the sheet with “Words”.'],
  'input-gone': ['The microphone was unplugged.', 'Plug it in, then open it again.'],
  'storage-full': ['The disk was full: recording stopped.', 'Everything up to then is kept, and offered when the song is opened again. Free some disk space.'],
  'capture-failed': ['Recording stopped by itself.', 'Everything up to then is kept, and offered when the song is opened again.'],
}

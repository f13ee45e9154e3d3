/** Numbers in words. */
import type { ChordName, ChordQuality } from '../../core/beat/chord-names'
import { TONICS, type Key } from '../../core/beat/key-names'
import { SAMPLE_RATE_HZ } from '../../core/audio/frames'

/** "1:48" */
export function formatMinutes(frames: number): string {
  const seconds = Math.max(0, Math.round(frames / SAMPLE_RATE_HZ))
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`
}

/** "0:52.4" */
export function formatClock(frames: number): string {
  const tenths = Math.max(0, Math.floor((frames / SAMPLE_RATE_HZ) * 10))
  return `${Math.floor(tenths / 600)}:${String(Math.floor(tenths / 10) % 60).padStart(2, '0')}.${tenths % 10}`
}

/** "-4.2 dB"; the lowest level is "off". */
export function formatDecibels(decibels: number, lowest = -60): string {
  return decibels <= lowest ? 'off' : `${signedTenth(decibels)} dB`
}

/** "+3.0", "-0.5"; what is next to nothing has no sign. */
export function signedTenth(value: number): string {
  const text = value.toFixed(1)
  return text === '-0.0' || text === '0.0' ? '0.0' : `${value > 0 ? '+' : ''}${text}`
}

/** Levels that were measured: "-8.4 dBFS", or "silent". */
export function formatLevel(decibels: number, unit: string): string {
  return Number.isFinite(decibels) ? `${decibels.toFixed(1)} ${unit}` : 'silent'
}

/** "92.6" with no more digits than it has, at most three. */
export function formatTempo(tempoBpm: number): string {
  return String(Math.round(tempoBpm * 1_000) / 1_000)
}

/** "F minor", with a flat sign for flats. */
export function formatKey(key: Key | null): string {
  return key ? `${formatNote(key.tonic)} ${key.mode}` : 'no key'
}

export function formatNote(note: string): string {
  return note.replace('#', '♯').replace(/^([A-G])b/, '$1♭')
}

/** "23.0 ms" */
export function formatMilliseconds(frames: number): string {
  return `${((frames / SAMPLE_RATE_HZ) * 1_000).toFixed(1)} ms`
}

export function formatPan(pan: number): string {
  const percent = Math.round(Math.abs(pan) * 100)
  return percent === 0 ? 'middle' : `${percent} ${pan < 0 ? 'left' : 'right'}`
}

/** "1 take", "3 takes" */
export function count(number: number, one: string, many = `${one}s`): string {
  return `${number} ${number === 1 ? one : many}`
}

const CHORD_SIGNS: Record<ChordQuality, string> = {
  major: '',
  minor: 'm',
  seventh: '7',
  'major seventh': 'maj7',
  'minor seventh': 'm7',
  suspended: 'sus4',
  diminished: 'dim',
}

/** "F♯m7", spelled as the key is. */
export function formatChord({ root, quality }: ChordName, key: Key | null): string {
  return formatPitchClass(root, key) + CHORD_SIGNS[quality]
}

/** F, B♭, E♭, A♭. */
const MAJORS_WITH_FLATS = [5, 10, 3, 8]
const FLAT_NAMES = ['C', 'D♭', 'D', 'E♭', 'E', 'F', 'G♭', 'G', 'A♭', 'A', 'B♭', 'B']
const SHARP_NAMES = ['C', 'C♯', 'D', 'D♯', 'E', 'F', 'F♯', 'G', 'G♯', 'A', 'A♯', 'B']

/** A note's name with the signs of its key: flats in F minor, sharps in E major, and those of its tonic where that has one. */
export function formatPitchClass(pitchClass: number, key: Key | null): string {
  if (!key) return formatNote(TONICS[pitchClass]!)
  const { tonic, mode } = key
  const major = (TONICS.indexOf(tonic) + (mode === 'minor' ? 3 : 0)) % 12
  const isFlat = tonic.endsWith('b') || (!tonic.endsWith('#') && MAJORS_WITH_FLATS.includes(major))
  return (isFlat ? FLAT_NAMES : SHARP_NAMES)[pitchClass]!
}

/** "C4" for 60. */
export function formatMidi(midi: number, key: Key | null): string {
  return `${formatPitchClass(((midi % 12) + 12) % 12, key)}${Math.floor(midi / 12) - 1}`
}

/** "94 %"; what is left of a doubt is never nothing. */
export function formatConfidence(confidence: number): string {
  return confidence < 0.005 ? 'under 1 %' : `${Math.round(100 * confidence)} %`
}

/** "just now", "20 minutes ago", "3 hours ago", "on 12 May" */
export function formatAgo(iso: string, now = Date.now()): string {
  const minutes = Math.floor((now - Date.parse(iso)) / 60_000)
  if (minutes < 1) return 'just now'
  if (minutes < 60) return `${count(minutes, 'minute')} ago`
  if (minutes < 24 * 60) return `${count(Math.floor(minutes / 60), 'hour')} ago`
  return `on ${new Date(iso).toLocaleDateString('en-GB', { day: 'numeric', month: 'long' })}`
}

/** "21:04". Written out: the first formatter of a page takes longer than a frame to make, and this is said with the first edit. */
export function formatTime(moment: string | Date): string {
  const time = new Date(moment)
  return [time.getHours(), time.getMinutes()].map(part => String(part).padStart(2, '0')).join(':')
}

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sept', 'Oct', 'Nov', 'Dec']

/** "12 May, 21:04" */
export function formatMoment(iso: string): string {
  const moment = new Date(iso)
  return `${moment.getDate()} ${MONTHS[moment.getMonth()]}, ${formatTime(moment)}`
}

/** "214 MB", "3.2 GB"; what is less than one is "under 1 MB". */
export function formatBytes(bytes: number): string {
  if (bytes >= 1e9) return `${(bytes / 1e9).toFixed(1)} GB`
  return bytes >= 1e6 ? `${Math.round(bytes / 1e6)} MB` : 'under 1 MB'
}

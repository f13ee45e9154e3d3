import { expect, test } from '@jest/globals'
import type { Mode, Tonic } from '../../core/beat/key-names'
import {
  count,
  formatClock,
  formatDecibels,
  formatKey,
  formatLevel,
  formatMilliseconds,
  formatMinutes,
  formatNote,
  formatPan,
  formatPitchClass,
  formatTempo,
} from './format'

test('numbers read as a singer reads them', () => {
  expect([formatMinutes(48_000 * 107.6), formatClock(48_000 * 52.46)]).toEqual(['1:48', '0:52.4'])
  expect([formatDecibels(-4.25), formatDecibels(2), formatDecibels(-60), formatDecibels(-0.04)]).toEqual(['-4.3 dB', '+2.0 dB', 'off', '0.0 dB'])
  expect([formatLevel(-8.44, 'dBFS'), formatLevel(-Infinity, 'LUFS')]).toEqual(['-8.4 dBFS', 'silent'])
  expect([formatTempo(92.6), formatTempo(92.5851234), formatTempo(120)]).toEqual(['92.6', '92.585', '120'])
  expect([formatKey({ tonic: 'Bb', mode: 'major' }), formatKey(null), formatNote('F#')]).toEqual(['B♭ major', 'no key', 'F♯'])
  expect([formatMilliseconds(1_105), formatPan(-0.6), formatPan(0.004)]).toEqual(['23.0 ms', '60 left', 'middle'])
  const spelled = (tonic: Tonic, mode: Mode) => [10, 3, 6].map(pitch => formatPitchClass(pitch, { tonic, mode })).join(' ')
  expect([spelled('F#', 'major'), spelled('C#', 'major'), spelled('Eb', 'minor'), spelled('F', 'minor'), spelled('E', 'major')]).toEqual([
    'A♯ D♯ F♯',
    'A♯ D♯ F♯',
    'B♭ E♭ G♭',
    'B♭ E♭ G♭',
    'A♯ D♯ F♯',
  ])
  expect([count(1, 'take'), count(3, 'take'), count(2, 'pass', 'passes')]).toEqual(['1 take', '3 takes', '2 passes'])
})

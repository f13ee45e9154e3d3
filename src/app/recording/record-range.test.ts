import 'fake-indexeddb/auto'
import { beforeEach, expect, test } from '@jest/globals'
import { beginHistory } from '../../core/song/history'
import { lineRange, smallSong } from '../../core/song/song.test-kit'
import { placedLines } from '../../core/song/select'
import { openHistory } from '../song/song-store'
import { resetView, select, useView } from '../song/view-store'
import { useBoothSettings } from './booth-settings'
import { planRoll, recordedRange } from './record-range'
import { useRecorder } from './recorder-store'

/** 120 bpm: a bar is 96 000 frames. */
const BAR = 96_000
const song = smallSong()
const second = placedLines(song)[1]!

beforeEach(() => {
  openHistory(beginHistory(song), false)
  resetView(song)
  select(song, { kind: 'lines', lineIds: [second.line.id] })
  useRecorder.setState({ scope: { kind: 'selection' } })
  useBoothSettings.setState({ countInBars: 1, preRollBars: 0, runOn: false })
})

test('a line is recorded after a bar counted in, and a second longer than it is', () => {
  const { startFrame, endFrame } = lineRange(1)
  expect(planRoll(false)).toEqual({
    range: { startFrame, endFrame },
    preRollFrame: startFrame,
    fromFrame: startFrame - BAR,
    silentBeforeFrame: startFrame,
    loop: null,
    stopAtFrame: endFrame + 48_000,
  })
})

test('bars of the song before it come after the count-in, and every turn of a loop has them', () => {
  useBoothSettings.setState({ preRollBars: 2 })
  const { startFrame, endFrame } = lineRange(1)
  expect(planRoll(true)).toEqual({
    range: { startFrame, endFrame },
    preRollFrame: startFrame - 2 * BAR,
    fromFrame: startFrame - 3 * BAR,
    silentBeforeFrame: startFrame - 2 * BAR,
    loop: { startFrame: startFrame - 2 * BAR, endFrame },
    stopAtFrame: null,
  })
})

test('from here on never loops; running on has no end; bars are counted from bar one, both ends included', () => {
  useRecorder.setState({ scope: { kind: 'from-here' } })
  useView.setState({ cursorFrame: 123_456 })
  expect(recordedRange()).toEqual({ startFrame: 123_456, endFrame: 32 * BAR })
  expect(planRoll(true).loop).toBeNull()
  useBoothSettings.setState({ runOn: true, countInBars: 0 })
  useRecorder.setState({ scope: { kind: 'bars', fromBar: 3, toBar: 4 } })
  expect(planRoll(false)).toMatchObject({ range: { startFrame: 2 * BAR, endFrame: 4 * BAR }, silentBeforeFrame: null, fromFrame: 2 * BAR, stopAtFrame: null })
})

test('one word is its beats; a line without that word is the line', () => {
  useRecorder.setState({ scope: { kind: 'word', index: 0 } })
  const { startFrame } = lineRange(1)
  expect(recordedRange().startFrame).toBe(startFrame)
  useRecorder.setState({ scope: { kind: 'word', index: 7 } })
  expect(recordedRange()).toEqual(lineRange(1))
})

test('another line chosen on the sheet is what is recorded, not a word of it; bars that were typed stay', () => {
  useRecorder.setState({ scope: { kind: 'word', index: 0 } })
  select(song, { kind: 'lines', lineIds: [placedLines(song)[2]!.line.id] })
  expect(recordedRange()).toEqual(lineRange(2))
  useRecorder.setState({ scope: { kind: 'bars', fromBar: 3, toBar: 4 } })
  select(song, { kind: 'lines', lineIds: [second.line.id] })
  expect(recordedRange()).toEqual({ startFrame: 2 * BAR, endFrame: 4 * BAR })
})

test('a first bar typed beyond the last moves it only for as long as it is', () => {
  useRecorder.setState({ scope: { kind: 'bars', fromBar: 9, toBar: 4 } })
  expect(recordedRange()).toEqual({ startFrame: 8 * BAR, endFrame: 9 * BAR })
  useRecorder.setState({ scope: { kind: 'bars', fromBar: 3, toBar: 4 } })
  expect(recordedRange()).toEqual({ startFrame: 2 * BAR, endFrame: 4 * BAR })
})

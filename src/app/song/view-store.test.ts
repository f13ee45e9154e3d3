import { expect, test } from '@jest/globals'
import { lineRange, smallSong } from '../../core/song/song.test-kit'
import { placedLines } from '../../core/song/select'
import { rangeOf, resetView, selectedLines, useView } from './view-store'

const song = smallSong()
const ids = placedLines(song).map(placed => placed.line.id)

test('the selection is the range that is worked on: lines, a section, the song', () => {
  expect(rangeOf(song, { kind: 'lines', lineIds: [ids[1]!, ids[3]!] })).toEqual({ startFrame: lineRange(1).startFrame, endFrame: lineRange(3).endFrame })
  expect(rangeOf(song, { kind: 'section', sectionId: song.sections[2]!.id })).toEqual({ startFrame: lineRange(4).startFrame, endFrame: lineRange(5).endFrame })
  expect(rangeOf(song, { kind: 'song' })).toEqual({ startFrame: 0, endFrame: 32 * 96_000 })
  expect(selectedLines(song, { kind: 'section', sectionId: song.sections[1]!.id })).toHaveLength(4)
})

test('a selection whose line is gone means the whole song', () => {
  expect(rangeOf(song, { kind: 'lines', lineIds: ['gone' as (typeof ids)[number]] })).toEqual(rangeOf(song, { kind: 'song' }))
})

test('a song opens on its first line and first layer', () => {
  resetView(song)
  expect(useView.getState()).toMatchObject({ layerId: song.layers[0]!.id, cursorFrame: lineRange(0).startFrame })
})

import { expect, test } from '@jest/globals'
import { pickTake } from '../comp/picks'
import { nudgePick } from '../comp/seams'
import { setLayerMix } from '../mix/commands'
import { setLineWords } from './lines'
import { placeOfChange } from './place-of-change'
import { renameSection } from './sections'
import { currentComp, placedLines } from './select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from './song.test-kit'

const song = withTakes(smallSong(), 'Lead', 2)
const lead = layerOf(song, 'Lead')
const picked = pickTake(song, { layerId: lead, takeId: song.takes[0].id, ...lineRange(1), makeId })

test('a change of picks is where they play; both ways the same place', () => {
  expect(placeOfChange(song, picked)).toBe('Lead, Verse, line 2')
  expect(placeOfChange(picked, song)).toBe('Lead, Verse, line 2')
  const more = pickTake(picked, { layerId: lead, takeId: song.takes[1].id, startFrame: lineRange(2).startFrame, endFrame: lineRange(3).endFrame, makeId })
  expect(placeOfChange(picked, more)).toBe('Lead, Verse, lines 3 to 4')
  const [pick] = currentComp(picked.layers[0]).picks
  expect(placeOfChange(picked, nudgePick(picked, { layerId: lead, pickId: pick.id, nudgeFrames: 480 }))).toBe('Lead, Verse, line 2')
})

test('a change of the sheet is its lines, or its section; a change of the mix has no place', () => {
  expect(placeOfChange(song, setLineWords(song, { lineId: placedLines(song)[4].line.id, words: 'other' }))).toBe('Hook, line 1')
  expect(placeOfChange(song, renameSection(song, { sectionId: song.sections[2].id, name: 'Chorus' }))).toBe('Chorus')
  expect(placeOfChange(song, setLayerMix(song, { layerId: lead, gainDecibels: -3 }))).toBeNull()
  expect(placeOfChange(song, song)).toBeNull()
})

import { describe, expect, test } from '@jest/globals'
import { pickTake } from '../../../core/comp/picks'
import type { Stretch } from '../../../core/comp/stretches'
import { requireLayer, placedLines } from '../../../core/song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../../../core/song/song.test-kit'
import { pickedIn, rowsOf, usesOf } from './rows'

const sung = withTakes(withTakes(withTakes(smallSong(), 'Lead', 3), 'Double left', 2), 'Double right', 2)
const [one, two, three, leftOne, leftTwo, rightOne, rightTwo] = sung.takes.map(take => take.id)
const lead = requireLayer(sung, layerOf(sung, 'Lead'))
const left = requireLayer(sung, layerOf(sung, 'Double left'))
const right = layerOf(sung, 'Double right')
const line = placedLines(sung)[0]!
const stretch: Stretch = { scope: 'line', title: 'one', startFrame: line.startFrame, endFrame: line.endFrame, lineIds: [line.line.id], sectionId: null }
const ALL = { freeOnly: false, sideBySide: false }
const takesOf = (rows: { takeId: string }[]) => rows.map(row => row.takeId)

describe('the rows of the bench', () => {
  test('are the takes of the layer that hold the line, then what it borrowed of others; nothing from the bin', () => {
    expect(takesOf(rowsOf(sung, lead, stretch, ALL))).toEqual([one, two, three])
    const borrowed = pickTake(sung, { layerId: lead.id, takeId: leftTwo!, ...lineRange(0), makeId })
    expect(takesOf(rowsOf(borrowed, requireLayer(borrowed, lead.id), stretch, ALL))).toEqual([one, two, three, leftTwo])
    const binned = { ...sung, takes: sung.takes.map(take => (take.id === two ? { ...take, binned: true } : take)) }
    expect(takesOf(rowsOf(binned, lead, stretch, ALL))).toEqual([one, three])
    const short = { ...sung, takes: sung.takes.map(take => (take.id === three ? { ...take, startFrame: line.endFrame - 48_000 } : take)) }
    expect(takesOf(rowsOf(short, lead, stretch, ALL))).toEqual([one, two])
  })

  test('side by side are those of every layer of the role, each in its own layer', () => {
    expect(rowsOf(sung, left, stretch, { freeOnly: false, sideBySide: true })).toEqual([
      { layerId: left.id, takeId: leftOne },
      { layerId: left.id, takeId: leftTwo },
      { layerId: right, takeId: rightOne },
      { layerId: right, takeId: rightTwo },
    ])
  })

  test('free ones are of any layer, without what another layer plays there; the third layer sees what the first two left', () => {
    const free = (song: typeof sung) => takesOf(rowsOf(song, requireLayer(song, right), stretch, { freeOnly: true, sideBySide: false }))
    expect(free(sung)).toEqual([one, two, three, leftOne, leftTwo, rightOne, rightTwo])
    const first = pickTake(sung, { layerId: lead.id, takeId: one!, ...lineRange(0), makeId })
    const second = pickTake(first, { layerId: left.id, takeId: three!, ...lineRange(0), makeId })
    expect(free(second)).toEqual([two, leftOne, leftTwo, rightOne, rightTwo])
    expect(usesOf(second, right, three!, stretch).map(use => use.layerId)).toEqual([left.id])
    // What it plays itself stays in view, and stands first.
    expect(free(pickTake(second, { layerId: right, takeId: rightTwo!, ...lineRange(0), makeId }))[0]).toBe(rightTwo)
  })

  test('a line is played by what plays most of it, and by nothing if that is little', () => {
    const length = line.endFrame - line.startFrame
    const mostly = pickTake(pickTake(sung, { layerId: lead.id, takeId: one!, ...lineRange(0), makeId }), {
      layerId: lead.id,
      takeId: two!,
      startFrame: line.endFrame - 0.2 * length,
      endFrame: line.endFrame,
      makeId,
    })
    expect(pickedIn(mostly, lead.id, stretch)?.take.id).toBe(one)
    const hardly = pickTake(sung, { layerId: lead.id, takeId: two!, startFrame: line.endFrame - 0.2 * length, endFrame: line.endFrame, makeId })
    expect(pickedIn(hardly, lead.id, stretch)).toBeNull()
  })
})

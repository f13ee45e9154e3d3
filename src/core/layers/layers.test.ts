import { describe, expect, test } from '@jest/globals'
import { describeComp, saveComp } from '../comp/comps'
import { pickTake } from '../comp/picks'
import { removeSpace } from '../mix/spaces'
import { SongSchema } from '../song/schema'
import { currentComp, requireLayer } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { PLATE_ID } from '../song/usual-mix'
import { makeLayersForTakes } from './found-takes'
import { addLayer, describeLayer, lossesOfLayer, moveLayer, removeLayer } from './commands'
import { layTemplate } from './lay-template'

const song = smallSong()
const names = (current = song) => current.layers.map(layer => layer.name)

describe('the template', () => {
  test('lays lead, doubles, harmony pairs and ad-libs, pairs mirrored left and right, each role on a bus', () => {
    expect(names()).toEqual(['Lead', 'Double left', 'Double right', 'High 1', 'High 2', 'Low 1', 'Low 2', 'Ad-lib left', 'Ad-lib right'])
    for (const role of ['double', 'high-harmony', 'low-harmony', 'ad-lib']) {
      const [left, right] = song.layers.filter(layer => layer.role === role)
      expect(left.pan).toBeLessThan(0)
      expect(left.pan).toBe(-right.pan)
      expect(left.gainDecibels).toBe(right.gainDecibels)
    }
    expect(song.layers[0]).toMatchObject({ pan: 0, gainDecibels: 0 })
    expect(song.buses.map(bus => bus.role).sort()).toEqual([...new Set(song.layers.map(layer => layer.role))].sort())
  })

  test('laid again it keeps every layer that was sung on and brings back what is missing', () => {
    const sung = withTakes(addLayer(song, { name: 'Whisper', role: 'double', makeId }), 'Lead', 1)
    const lead = layerOf(sung, 'Lead')
    const changed = removeLayer(describeLayer(sung, { layerId: lead, name: 'Main voice' }), { layerId: layerOf(sung, 'High 1') })
    const again = layTemplate(changed, { makeId })
    expect(requireLayer(again, lead).name).toBe('Main voice')
    expect(names(again)).toEqual(expect.arrayContaining(['Lead', 'High 1', 'Ad-lib right']))
    expect(names(again)).not.toContain('Whisper')
  })

  test('laid again it keeps a layer that was never sung on but plays takes of another', () => {
    const sung = withTakes(addLayer(song, { name: 'Whisper', role: 'double', makeId }), 'Lead', 1)
    const whisper = layerOf(sung, 'Whisper')
    const picked = pickTake(sung, { layerId: whisper, takeId: sung.takes[0].id, ...lineRange(0), makeId })
    expect(requireLayer(layTemplate(picked, { makeId }), whisper)).toEqual(requireLayer(picked, whisper))
  })
})

test('a layer moves one place and stops at the ends', () => {
  expect(names(moveLayer(song, { layerId: layerOf(song, 'Double left'), by: -1 })).slice(0, 2)).toEqual(['Double left', 'Lead'])
  expect(moveLayer(song, { layerId: layerOf(song, 'Lead'), by: -1 })).toBe(song)
})

test('removing a layer bins its takes, and takes them out of the layers that borrowed them', () => {
  const sung = withTakes(song, 'Lead', 2)
  const double = layerOf(sung, 'Double left')
  const borrowed = pickTake(sung, { layerId: double, takeId: sung.takes[0].id, ...lineRange(0), makeId })
  const removed = removeLayer(borrowed, { layerId: layerOf(sung, 'Lead') })
  expect(removed.takes.every(take => take.binned)).toBe(true)
  expect(currentComp(requireLayer(removed, double)).picks).toEqual([])
})

test('what would go with a layer is named; a locked comp of another layer keeps it', () => {
  const sung = withTakes(song, 'Lead', 2)
  const [lead, double] = [layerOf(sung, 'Lead'), layerOf(sung, 'Double left')]
  const borrowed = pickTake(sung, { layerId: double, takeId: sung.takes[0].id, ...lineRange(0), makeId })
  const picked = saveComp(pickTake(borrowed, { layerId: lead, takeId: sung.takes[1].id, ...lineRange(1), makeId }), { layerId: lead, name: 'Friday', makeId })
  expect(lossesOfLayer(picked, lead)).toEqual({ takes: 2, picks: 2, otherComps: 1, partNotes: 0, playedBy: ['Double left'], lockedComps: [] })
  const locked = describeComp(picked, { layerId: double, compId: requireLayer(picked, double).currentCompId, locked: true })
  expect(lossesOfLayer(locked, lead).lockedComps).toEqual(['Comp 1 of Double left'])
  expect(() => removeLayer(locked, { layerId: lead })).toThrow(RangeError)
  expect(lossesOfLayer(locked, layerOf(locked, 'High 1'))).toMatchObject({ takes: 0, picks: 0, otherComps: 0, playedBy: [] })
})

test('takes without a layer get one, a spare, and are seen there', () => {
  const sung = withTakes(song, 'Lead', 2)
  const orphaned = { ...sung, layers: sung.layers.slice(1), takes: [{ ...sung.takes[0] }, { ...sung.takes[1], binned: true }] }
  const housed = makeLayersForTakes(orphaned, makeId)
  expect(housed.layers.at(-1)).toMatchObject({ id: sung.takes[0].layerId, name: 'Found takes', role: 'spare' })
  expect(makeLayersForTakes(housed, makeId)).toBe(housed)
})

test('an empty name changes nothing, a long one is cut', () => {
  const layerId = layerOf(song, 'Lead')
  expect(names(describeLayer(song, { layerId, name: '  ' }))[0]).toBe('Lead')
  expect(names(describeLayer(song, { layerId, name: 'x'.repeat(500) }))[0]).toHaveLength(120)
})

test('a layer’s role can be changed: its tint follows unless it wears another, and its bus is there', () => {
  const song = smallSong()
  const layerId = layerOf(song, 'High 1')
  const layerIn = (s: typeof song) => s.layers.find(layer => layer.id === layerId)!
  const octave = describeLayer(song, { layerId, role: 'octave' })
  expect(layerIn(octave)).toMatchObject({ role: 'octave', tint: 'octave', pan: layerIn(song).pan })
  expect(octave.buses.some(bus => bus.role === 'octave')).toBe(true)
  const tinted = describeLayer(describeLayer(song, { layerId, tint: 'lead' }), { layerId, role: 'octave' })
  expect(layerIn(tinted)).toMatchObject({ role: 'octave', tint: 'lead' })
})

test('in a song whose plate was removed, layers come without being sent there, the template’s, one more, and those made for found takes', () => {
  const without = removeSpace(smallSong(), { spaceId: PLATE_ID })
  const orphaned = { ...withTakes(without, 'Lead', 1), layers: [] }
  for (const song of [
    layTemplate({ ...without, layers: [] }, { makeId }),
    addLayer(without, { name: 'More', role: 'double', makeId }),
    makeLayersForTakes(orphaned, makeId),
  ]) {
    expect(song.layers.length).toBeGreaterThan(0)
    expect(SongSchema.safeParse(song).error).toBeUndefined()
  }
})

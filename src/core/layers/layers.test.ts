import { describe, expect, test } from '@jest/globals'
import { pickTake } from '../comp/picks'
import { currentComp, requireLayer } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { addLayer, describeLayer, layTemplate, moveLayer, removeLayer } from './template'

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

test('an empty name changes nothing, a long one is cut', () => {
  const layerId = layerOf(song, 'Lead')
  expect(names(describeLayer(song, { layerId, name: '  ' }))[0]).toBe('Lead')
  expect(names(describeLayer(song, { layerId, name: 'x'.repeat(500) }))[0]).toHaveLength(120)
})

import { describe, expect, test } from '@jest/globals'
import { isLayerEmpty } from '../layers/commands'
import { layTemplate } from '../layers/lay-template'
import { setMade, setPart } from '../parts/commands'
import { currentComp, placedLines, requireLayer } from '../song/select'
import { layerOf, makeId, withTakes, smallSong } from '../song/song.test-kit'
import { hookLines, picked, sheet, Studio } from './stack.test-kit'
import { isFilled, missingOf, plainWords, setWanted, takePlan, usualPlan } from './wanted'

const titles = (name: string) => (usualPlan(sheet).get(layerOf(sheet, name)) ?? []).map(id => placedLines(sheet).find(({ line }) => line.id === id)!)
const hook = hookLines(1).map(({ line }) => line.id)

describe('the usual plan', () => {
  test('the lead sings all, doubles and two of each harmony the hooks, ad-libs answer in turn', () => {
    expect(titles('Lead')).toHaveLength(placedLines(sheet).length)
    for (const name of ['Double left', 'Double right', 'High 1', 'High 2', 'Low 1', 'Low 2']) {
      expect(new Set(titles(name).map(({ section }) => section.name))).toEqual(new Set(['Hook 1', 'Hook 2']))
      expect(titles(name)).toHaveLength(8)
    }
    const [one, other] = [titles('Ad-lib left'), titles('Ad-lib right')].map(lines => lines.map(({ line }) => line.id))
    expect(one.length - other.length).toBeLessThanOrEqual(1)
    expect(one.filter(id => other.includes(id))).toEqual([])
    expect(one.length).toBeGreaterThan(0)
  })

  test('a hook without that name is what comes back with the same words', () => {
    const renamed = { ...sheet, sections: sheet.sections.map((section, i) => ({ ...section, name: `Part ${i}` })) }
    const wanted = usualPlan(renamed).get(layerOf(renamed, 'Double left'))!
    expect(wanted).toEqual([...hookLines(1), ...hookLines(2)].map(({ line }) => line.id))
  })

  test('commas and capitals tell no lines apart', () => {
    expect(plainWords('Slow ferry, carry the LIGHTS!')).toBe(plainWords('slow ferry carry the lights'))
    expect(plainWords(' … ')).toBe('')
  })
})

describe('what is missing', () => {
  const left = layerOf(sheet, 'Double left')
  const high = layerOf(sheet, 'High 1')
  const planned = setWanted(setWanted(sheet, { layerId: left, lineIds: hook, wanted: true }), { layerId: high, lineIds: hook.slice(1, 3), wanted: true })

  test('is counted layer by layer in the order of the sheet, line by line or by stretches of a section', () => {
    expect(missingOf(planned, 'line').map(({ layerId, lines }) => [layerId, lines.map(({ line }) => line.id)])).toEqual([
      ...hook.map(id => [left, [id]]),
      [high, [hook[1]]],
      [high, [hook[2]]],
    ])
    expect(missingOf(planned, 'section').map(({ lines }) => lines.length)).toEqual([4, 2])
    const holed = setWanted(planned, { layerId: left, lineIds: [hook[1]], wanted: false })
    expect(missingOf(holed, 'section').map(({ lines }) => lines.length)).toEqual([1, 2, 2])
  })

  test('a take fills its line, a made voice too, and the bin empties it again', () => {
    const studio = new Studio()
    const [line] = hookLines(1)
    const sung = studio.sing(planned, left, [line])
    expect(missingOf(sung, 'line')).toHaveLength(5)
    const binned = { ...sung, takes: sung.takes.map(take => ({ ...take, binned: true })) }
    expect(missingOf(binned, 'line')).toHaveLength(6)
    const lead = layerOf(sung, 'Lead')
    const led = studio.heard(picked(studio.sing(sung, lead, [line]), lead, 'take-2' as never, line))
    const part = setPart(led, { layerId: high, range: line, notes: [{ startFrame: line.startFrame, endFrame: line.endFrame, midi: 64 }] })
    const made = setMade(part, { layerId: high, made: { sound: 'lead', throatSemitones: 0, seed: 1 } })
    expect(isFilled(part, requireLayer(part, high), line)).toBe(false)
    expect(isFilled(made, requireLayer(made, high), line)).toBe(true)
  })

  test('a layer with a plan is not empty, and the template leaves it as it is; a plan taken leaves nothing of another', () => {
    expect(isLayerEmpty(planned, left)).toBe(false)
    expect(requireLayer(layTemplate(planned, { makeId }), left).wanted).toEqual(hook)
    const usual = takePlan(planned, { wanted: usualPlan(planned) })
    expect(requireLayer(usual, left).wanted).toHaveLength(8)
    expect(takePlan(usual, { wanted: new Map() }).layers.flatMap(layer => layer.wanted)).toEqual([])
  })

  test('lines that are gone are asked of nobody', () => {
    const gone = { ...planned, sections: planned.sections.filter(section => section.name !== 'Hook 1') }
    expect(missingOf(gone, 'line')).toEqual([])
  })
})

test('a song without words has a plan too: the lead everywhere, and nothing that nobody can tell to be a hook', () => {
  const song = withTakes(smallSong(), 'Lead', 1)
  const bare = { ...song, sections: song.sections.map(section => ({ ...section, name: 'Part', lines: section.lines.map(line => ({ ...line, words: '' })) })) }
  expect(usualPlan(bare).get(layerOf(bare, 'Double left'))).toEqual([])
  expect(usualPlan(bare).get(layerOf(bare, 'Lead'))).toHaveLength(6)
  expect(currentComp(bare.layers[0]).picks).toEqual([])
})

import { describe, expect, test } from '@jest/globals'
import { sung } from '../mix/mix.test-kit'
import { addLayer } from '../layers/commands'
import { layerOf, makeId } from '../song/song.test-kit'
import { parseBars, rangeOfBars } from './bars'
import { fileNameOf, tagsOf } from './naming'
import { partsNamed } from './named-parts'

describe('a part is called by its name', () => {
  const song = sung()
  test.each([
    ['mix', [{ kind: 'mix' }]],
    ['Vocals-Dry', [{ kind: 'vocals', dry: true }]],
    ['stems', [{ kind: 'beat' }, { kind: 'layer', layerId: layerOf(song, 'Lead') }]],
    ['double', [{ kind: 'role', role: 'double' }]],
    ['double LEFT', [{ kind: 'layer', layerId: layerOf(song, 'Double left') }]],
    ['plate', [{ kind: 'space', spaceId: 'plate' }]],
    ['guides', []],
  ])('%s', (name, parts) => {
    expect(partsNamed(song, name)).toEqual({ ok: true, parts })
  })

  test('and what is none, or two, is refused with what there is', () => {
    expect(partsNamed(song, 'constructor')).toMatchObject({ ok: false, why: expect.stringMatching(/one of mix, vocals, .*Lead.*Plate/) })
    const twice = addLayer(song, { name: 'Lead', role: 'spare', makeId })
    expect(partsNamed({ ...twice, layers: twice.layers.map(layer => ({ ...layer, role: 'spare' as const })) }, 'Lead')).toMatchObject({
      ok: false,
      why: expect.stringMatching(/several/),
    })
  })
})

describe('bars', () => {
  test.each([
    ['5-12', { from: 5, to: 12 }],
    [' 7 ', { from: 7, to: 7 }],
    ['-1-2', { from: -1, to: 2 }],
    ['3 to 4', { from: 3, to: 4 }],
    ['12-5', null],
    ['5-99999', null],
    ['a-b', null],
    ['', null],
  ])('"%s"', (text, bars) => expect(parseBars(text)).toEqual(bars))

  test('are frames, the last bar among them', () => {
    expect(rangeOfBars(sung(), { from: 2, to: 3 })).toEqual({ startFrame: 96_000, endFrame: 288_000 })
  })
})

test('a file is named by its pattern and says of itself what the song knows', () => {
  const song = { ...sung(), title: 'A/B: "ferry" 🛳️' }
  song.beat = { ...song.beat, key: { tonic: 'F#', mode: 'minor' } }
  const naming = { pattern: '{artist}_{title} {part} {tempo} {key} {version}', artist: 'Q', date: '2026-11-30', version: 3 }
  expect(fileNameOf(song, 'mix', 'mp3', naming)).toBe('Q_A B ferry 🛳️ mix 120 bpm F# minor v3.mp3')
  expect(tagsOf(song, { artist: 'Q' })).toMatchObject({
    title: song.title,
    artist: 'Q',
    tempoBpm: 120,
    key: 'F# minor',
    lyrics: expect.stringContaining('one\ntwo'),
  })
})

import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { addBounce } from '../comp/bounces'
import { addLayer, removeLayer } from '../layers/commands'
import { layTemplate } from '../layers/lay-template'
import { setBeatMix } from '../mix/commands'
import { removeSpace } from '../mix/spaces'
import { makeRandom } from '../audio/random'
import { applyAnalysis } from './beat-facts'
import { carryOut } from './carry-out'
import { findProblem } from './check'
import { AMENDMENTS, COMMANDS, makeDice } from './commands.test-kit'
import { amend, assetsOfStep, beginHistory, goTo, MAXIMUM_STEPS, record, redo, undo, type History } from './history'
import { homelessTakes } from './house-takes'
import { requireLayer } from './select'
import { PLATE_ID } from './usual-mix'
import { renameSection } from './sections'
import type { AssetId, SongId, TakeId } from './schema'
import { layerOf, lineRange, makeId, smallSong, withTakes } from './song.test-kit'
import { addTakes, noteLevels } from './takes'
import { makeSong } from './make-song'
import { setTitle } from './title'

const song = withTakes(smallSong(), 'Lead', 3)

/** As the app does it: what would not be sound, or fails, is not done. */
function attempt(history: History, next: (history: History) => History): History {
  const outcome = carryOut(history, next)
  return outcome.ok ? outcome.history : history
}

test('any step, done or undone, is gone to as undo and redo would go there one by one', () => {
  const titles = ['a', 'b', 'c', 'd', 'e']
  const end = titles.reduce((history, title) => record(history, title, setTitle(history.song, title)), beginHistory(song))
  const steps = end.done
  for (const from of [null, ...steps.map(step => step.id)])
    for (const [i, to] of [null, ...steps.map(step => step.id)].entries()) {
      const there = goTo(goTo(end, from), to)
      expect(there.song.title).toBe(i === 0 ? song.title : titles[i - 1])
      expect([...there.done, ...there.undone].map(step => step.label)).toEqual(titles)
      let one = end
      while (one.done.length > i) one = undo(one)
      expect(there).toEqual(one)
    }
  expect(goTo(end, 99)).toBe(end)
})

describe('commands, as many and as wild as one likes', () => {
  test.each([1, 2, 3])(
    '1,000 of them leave a sound song; undo leads to the start and redo to the end (%i)',
    seed => {
      const dice = makeDice(makeRandom(seed), makeId)
      const names = Object.keys(COMMANDS)
      let history = beginHistory(song)
      let carriedOut = 0
      for (let i = 0; i < 1_000; i++) {
        const name = dice.of(names)
        const after = attempt(history, current => record(current, name, COMMANDS[name](current.song, dice)))
        if (after !== history) carriedOut++
        history = after
      }
      expect(findProblem(history.song, null)).toBeNull()
      expect(carriedOut).toBeGreaterThan(200)
      const end = history.song
      while (history.done.length > 0) {
        const before = history
        history = undo(history)
        expect(findProblem(history.song, before.song)).toBeNull()
      }
      if (carriedOut < MAXIMUM_STEPS) expect(history.song).toEqual(song)
      while (history.undone.length > 0) history = redo(history)
      expect(history.song).toEqual(end)
    },
    60_000,
  )

  test('a layer that keeps its takes where its step is taken back does not go into a space that went with it', () => {
    const bare = removeSpace(smallSong(), { spaceId: PLATE_ID })
    const laid = record(beginHistory({ ...bare, layers: [] }), 'lay the template', layTemplate({ ...bare, layers: [] }, { makeId }))
    const lead = layerOf(laid.song, 'Lead')
    expect(requireLayer(laid.song, lead).sends).toHaveLength(1)
    const back = attempt(amend(laid, withTakes(laid.song, 'Lead', 1)), undo)
    expect(back.done).toEqual([])
    expect(requireLayer(back.song, lead)).toMatchObject({ name: 'Lead', sends: [] })
    expect(findProblem(back.song, null)).toBeNull()
  })

  test('facts that come between them stay, however far one goes back, and every take keeps a layer', () => {
    fc.assert(
      fc.property(fc.integer(), seed => {
        const dice = makeDice(makeRandom(seed), makeId)
        let history = beginHistory(song)
        for (let i = 0; i < 60; i++) {
          const kind = dice.of(['command', 'command', 'fact', 'undo', 'redo'])
          if (kind === 'undo') history = attempt(history, undo)
          else if (kind === 'redo') history = attempt(history, redo)
          else {
            const table = kind === 'fact' ? AMENDMENTS : COMMANDS
            const name = dice.of(Object.keys(table))
            history = attempt(history, current =>
              kind === 'fact' ? amend(current, table[name](current.song, dice)) : record(current, name, table[name](current.song, dice)),
            )
          }
          expect(homelessTakes(history.song)).toEqual([])
        }
        // What a step made of other takes goes with it: bounces, and takes put to another place.
        const sung = history.song.takes.filter(take => !take.bounceOf && take.roundTripSource !== 'matched').map(take => take.id)
        while (history.done.length > 0) {
          const back = attempt(history, undo)
          if (back === history) break
          history = back
        }
        expect(history.done).toEqual([])
        expect(findProblem(history.song, null)).toBeNull()
        expect(history.song.takes.map(take => take.id)).toEqual(expect.arrayContaining(sung))
        expect(homelessTakes(history.song)).toEqual([])
      }),
      { numRuns: 40 },
    )
  }, 60_000)
})

describe('facts are no part of a step', () => {
  test('undoing a rename leaves tempo, key and levels that were found since', () => {
    const bare = makeSong({ songId: 's' as SongId, title: 'Drop', assetId: 'beat' as AssetId, fileName: 'beat.wav', frames: 32 * 96_000, makeId })
    const analysis = {
      tempo: {
        readings: [
          {
            tempoBpm: 92.6,
            meter: [4, 4] as [number, number],
            beatsPerBar: 4,
            barOnes: [{ seconds: 0.4, confidence: 1 }],
            confidence: 1,
            meterConfidence: 1,
            swing: null,
            beats: null,
          },
        ],
      },
      key: { readings: [{ key: { tonic: 'F', mode: 'minor' } as const, colour: null, confidence: 1 }], tuningCents: 4, chroma: [] },
    }
    const renamed = record(beginHistory(bare), 'rename', setTitle(bare, 'Ferry'))
    const found = amend(renamed, applyAnalysis(renamed.song, { analysis, makeId }))
    const undone = undo(found).song
    expect(undone).toMatchObject({ title: 'Drop', beat: { grid: { tempoBpm: 92.6 }, key: { tonic: 'F', mode: 'minor' } } })
    expect(redo(undo(found)).song).toEqual(found.song)
  })

  test('a level noted of a bounce is there again when the bounce is redone', () => {
    const layerId = layerOf(song, 'Lead')
    const place = {
      layerId,
      replaces: null,
      takeId: 'bounce' as TakeId,
      assetId: 'bounced' as AssetId,
      extent: lineRange(0),
      picks: [],
      edits: [],
      tidy: null,
      tune: null,
      bouncedAt: '2026-01-01T20:00:00.000Z',
    }
    const bounced = record(beginHistory(song), 'bounce', addBounce(song, place))
    const level = { peakDbfs: -3, voiceDbfs: -20, noiseDbfs: -70, tiltDecibels: 4 }
    const noted = amend(bounced, noteLevels(bounced.song, { levels: new Map([['bounce' as TakeId, level]]) }))
    const undone = undo(noted)
    expect(undone.song.takes.some(take => take.id === 'bounce')).toBe(false)
    expect(assetsOfStep(undone.undone[0])).toContain('bounced')
    expect(redo(undone).song.takes.at(-1)).toMatchObject({ id: 'bounce', level })
  })

  test('a take sung on a layer keeps that layer when its making is undone; both are whole after redo', () => {
    const bare = smallSong()
    let history = record(beginHistory(bare), 'add a layer', addLayer(bare, { name: 'Late', role: 'double', makeId }))
    const layer = history.song.layers.at(-1)!
    const take = { ...song.takes[0], id: 'sung-later' as TakeId, layerId: layer.id }
    history = undo(amend(history, addTakes(history.song, { takes: [take] })))
    expect(history.song.takes).toContainEqual(take)
    expect(history.song.layers.find(entry => entry.id === layer.id)).toEqual(layer)
    expect(redo(history).song.layers.filter(entry => entry.id === layer.id)).toHaveLength(1)
  })

  test('undoing the template leaves the layer that was sung on meanwhile', () => {
    const bare = { ...smallSong(), layers: [], buses: [] }
    const laid = record(beginHistory(bare), 'template', layTemplate(bare, { makeId }))
    const lead = laid.song.layers[0]
    const sung = amend(laid, addTakes(laid.song, { takes: [{ ...song.takes[0], layerId: lead.id }] }))
    expect(undo(sung).song.layers).toEqual([lead])
  })
})

describe('steps', () => {
  test('what a held key repeats is one step, undone at once', () => {
    let history = record(beginHistory(song), 'mute', setBeatMix(song, { muted: true }))
    for (let i = 1; i <= 300; i++) history = record(history, `pan ${i}`, setBeatMix(history.song, { pan: i / 300 }), { going: i > 1 })
    expect(history.done.map(step => step.label)).toEqual(['mute', 'pan 300'])
    expect(undo(history).song.beat).toMatchObject({ muted: true, pan: 0 })
    expect(redo(undo(history)).song).toEqual(history.song)
  })
  test('a gesture that ends where it began is no step', () => {
    const away = record(beginHistory(song), 'pan', setBeatMix(song, { pan: 0.5 }))
    const back = record(away, 'pan', setBeatMix(away.song, { pan: 0 }), { going: true })
    expect(back.done).toEqual([])
    expect(back.song).toEqual(song)
  })
  test('a song that is equal to the one before is no step', () => {
    const history = beginHistory(song)
    expect(record(history, 'nothing', setBeatMix(song, { pan: song.beat.pan }))).toBe(history)
  })
  test('ids run on, whatever is undone; the oldest of more than a thousand go', () => {
    let history = beginHistory(song)
    for (let i = 0; i < MAXIMUM_STEPS + 5; i++) history = record(history, 'pan', setBeatMix(history.song, { pan: (i % 9) / 10 + 0.01 }))
    expect(history.done).toHaveLength(MAXIMUM_STEPS)
    expect([history.done[0].id, history.done.at(-1)!.id]).toEqual([6, MAXIMUM_STEPS + 5])
    for (let i = 0; i < 3; i++) history = undo(history)
    history = record(history, 'rename', renameSection(history.song, { sectionId: song.sections[0].id, name: 'Start' }))
    expect(history.done.at(-1)!.id).toBe(MAXIMUM_STEPS + 3)
    expect(history.undone).toEqual([])
  })
  test('removing a layer is small even where the song holds hundreds of takes', () => {
    const large = withTakes(smallSong(), 'Double left', 400)
    const step = record(beginHistory(large), 'remove', removeLayer(large, { layerId: large.layers.at(-1)!.id })).done[0]
    expect(JSON.stringify(step).length).toBeLessThan(2_000)
  })
})

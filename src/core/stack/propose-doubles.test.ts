import { describe, expect, test } from '@jest/globals'
import { describeComp } from '../comp/comps'
import { pickTake } from '../comp/picks'
import { singStretch } from '../rehearsal/sing-stretch'
import { SongSchema, type AssetId, type LayerId, type Song, type TakeId } from '../song/schema'
import { currentComp, overlapFrames, requireLayer, requireTake } from '../song/select'
import { layerOf, makeId } from '../song/song.test-kit'
import { addTakes, makeTake } from '../song/takes'
import { readyForDoubles } from './place-elsewhere'
import { proposeDoubles, type DoublesProposal } from './propose-doubles'
import { hookLines, picked, sheet, Studio } from './stack.test-kit'

const lead = layerOf(sheet, 'Lead')
const [left, right] = [layerOf(sheet, 'Double left'), layerOf(sheet, 'Double right')]
const lines = hookLines(1).slice(0, 2)
const lineIds = lines.map(({ line }) => line.id)
const ids = (song: Song) => song.takes.map(({ id }) => id)

/** Five passes of two lines on the lead, the first of which it plays. */
const studio = new Studio()
const five = [1, 2, 3, 4, 5].reduce((song, firstTake) => studio.sing(song, lead, lines, { firstTake }), sheet)
const sung = lines.reduce((song, line) => picked(song, lead, ids(five)[0], line), five)
const wish = { sourceLayerId: lead, layerIds: [left, right], lineIds }

function laid(song: Song, proposal: DoublesProposal): Song {
  const ready = readyForDoubles(song, proposal.choices, makeId)
  return ready.picks.reduce((current, { layerId, takeId, asked }) => pickTake(current, { layerId, takeId, ...asked, makeId }), ready.song)
}

const playedBy = (song: Song, layerId: LayerId) => currentComp(requireLayer(song, layerId)).picks

describe('doubles from what is left', () => {
  test('of five passes two become doubles, no stretch of any sounds twice, and the lead’s own choice stays', async () => {
    const proposal = await proposeDoubles(sung, wish, studio.sounds)
    expect(proposal.choices).toHaveLength(4)
    expect(proposal.missing).toEqual([])
    const song = laid(sung, proposal)
    expect(playedBy(song, lead)).toEqual(playedBy(sung, lead))
    const all = [lead, left, right].flatMap(layerId => playedBy(song, layerId).map(pick => ({ ...pick, layerId })))
    for (const a of all) for (const b of all) if (a.layerId !== b.layerId && a.takeId === b.takeId) expect(overlapFrames(a, b)).toBeLessThan(14_400)
    for (const { reasons } of proposal.choices) {
      expect(reasons.offMilliseconds).toBeLessThan(80)
      expect(reasons.likeness).toBeGreaterThan(0.3)
    }
  })

  test('one layer keeps its take from line to line, and says so', async () => {
    const { choices } = await proposeDoubles(sung, wish, studio.sounds)
    const second = choices.filter(choice => choice.lineId === lineIds[1])
    for (const choice of second) {
      const before = choices.find(other => other.layerId === choice.layerId && other.lineId === lineIds[0])!
      expect(choice.reasons.goesOn).toBe(choice.takeId === before.takeId)
    }
    expect(second.some(choice => choice.reasons.goesOn)).toBe(true)
  })

  test('a take that is the lead’s sound once more, softer and upside down, is refused by name; one that is not there is not offered', async () => {
    const copy = studio.sing(sung, left, lines, { sound: studio.soundOf(sung, ids(sung)[0]).map(value => -0.5 * value) })
    const gone = { ...copy, takes: [...copy.takes, { ...copy.takes[1], id: 'gone' as never, assetId: 'gone' as never }] }
    const proposal = await proposeDoubles(gone, wish, studio.sounds)
    expect(proposal.copies.map(({ takeId }) => takeId)).toEqual([ids(copy).at(-1), ids(copy).at(-1)])
    expect(proposal.choices.map(({ takeId }) => takeId)).not.toContain(ids(copy).at(-1))
    expect(proposal.choices.map(({ takeId }) => takeId)).not.toContain('gone')
  })

  test('two takes that are one sound never double each other', async () => {
    const two = { ...sung, takes: sung.takes.slice(0, 2) }
    const twin = studio.sing(two, left, lines, { sound: studio.soundOf(sung, ids(sung)[1]).map(value => 0.7 * value) })
    const proposal = await proposeDoubles(twin, { ...wish, lineIds: lineIds.slice(0, 1) }, studio.sounds)
    expect(proposal.choices).toHaveLength(1)
    expect(proposal.missing).toEqual([{ lineId: lineIds[0], layerIds: [expect.anything()] }])
  })

  test('what a double plays stays unless it is meant, and a locked comp stays in any case', async () => {
    const played = picked(sung, left, ids(sung)[4], lines[0])
    const kept = await proposeDoubles(played, wish, studio.sounds)
    expect(kept.played).toEqual([{ lineId: lineIds[0], layerId: left }])
    expect(kept.choices.filter(choice => choice.lineId === lineIds[0]).map(choice => choice.layerId)).toEqual([right])
    const replaced = await proposeDoubles(played, { ...wish, replacing: true }, studio.sounds)
    expect(replaced.choices).toHaveLength(4)
    expect(SongSchema.safeParse(laid(played, replaced)).success).toBe(true)
    const locked = describeComp(played, { layerId: left, compId: requireLayer(played, left).currentCompId, locked: true })
    const beside = await proposeDoubles(locked, { ...wish, replacing: true }, studio.sounds)
    expect(new Set(beside.choices.map(choice => choice.layerId))).toEqual(new Set([right]))
  })

  test('three passes of a loop are one capture and three takes: two are left for doubles', async () => {
    const [line] = lines
    const frames = line.endFrame - line.startFrame
    const passes = singStretch(sheet, line, { passes: 3, firstTake: 40, degreeShift: 0 }, () => {})
    studio.assets.set('loop' as AssetId, passes)
    const looped = [0, 1, 2].reduce(
      (s, pass) =>
        addTakes(s, {
          takes: [
            makeTake({
              id: `loop-${pass}` as TakeId,
              layerId: lead,
              pass: pass + 1,
              assetId: 'loop' as AssetId,
              originFrame: line.startFrame - pass * frames,
              startFrame: line.startFrame,
              endFrame: pass < 2 ? line.endFrame : line.endFrame - Math.round(0.15 * frames),
              recordedAt: '2026-01-01T20:00:00.000Z',
            }),
          ],
        }),
      sheet,
    )
    const chosen = picked(looped, lead, 'loop-1' as TakeId, line)
    const proposal = await proposeDoubles(chosen, { ...wish, lineIds: [line.line.id] }, studio.sounds)
    expect(proposal.choices.map(({ takeId }) => takeId).sort()).toEqual(['loop-0', 'loop-2'])
  })

  test('a line the lead has not picked keeps one take for it', async () => {
    const one = { ...five, takes: five.takes.slice(0, 1) }
    const proposal = await proposeDoubles(one, { ...wish, lineIds: lineIds.slice(0, 1) }, studio.sounds)
    expect(proposal.choices).toEqual([])
    expect(proposal.missing).toEqual([{ lineId: lineIds[0], layerIds: [left, right] }])
  })
})

describe('the same words sung elsewhere', () => {
  const later = hookLines(2).slice(0, 1)
  const once = studio.sing({ ...sung, takes: sung.takes.slice(0, 2) }, lead, later, { firstTake: 9 })
  const both = picked(once, lead, ids(once)[2], later[0])
  const here = { sourceLayerId: lead, layerIds: [left], lineIds: [later[0].line.id] }

  test('whoever sang the second hook once gets a double of it from the first, which is no copy and lies in time', async () => {
    const proposal = await proposeDoubles(both, here, studio.sounds)
    expect(proposal.choices).toHaveLength(1)
    const [choice] = proposal.choices
    // The pass that the lead does not play.
    expect(choice).toMatchObject({ takeId: ids(both)[1], elsewhere: { lineId: lineIds[0] } })
    expect(choice.reasons.offMilliseconds).toBeLessThan(60)
    const song = laid(both, proposal)
    const [pick] = playedBy(song, left)
    const placed = requireTake(song, pick.takeId)
    const source = requireTake(song, ids(both)[1])
    expect(placed).toMatchObject({ assetId: source.assetId, name: 'Pass 2 of Hook 1', roundTripSource: 'matched', layerId: left })
    expect(placed.originFrame - source.originFrame).toBe(choice.elsewhere!.byFrames)
    expect(Math.abs(choice.elsewhere!.byFrames - (later[0].startFrame - lines[0].startFrame))).toBeLessThan(0.2 * 48_000)
    expect(SongSchema.safeParse(song).error).toBeUndefined()
  })

  test('even the pass that the lead plays there serves: it sounds a hook later, and is no copy in its place', async () => {
    const only = { ...both, takes: [both.takes[0], both.takes[2]] }
    const proposal = await proposeDoubles(only, here, studio.sounds)
    expect(proposal.choices[0]).toMatchObject({ takeId: ids(both)[0] })
    expect(playedBy(laid(only, proposal), left)).toHaveLength(1)
  })

  test('other words, or the same at another length, offer nothing', async () => {
    const reworded: Song = {
      ...both,
      sections: both.sections.map(section => ({
        ...section,
        lines: section.lines.map(line => (line.id === later[0].line.id ? { ...line, words: 'Another line' } : line)),
      })),
    }
    expect((await proposeDoubles(reworded, here, studio.sounds)).missing).toEqual([{ lineId: later[0].line.id, layerIds: [left] }])
    const shorter: Song = {
      ...both,
      sections: both.sections.map(section => ({
        ...section,
        lines: section.lines.map(line => (line.id === later[0].line.id ? { ...line, beatCount: line.beatCount - 1 } : line)),
      })),
    }
    expect((await proposeDoubles(shorter, here, studio.sounds)).choices).toEqual([])
  })
})

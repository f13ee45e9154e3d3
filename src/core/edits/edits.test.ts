import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { peakOf } from '../audio/decibels'
import { addBounce, editsPlayed, isBounceStale } from '../comp/bounces'
import { pickTake, runsOn } from '../comp/picks'
import { splitPick } from '../comp/seams'
import { setBeatMix } from '../mix/commands'
import { bare, offline, sung } from '../mix/mix.test-kit'
import { planMix } from '../mix/plan'
import type { EditId, GainEdit, NoteEdit } from '../song/edit-schema'
import { NO_EDITS } from '../song/edit-schema'
import { SongSchema, type AssetId, type Song, type TakeId } from '../song/schema'
import { currentComp, requireTake } from '../song/select'
import { layerOf, lineRange, makeId } from '../song/song.test-kit'
import { placeAgain } from '../song/takes'
import { checkEdit, removeEdits, setAsSung, setGainEdit, setNoteEdit, setTimeEdit } from './commands'
import { gainPointsOf } from './gain-points'
import { pitchInStretch, setPitchInStretch } from './stretch-pitch'

const song = setBeatMix(bare(sung()), { muted: true })
const lead = layerOf(song, 'Lead')
const [take] = song.takes
const line = lineRange(0)
/** Where a frame of the song lies in the take's asset. */
const inTake = (frame: number, of: Song = song) => frame - requireTake(of, take.id).originFrame
const id = (name: string) => name as EditId
const gain = (name: string, startFrame: number, endFrame: number, gainDecibels: number, fadeFrames = 480): GainEdit => ({
  id: id(name),
  startFrame,
  endFrame,
  gainDecibels,
  fadeFrames,
})
const note = (name: string, startFrame: number, endFrame: number, shiftCents = 50): NoteEdit => ({
  id: id(name),
  startFrame,
  endFrame,
  shiftCents,
  rungCents: null,
})
const editsOf = (of: Song) => requireTake(of, take.id).edits
/** A stretch inside the first line, from so many seconds after its start on. */
const inside = (from: number, to: number) => ({ startFrame: inTake(line.startFrame) + from * 48_000, endFrame: inTake(line.startFrame) + to * 48_000 })
const play = async (of: Song, shiftFrames = 0) =>
  (await offline(planMix(of), { startFrame: line.startFrame + 4_800 + shiftFrames, endFrame: line.startFrame + 76_800 + shiftFrames }))[0]

describe('gains laid over a take', () => {
  const lowered = setGainEdit(song, { takeId: take.id, edit: gain('breath', inside(0.5, 1).startFrame, inside(0.5, 1).endFrame, -12, 4_800) })

  test('are heard between their fades in straight lines of decibels, and nowhere else', async () => {
    const [with_, without] = [await play(lowered), await play(song)]
    const decibelsAt = (second: number) => {
      const [a, b] = [with_, without].map(sound => peakOf(sound.slice((second - 0.1) * 48_000 - 145, (second - 0.1) * 48_000 + 145)))
      return 20 * Math.log10(a / b)
    }
    for (const [second, expected] of [
      [0.45, 0],
      [0.55, -6],
      [0.75, -12],
      [0.9, -12],
      [0.95, -6],
      [1.05, 0],
    ])
      expect(Math.abs(decibelsAt(second) - expected)).toBeLessThan(0.4)
    expect(with_.subarray(0, 0.39 * 48_000)).toEqual(without.subarray(0, 0.39 * 48_000))
    expect(with_.subarray(0.91 * 48_000)).toEqual(without.subarray(0.91 * 48_000))
  })

  test('go with the take when it is placed again, and away with the pick that is as sung', async () => {
    const later = placeAgain(lowered, { takeIds: [take.id], roundTripFrames: take.roundTripFrames + 960, source: 'measured', measuredAt: null })
    expect(editsOf(later)).toEqual(editsOf(lowered))
    // The pick stays; inside it all of the sound, its gains too, lies 960 frames earlier.
    const [before, after] = [await play(lowered), await play(later, -960)]
    expect(after.subarray(4_800, 60_000)).toEqual(before.subarray(4_800, 60_000))
    const [pick] = currentComp(song.layers.find(layer => layer.id === lead)!).picks
    expect(await play(setAsSung(lowered, { layerId: lead, pickId: pick.id, asSung: true }))).toEqual(await play(song))
  })

  test('overlapping add up, and at -60 dB the take is silent', async () => {
    const points = gainPointsOf([gain('a', 0, 1_000, -6, 100), gain('b', 500, 1_500, -3, 100)])
    const at = (frame: number) => points.find(point => point.frame === frame)?.decibels
    expect([at(0), at(100), at(600), at(900), at(1_000), at(1_500)]).toEqual([0, -6, -9, -9, -3, 0])
    const { startFrame, endFrame } = inside(0.5, 1)
    const silent = await play(setGainEdit(song, { takeId: take.id, edit: gain('cough', startFrame, endFrame, -60) }))
    expect(peakOf(silent.slice(0.42 * 48_000, 0.88 * 48_000))).toBe(0)
    expect(peakOf(silent.slice(0.92 * 48_000))).toBeGreaterThan(0.1)
  })

  test('are in no other take, though two passes of a loop share one sound', () => {
    const twin = { ...take, id: 'twin' as TakeId }
    const both = { ...lowered, takes: [...lowered.takes, { ...twin, edits: NO_EDITS }] }
    const spans = planMix(pickTake(both, { layerId: lead, takeId: twin.id, ...line, insist: true, makeId })).channels[0].spans
    expect(spans[0].gains).toBeUndefined()
  })
})

test('the pitch of a stretch is a note on the take that is picked there: typed anew it takes its place, typed 0 it goes', () => {
  const word = { startFrame: line.startFrame + 20_000, endFrame: line.startFrame + 30_000 }
  const pickOf = (of: Song) => currentComp(of.layers.find(layer => layer.id === lead)!).picks[0]
  const pitched = setPitchInStretch(song, { layerId: lead, stretch: word, shiftCents: 40, makeId })
  expect(editsOf(pitched).notes).toMatchObject([{ startFrame: inTake(word.startFrame), endFrame: inTake(word.endFrame), shiftCents: 40 }])
  expect(pitchInStretch(pitched, pickOf(pitched), word)).toBe(40)
  expect(pitchInStretch(pitched, pickOf(pitched), { startFrame: word.endFrame, endFrame: line.endFrame })).toBe(0)
  const wider = { ...word, endFrame: word.endFrame + 9_000 }
  const again = setPitchInStretch(pitched, { layerId: lead, stretch: wider, shiftCents: -15, makeId })
  expect(editsOf(again).notes.map(({ shiftCents }) => shiftCents)).toEqual([-15])
  expect(editsOf(setPitchInStretch(again, { layerId: lead, stretch: word, shiftCents: 0, makeId }))).toEqual(NO_EDITS)
  // Nothing is picked there: nothing is done.
  expect(setPitchInStretch(song, { layerId: layerOf(song, 'High 1'), stretch: word, shiftCents: 40, makeId })).toBe(song)
})

describe('edits', () => {
  test('a note that overlaps another takes its place; a place in time stays between its neighbours', () => {
    let edited = setNoteEdit(song, { takeId: take.id, edit: note('a', 0, 1_000) })
    edited = setNoteEdit(edited, { takeId: take.id, edit: note('b', 2_000, 3_000) })
    edited = setNoteEdit(edited, { takeId: take.id, edit: note('c', 500, 2_500, 9_999) })
    expect(editsOf(edited).notes).toEqual([note('c', 500, 2_500, 1_200)])
    edited = setTimeEdit(edited, { takeId: take.id, edit: { id: id('t'), frame: 10_000, laterFrames: 3_000 } })
    edited = setTimeEdit(edited, { takeId: take.id, edit: { id: id('u'), frame: 12_000, laterFrames: -9_000 } })
    // 480 frames are left between the two.
    expect(editsOf(edited).times.map(({ laterFrames }) => laterFrames)).toEqual([3_000, 1_480])
    expect(setTimeEdit(edited, { takeId: take.id, edit: { id: id('v'), frame: 11_000, laterFrames: 0 } })).toBe(edited)
    expect(editsOf(removeEdits(edited, { takeId: take.id, editIds: [id('c'), id('u')] }))).toEqual({
      gains: [],
      notes: [],
      times: [{ id: 't', frame: 10_000, laterFrames: 3_000 }],
      mends: [],
    })
    expect(editsOf(removeEdits(edited, { takeId: take.id }))).toEqual(NO_EDITS)
  })

  test('a stretch that ends before it begins, or begins before the sound, is refused', () => {
    for (const [from, to] of [
      [900, 900],
      [-1, 50],
      [0.5, 20],
    ])
      expect(() => setGainEdit(song, { takeId: take.id, edit: gain('x', from, to, -3) })).toThrow(RangeError)
  })

  test('change nothing that a locked comp plays, unless it plays the take as sung', () => {
    const locked = { ...song, layers: song.layers.map(layer => ({ ...layer, comps: layer.comps.map(comp => ({ ...comp, locked: true })) })) }
    const { name } = currentComp(locked.layers[0])
    expect(checkEdit(locked, take.id)).toEqual({ ok: false, reason: 'locked', compNames: [`${name} of Lead`] })
    expect(() => setNoteEdit(locked, { takeId: take.id, edit: note('a', 0, 1_000) })).toThrow(/locked/)
    const asSung = locked.layers.map(layer => ({
      ...layer,
      comps: layer.comps.map(comp => ({ ...comp, picks: comp.picks.map(pick => ({ ...pick, asSung: true })) })),
    }))
    expect(checkEdit({ ...locked, layers: asSung }, take.id)).toEqual({ ok: true })
    expect(checkEdit(song, take.id)).toEqual({ ok: true })
  })

  test('laid in any order, they make a song that can be kept', () => {
    const act = fc.record({
      name: fc.constantFrom('a', 'b', 'c', 'd'),
      from: fc.nat(200_000),
      length: fc.integer({ min: 1, max: 90_000 }),
      by: fc.integer({ min: -99_999, max: 99_999 }),
    })
    fc.assert(
      fc.property(fc.array(act, { maxLength: 12 }), acts => {
        let edited = song
        for (const { name, from, length, by } of acts) {
          edited = setNoteEdit(edited, { takeId: take.id, edit: note(name, from, from + length, by) })
          edited = setTimeEdit(edited, { takeId: take.id, edit: { id: id(`t${name}`), frame: from, laterFrames: by } })
          edited = setGainEdit(edited, { takeId: take.id, edit: gain(`g${name}`, from, from + length, by, by) })
        }
        expect(SongSchema.safeParse(edited).success).toBe(true)
      }),
      { numRuns: 60 },
    )
  })

  test('of a pick that is cut, both halves sound alike until one is as sung', () => {
    const cut = splitPick(song, { layerId: lead, frame: line.startFrame + 40_000, makeId })
    const [before, after] = currentComp(cut.layers.find(layer => layer.id === lead)!).picks
    expect(runsOn(before, after)).toBe(true)
    const changed = setAsSung(cut, { layerId: lead, pickId: after.id, asSung: true })
    const [first, second] = currentComp(changed.layers.find(layer => layer.id === lead)!).picks
    expect(runsOn(first, second)).toBe(false)
  })

  test('a bounce is stale once what lies over its takes changes, but not for a take that it plays as sung', () => {
    const { picks } = currentComp(song.layers.find(layer => layer.id === lead)!)
    const place = { layerId: lead, replaces: null, takeId: 'b' as TakeId, assetId: 'b' as AssetId, extent: line, bouncedAt: '2026-01-01T20:00:00.000Z' }
    const bounced = addBounce(song, { ...place, picks, edits: editsPlayed(song, picks), tidy: null, tune: null })
    const bounce = bounced.takes.at(-1)!
    expect(isBounceStale(bounced, bounce)).toBe(false)
    const edited = setNoteEdit(bounced, { takeId: take.id, edit: note('a', 0, 1_000) })
    expect(isBounceStale(edited, bounce)).toBe(true)
    expect(isBounceStale(setNoteEdit(bounced, { takeId: song.takes[1].id, edit: note('a', 0, 1_000) }), bounce)).toBe(true)
    expect(
      editsPlayed(
        edited,
        picks.map(pick => ({ ...pick, asSung: true })),
      ),
    ).toEqual([])
  })
})

import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { makePeaks } from '../audio/peaks'
import { sine } from '../audio/signals.test-kit'
import type { AssetId, Song } from '../song/schema'
import { currentComp, requireLayer } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { matchGainDecibels } from './level-match'
import { checkPick, clearPicks, pickAt, pickTake } from './picks'
import { quietSpotNear, SEAM_REACH_FRAMES } from './quiet-spot'

const song = withTakes(smallSong(), 'Lead', 4)
const lead = layerOf(song, 'Lead')
const left = layerOf(song, 'Double left')
const takeIds = song.takes.map(take => take.id)
const picksOf = (s: Song, layerId = lead) => currentComp(requireLayer(s, layerId)).picks

describe('picks', () => {
  test('whatever the order of edits, they lie in order, never overlap, and the last choice sounds where it was made', () => {
    const edit = fc.record({
      take: fc.integer({ min: 0, max: 3 }),
      start: fc.integer({ min: 336_000, max: 1_600_000 }),
      length: fc.integer({ min: 2_400, max: 400_000 }),
      clear: fc.boolean(),
    })
    fc.assert(
      fc.property(fc.array(edit, { minLength: 1, maxLength: 25 }), edits => {
        let current = song
        for (const { take, start, length, clear } of edits) {
          const range = { startFrame: start, endFrame: start + length }
          if (clear) {
            current = clearPicks(current, { layerId: lead, ...range, makeId })
            expect(pickAt(current, lead, start + (length >> 1))).toBeNull()
          } else {
            current = pickTake(current, { layerId: lead, takeId: takeIds[take], ...range, makeId })
            expect(pickAt(current, lead, Math.min(start + (length >> 1), song.takes[0].endFrame - 1))?.takeId).toBe(takeIds[take])
          }
          const picks = picksOf(current)
          expect(new Set(picks.map(pick => pick.id)).size).toBe(picks.length)
          picks.forEach((pick, i) => {
            expect(pick.endFrame).toBeGreaterThan(pick.startFrame)
            if (i > 0) expect(pick.startFrame).toBeGreaterThanOrEqual(picks[i - 1].endFrame)
          })
        }
      }),
      { numRuns: 80 },
    )
  })

  test('choosing another take changes nothing but which take sounds', () => {
    const first = pickTake(song, { layerId: lead, takeId: takeIds[0], ...lineRange(0), makeId })
    const second = pickTake(first, { layerId: lead, takeId: takeIds[1], ...lineRange(0), makeId })
    expect(picksOf(second)).toMatchObject([{ takeId: takeIds[1], ...lineRange(0), nudgeFrames: 0 }])
  })

  test('neighbouring lines of one take are one pick without a seam; no sliver of an old pick stays beside a new one', () => {
    const joined = [0, 1].reduce((s, i) => pickTake(s, { layerId: lead, takeId: takeIds[0], ...lineRange(i), makeId }), song)
    expect(picksOf(joined)).toHaveLength(1)
    const { startFrame, endFrame } = lineRange(1)
    const shifted = pickTake(joined, { layerId: lead, takeId: takeIds[1], startFrame: startFrame + 900, endFrame: endFrame - 1_300, makeId })
    expect(picksOf(shifted)).toMatchObject([
      { takeId: takeIds[0], endFrame: startFrame + 900 },
      { takeId: takeIds[1], endFrame },
    ])
  })

  test('a line chosen again leaves nothing of the take before, wherever each found its quiet spot; a word chosen leaves the rest', () => {
    const line = lineRange(0)
    const first = pickTake(song, { layerId: lead, takeId: takeIds[0], startFrame: line.startFrame + 1_000, endFrame: line.endFrame + 20_000, makeId })
    const again = { layerId: lead, takeId: takeIds[1], startFrame: line.startFrame, endFrame: line.endFrame - 20_000, makeId }
    expect(picksOf(pickTake(first, { ...again, asked: line }))).toMatchObject([
      { takeId: takeIds[1], startFrame: line.startFrame, endFrame: line.endFrame + 20_000 },
    ])
    const word = { startFrame: line.startFrame, endFrame: line.endFrame - 60_000 }
    expect(picksOf(pickTake(first, { ...again, ...word, asked: word })).map(pick => [pick.takeId, pick.endFrame])).toEqual([
      [takeIds[1], word.endFrame],
      [takeIds[0], line.endFrame + 20_000],
    ])
  })

  test('picks of neighbouring lines that stop a little short of each other meet in one seam', () => {
    const first = pickTake(song, { layerId: lead, takeId: takeIds[0], startFrame: lineRange(0).startFrame, endFrame: lineRange(0).endFrame - 9_000, makeId })
    const both = pickTake(first, { layerId: lead, takeId: takeIds[1], startFrame: lineRange(1).startFrame + 500, endFrame: lineRange(1).endFrame, makeId })
    expect(picksOf(both).map(pick => pick.startFrame)).toEqual([lineRange(0).startFrame, lineRange(0).endFrame - 9_000])
  })

  test('a take that another layer plays here cannot be picked, nor another pass of the same recording over the same sound', () => {
    const picked = pickTake(song, { layerId: lead, takeId: takeIds[0], ...lineRange(0), makeId })
    expect(checkPick(picked, { layerId: left, takeId: takeIds[0], ...lineRange(0) })).toMatchObject({
      ok: false,
      reason: 'used-elsewhere',
      uses: [{ layerId: lead }],
    })
    expect(checkPick(picked, { layerId: left, takeId: takeIds[0], ...lineRange(2) }).ok).toBe(true)
    expect(() => pickTake(picked, { layerId: left, takeId: takeIds[0], ...lineRange(0), makeId })).toThrow(/used-elsewhere/)
    // In a loop the next pass begins where this one ends: a pick that reaches into the pause between them takes nothing from it.
    const loop = lineRange(0).endFrame - lineRange(0).startFrame
    const passes = withTakes(song, 'Lead', 1, { assetId: song.takes[0].assetId as AssetId, originFrame: song.takes[0].originFrame - loop })
    const beyond = pickTake(passes, {
      layerId: lead,
      takeId: takeIds[0],
      startFrame: lineRange(0).startFrame,
      endFrame: lineRange(0).endFrame + SEAM_REACH_FRAMES,
      makeId,
    })
    expect(checkPick(beyond, { layerId: left, takeId: passes.takes.at(-1)!.id, ...lineRange(0) }).ok).toBe(true)
    // A take that holds only the end of what was asked for is no freer for that.
    const { startFrame, endFrame } = lineRange(0)
    const late = { ...picked, takes: picked.takes.map(take => (take.id === takeIds[0] ? { ...take, startFrame: endFrame - 20_000 } : take)) }
    expect(checkPick(late, { layerId: left, takeId: takeIds[0], startFrame, endFrame, asked: { startFrame, endFrame } })).toMatchObject({
      ok: false,
      reason: 'used-elsewhere',
    })
    const shared = withTakes(picked, 'Lead', 1, { assetId: picked.takes[0].assetId as AssetId, originFrame: picked.takes[0].originFrame - 192_000 })
    expect(
      checkPick(shared, {
        layerId: left,
        takeId: shared.takes.at(-1)!.id,
        startFrame: lineRange(0).startFrame - 192_000,
        endFrame: lineRange(0).endFrame - 192_000,
      }).ok,
    ).toBe(false)
  })
})

describe('quiet spots', () => {
  // A voice with a pause of 200 ms that ends 150 ms after the line's edge.
  const edge = 480_000
  const voice = sine({ hz: 220, frames: 96_000, amplitude: 0.4 })
  voice.fill(0, 48_000 - 2_400, 48_000 + 7_200)
  const peaks = { peaks: makePeaks([voice]), originFrame: edge - 48_000 }

  test('a seam goes into the pause near the edge, not into the note', () => {
    const spot = quietSpotNear([peaks], edge)
    expect(spot).toBeGreaterThan(edge - 2_400)
    expect(spot).toBeLessThan(edge + 7_200)
  })
  test('without any sound it stays at the edge', () => {
    expect(quietSpotNear([], edge)).toBe(edge)
  })
})

test('a take 6 dB softer is raised by 6 dB for comparison, and silence by nothing', () => {
  const placed = (amplitude: number) => ({ peaks: makePeaks([sine({ hz: 220, frames: 96_000, amplitude })]), originFrame: 0 })
  const range = { startFrame: 0, endFrame: 96_000 }
  expect(matchGainDecibels(placed(0.4), placed(0.2), range)).toBeCloseTo(6.02, 1)
  expect(matchGainDecibels(placed(0.4), placed(0), range)).toBe(0)
})

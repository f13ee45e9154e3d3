import { describe, expect, test } from '@jest/globals'
import type { Mono } from '../audio/frames'
import { makePeaks } from '../audio/peaks'
import { makeRandom } from '../audio/random'
import type { Take } from '../song/schema'
import { currentComp, requireLayer } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { pickTake } from './picks'
import { pickAllInto, pickInto, type SoundOfTakes } from './pick-into'
import { describeComp } from './comps'

const song = withTakes(smallSong(), 'Lead', 3)
const lead = layerOf(song, 'Lead')
const [first, second, third] = song.takes.map(take => take.id)

/** Three takes that are loud but for a rest of 0.2 s, of which all three are quiet together 0.15 s after each line's end; the second is 6 dB softer. */
const REST_FRAMES = 7_200
const random = makeRandom(5)
const sounds = new Map<string, Mono>(
  song.takes.map((take, i) => {
    const sound = Float32Array.from({ length: 30 * 48_000 }, () => (i === 1 ? 0.1 : 0.2) * (2 * random() - 1))
    for (let line = 0; line < 6; line++) {
      const rest = lineRange(line).endFrame + REST_FRAMES - take.originFrame
      if (rest > 0 && rest < sound.length) sound.fill(0, rest - 4_800, rest + 4_800)
    }
    return [take.assetId, sound]
  }),
)
const peaks = new Map([...sounds].map(([id, sound]) => [id, makePeaks([sound])]))
const stored: SoundOfTakes = {
  peaksOf: () => Promise.resolve((take: Take) => ({ peaks: peaks.get(take.assetId)!, originFrame: take.originFrame })),
  analysed: () => null,
  read: (id, from, to) => Promise.resolve(Float32Array.from({ length: to - from }, (_, i) => sounds.get(id)![from + i] ?? 0)),
}
const wish = (takeId: typeof first, line: number) => ({ layerId: lead, takeId: takeId!, asked: lineRange(line), makeId })

describe('a pick from whatever room', () => {
  test('has its seams in the rest that all takes share, and the level of what it meets', async () => {
    const { song: picked, made } = await pickAllInto(song, [wish(first, 0), wish(second, 1), wish(third, 2)], stored)
    expect(made).toBe(3)
    const { picks } = currentComp(requireLayer(picked, lead))
    expect(picks.map(pick => pick.takeId)).toEqual([first, second, third])
    for (const [i, pick] of picks.slice(0, 2).entries()) {
      expect(Math.abs(pick.endFrame - (lineRange(i).endFrame + REST_FRAMES))).toBeLessThan(4_800)
      expect(pick.endFrame).toBe(picks[i + 1].startFrame)
    }
    expect(picks[1]).toMatchObject({ levelMatched: true })
    // Half of the way at most, and no more than 6 dB: the softer take is turned up.
    expect(picks[1].gainDecibels).toBeGreaterThan(2)
    expect(picks[1].gainDecibels).toBeLessThanOrEqual(6)
  })

  test('ends where another layer already plays the same take, however their seams fall', () => {
    const double = layerOf(song, 'Double left')
    // The lead plays on for 115 ms into the line that its double is to sing from the same take.
    const led = pickTake(song, { layerId: lead, takeId: first!, startFrame: lineRange(0).startFrame, endFrame: lineRange(0).endFrame + 5_520, makeId })
    const both = pickTake(led, { layerId: double, takeId: first!, ...lineRange(1), makeId })
    expect(currentComp(requireLayer(both, double)).picks).toMatchObject([{ startFrame: lineRange(0).endFrame + 5_520, endFrame: lineRange(1).endFrame }])
    const before = pickTake(led, {
      layerId: double,
      takeId: first!,
      startFrame: lineRange(0).startFrame - 48_000,
      endFrame: lineRange(0).startFrame + 9_000,
      makeId,
    })
    expect(currentComp(requireLayer(before, double)).picks[0].endFrame).toBe(lineRange(0).startFrame)
    const insisted = pickTake(led, { layerId: double, takeId: first!, ...lineRange(1), insist: true, makeId })
    expect(currentComp(requireLayer(insisted, double)).picks[0].startFrame).toBe(lineRange(1).startFrame)
  })

  test('one after the other or all at once, the picks are the same', async () => {
    const wishes = [wish(first, 0), wish(second, 1), wish(third, 2)]
    let one = song
    for (const entry of wishes) one = (await pickInto(one, entry, stored)).song
    const all = (await pickAllInto(song, wishes, stored)).song
    const places = (s: typeof song) =>
      currentComp(requireLayer(s, lead)).picks.map(({ takeId, startFrame, endFrame, gainDecibels, seam }) => ({
        takeId,
        startFrame,
        endFrame,
        gainDecibels,
        seam,
      }))
    expect(places(one)).toEqual(places(all))
  })

  test('that cannot be made leaves the song as it was and says why', async () => {
    const locked = describeComp(song, { layerId: lead, compId: requireLayer(song, lead).currentCompId, locked: true })
    expect(await pickInto(locked, wish(first, 0), stored)).toEqual({ outcome: 'locked', song: locked })
    expect(await pickInto(song, { ...wish(first, 0), asked: { startFrame: 0, endFrame: 9_600 } }, stored)).toEqual({ outcome: 'not-sung-here', song })
    const taken = (await pickInto(song, wish(first, 0), stored)).song
    const double = { ...wish(first, 0), layerId: layerOf(song, 'Double left') }
    expect((await pickInto(taken, double, stored)).outcome).toBe('used-elsewhere')
    expect((await pickInto(taken, { ...double, insist: true }, stored)).outcome).toBe('picked')
  })
})

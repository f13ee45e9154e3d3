import { beforeAll, describe, expect, test } from '@jest/globals'
import { SAMPLE_RATE_HZ, type Mono, type Planar } from '../audio/frames'
import { gaussian, makeRandom } from '../audio/random'
import { median } from '../audio/statistics'
import { clearPicks, pickTake } from '../comp/picks'
import { nudgePick } from '../comp/seams'
import { findCopy, phasesOf } from './copies'
import { cutIntoChunks } from '../mix/chunk-window'
import { setBeatMix } from '../mix/commands'
import { bare } from '../mix/mix.test-kit'
import { planMix } from '../mix/plan'
import { joinPlanes, renderOffline } from '../mix/render-offline'
import { keyOfJob } from '../prints/jobs'
import { makePrint } from '../prints/make-print'
import { planPrints } from '../prints/plan-prints'
import { makeDemoSheet } from '../rehearsal/demo-song'
import { scoreOfSheet } from '../rehearsal/score'
import { NO_FAULTS, sing } from '../rehearsal/sing'
import { SongSchema, type AssetId, type PickId, type Song, type Take } from '../song/schema'
import { currentComp, requireLayer } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { trackPitch } from '../voice/pitch'
import { findPath } from './find-path'
import { findAnchors } from './follow'
import { ledLines, notePaths, offsOf, placesOf, setTogether, unledLines } from './led-paths'

/** One line, sung by two from the same notes: the second 70 ms late as a whole. */
const score = scoreOfSheet(makeDemoSheet(0)).slice(0, 1)
const first = score[0].notes[0].startSeconds
const base = withTakes(smallSong(), 'Lead', 2)
const [lead, double] = [layerOf(base, 'Lead'), layerOf(base, 'Double left')]
const range = lineRange(0)
const frames = range.endFrame - range.startFrame
const LATE_FRAMES = 0.07 * SAMPLE_RATE_HZ
const whole = sing({ score, frames: Math.ceil((first + 6) * SAMPLE_RATE_HZ), seed: 7, take: 1, faults: { ...NO_FAULTS, noiseDbfs: -75 } })
const sung: Mono = whole.slice(Math.round((first - 0.4) * SAMPLE_RATE_HZ)).slice(0, frames)
const random = makeRandom(6)
const late: Mono = Float32Array.from(sung, (_, i) => 0.8 * (sung[i - LATE_FRAMES] ?? 0) + 1e-4 * gaussian(random))
const sounds: Record<string, Planar> = { 'asset-1': [sung], 'asset-2': [late] }
const read = (id: AssetId, from: number, to: number): Promise<Planar> =>
  Promise.resolve([Float32Array.from({ length: to - from }, (_, i) => sounds[id][0][from + i] ?? 0)])

const placed: Song = {
  ...base,
  takes: base.takes.map((take, i): Take => ({
    ...take,
    layerId: i === 0 ? lead : double,
    originFrame: range.startFrame,
    startFrame: range.startFrame - 4_800,
    endFrame: range.endFrame + 4_800,
  })),
}
const takeIds = placed.takes.map(({ id }) => id)
const both = [lead, double].reduce(
  (song, layerId, i) => pickTake(song, { layerId, takeId: takeIds[i], ...range, insist: true, makeId }),
  setBeatMix(bare(placed), { muted: true }),
)
const following = (tightness: number, song = both) => setTogether(song, { layerIds: [double], together: { tightness, apart: [], endsTogether: false } })

async function led(song: Song): Promise<Song> {
  const lines = unledLines(song)
  const found = await Promise.all(lines.map(async line => ({ line, places: await findPath(song, line, read) })))
  return notePaths(song, found)
}

/** What the double alone plays. */
async function play(song: Song): Promise<Mono> {
  const prints = new Map<string, AssetId>()
  const made: Record<string, Planar> = { ...sounds }
  for (const job of planPrints(song)) {
    const assetId = `print-${prints.size}` as AssetId
    made[assetId] = await makePrint(job, { read, pitchOf: id => Promise.resolve(trackPitch(sounds[id][0])) })
    prints.set(keyOfJob(job), assetId)
  }
  const pieces: Planar[] = []
  const store = {
    framesOf: (id: AssetId) => Promise.resolve(made[id][0].length),
    readChunks: (id: AssetId, indices: readonly number[]) => Promise.resolve(indices.map(index => [...cutIntoChunks(made[id])][index])),
  }
  await renderOffline({
    plan: planMix(song, { kind: 'only', beat: false, layerIds: [double] }, prints),
    store,
    sink: planes => void pieces.push(planes),
    range,
  })
  return joinPlanes(pieces)[0]
}
const lagOf = (sound: Mono) => findCopy(phasesOf(sung), phasesOf(sound))?.lagSeconds ?? NaN

let known: Song
beforeAll(async () => {
  known = await led(following(1))
})

describe('a double that follows the lead', () => {
  test('sounds with it: 70 ms late as sung, less than 3 ms as led', async () => {
    // As sung it is too late to be taken for a copy.
    expect(Number.isNaN(lagOf(await play(both)))).toBe(true)
    expect(Math.abs(lagOf(await play(known)))).toBeLessThan(0.003)
  }, 60_000)
  test('goes half of the way at half the tightness, and is as sung at none, to the bit', async () => {
    const half = await led(following(0.5))
    const late = findAnchors(sung, await play(half)).map(({ leadSeconds, otherSeconds }) => otherSeconds - leadSeconds)
    expect(Math.abs(median(late) - 0.035)).toBeLessThan(0.004)
    expect(await play(await led(following(0)))).toEqual(await play(both))
  }, 60_000)
  test('says how far off it is, and that it is late as a whole', () => {
    const [path] = requireLayer(known, double).paths
    const offs = offsOf(path, 0.7)!
    expect(Math.abs(offs.medianMilliseconds - 70)).toBeLessThan(3)
    expect(Math.abs(offs.ledMilliseconds - 21)).toBeLessThan(1.5)
    expect(Math.abs(offs.asAWhole! - 70)).toBeLessThan(3)
  })
  test('never moves the lead', () => {
    expect(currentComp(requireLayer(known, lead))).toEqual(currentComp(requireLayer(both, lead)))
    expect(
      ledLines(setTogether(known, { layerIds: [lead], together: { tightness: 1, apart: [], endsTogether: false } })).every(({ layerId }) => layerId === double),
    ).toBe(true)
  })
})

describe('where it lies is found anew', () => {
  test('when the lead is chosen or placed otherwise, or the double is; until then it is as sung', async () => {
    expect(unledLines(known)).toEqual([])
    for (const layerId of [lead, double]) {
      const moved = nudgePick(known, { layerId, pickId: currentComp(requireLayer(known, layerId)).picks[0].id, nudgeFrames: 960 })
      expect(unledLines(moved)).toHaveLength(1)
      expect(planPrints(moved)).toEqual([])
      expect(unledLines(await led(moved))).toEqual([])
    }
  }, 60_000)
  test('and what nobody asks for any more goes with the next finding', () => {
    const alone = clearPicks(known, { layerId: lead, ...range, makeId })
    expect(ledLines(alone)).toEqual([])
    expect(requireLayer(notePaths(alone, []), double).paths).toEqual([])
  })
  test('not of lines that stay apart, of picks as sung, nor of what was found for another place', () => {
    const apart = setTogether(known, { layerIds: [double], together: { tightness: 1, apart: [ledLines(known)[0].lineId], endsTogether: false } })
    expect([ledLines(apart), planPrints(apart)]).toEqual([[], []])
    const [line] = unledLines(following(1))
    const stale = notePaths(following(1), [{ line: { ...line, basis: 'elsewhere' }, places: [[0, 480]] }])
    expect(requireLayer(stale, double).paths).toEqual([])
  })
})

test('a locked comp goes on as it sounds, however the lead comes to lie', async () => {
  const lock = (song: Song): Song => ({
    ...song,
    layers: song.layers.map(layer => (layer.id === double ? { ...layer, comps: layer.comps.map(comp => ({ ...comp, locked: true })) } : layer)),
  })
  const locked = lock(known)
  const moved = nudgePick(locked, { layerId: lead, pickId: currentComp(requireLayer(locked, lead)).picks[0].id, nudgeFrames: 960 })
  expect(unledLines(moved)).toEqual([])
  expect(requireLayer(notePaths(moved, []), double).paths).toEqual(requireLayer(known, double).paths)
  expect(planPrints(moved).map(keyOfJob)).toEqual(planPrints(known).map(keyOfJob))
})

test('what lies further in the line beside it than a consonant reaches is not moved by it', () => {
  const [line] = unledLines(following(1))
  const next = lineRange(1)
  const anchors = Array.from({ length: 200 }, (_, i) => ({ leadSeconds: i / 20, otherSeconds: i / 20 + 0.05, certainty: 1 }))
  const leads = placesOf(anchors, line).map(([frame, later]) => line.originFrame + frame + later)
  expect(Math.max(...leads)).toBeGreaterThan(range.endFrame - 0.1 * SAMPLE_RATE_HZ)
  expect(Math.max(...leads)).toBeLessThanOrEqual(next.startFrame + 0.1 * SAMPLE_RATE_HZ)
})

test('no line is so long, and no lead so cut up, that the song could not be kept', () => {
  const song = following(1)
  const [line] = unledLines(song)
  const anchors = Array.from({ length: 20_000 }, (_, i) => ({ leadSeconds: i / 4_000, otherSeconds: i / 4_000 + 0.01, certainty: 1 }))
  const long = notePaths(song, [{ line, places: placesOf(anchors, line) }])
  expect(SongSchema.safeParse(long).success).toBe(true)
  expect(requireLayer(long, double).paths[0].places.length).toBeGreaterThan(1_000)
  const cut = currentComp(requireLayer(song, lead)).picks[0]
  const picks = Array.from({ length: 400 }, (_, i) => ({
    ...cut,
    id: `cut-${i}` as PickId,
    startFrame: range.startFrame + i * 480,
    endFrame: range.startFrame + (i + 1) * 480,
  }))
  const pieces: Song = {
    ...song,
    layers: song.layers.map(layer => (layer.id === lead ? { ...layer, comps: layer.comps.map(comp => ({ ...comp, picks })) } : layer)),
  }
  const noted = notePaths(
    pieces,
    unledLines(pieces).map(entry => ({ line: entry, places: [] })),
  )
  expect(SongSchema.safeParse(noted).success).toBe(true)
  expect(unledLines(noted)).toEqual([])
})

test('a locked comp is not led otherwise', () => {
  const locked: Song = {
    ...both,
    layers: both.layers.map(layer => (layer.id === double ? { ...layer, comps: layer.comps.map(comp => ({ ...comp, locked: true })) } : layer)),
  }
  expect(() => following(1, locked)).toThrow(/locked/)
  expect(() => setTogether(both, { layerIds: [double], together: { tightness: 7, apart: [], endsTogether: false } })).not.toThrow()
  expect(requireLayer(setTogether(both, { layerIds: [double], together: { tightness: 7, apart: [], endsTogether: false } }), double).together!.tightness).toBe(
    1,
  )
})

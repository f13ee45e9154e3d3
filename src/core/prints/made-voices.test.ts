import { beforeAll, describe, expect, test } from '@jest/globals'
import { SAMPLE_RATE_HZ, type Mono, type Planar } from '../audio/frames'
import { pickTake } from '../comp/picks'
import { heardOf } from '../edits/heard-of'
import { cutIntoChunks } from '../mix/chunk-window'
import { heardSong } from '../mix/heard'
import { setBeatMix } from '../mix/commands'
import { bare } from '../mix/mix.test-kit'
import { isSameShape, levelsOf } from '../mix/levels'
import { planMix } from '../mix/plan'
import { joinPlanes, renderOffline } from '../mix/render-offline'
import { holdPartNote, setMade, setPart, setPartNote } from '../parts/commands'
import { makeDemoSheet } from '../rehearsal/demo-song'
import { scoreOfSheet } from '../rehearsal/score'
import { NO_FAULTS, sing } from '../rehearsal/sing'
import { openSong } from '../song/open'
import type { AssetId, Song, Take } from '../song/schema'
import { currentComp, requireLayer, type FrameRange } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { noteHeard } from '../song/takes'
import { analyseVoice, type VoiceAnalysis } from '../voice/analyse-voice'
import { centsOf } from '../voice/notes'
import { trackPitch } from '../voice/pitch'
import { keyOfJob } from './jobs'
import { madePhrases } from './made-voices'
import { makePrint } from './make-print'
import { planPrints } from './plan-prints'

const score = scoreOfSheet(makeDemoSheet(0)).slice(0, 1)
const first = score[0].notes[0].startSeconds - 0.4
const range = lineRange(0)
const frames = range.endFrame - range.startFrame
const whole = sing({ score, frames: Math.ceil((first + 5) * SAMPLE_RATE_HZ), seed: 7, take: 1, faults: { ...NO_FAULTS, noiseDbfs: -80 } })
const sung: Mono = whole.slice(Math.round(first * SAMPLE_RATE_HZ)).slice(0, frames)
const base = withTakes(smallSong(), 'Lead', 2)
const [lead, high] = [layerOf(base, 'Lead'), layerOf(base, 'High 1')]
const takes = base.takes.map((take): Take => ({ ...take, originFrame: range.startFrame, ...range }))
const picked = pickTake(setBeatMix(bare({ ...base, takes }), { muted: true }), { layerId: lead, takeId: takes[0].id, ...range, makeId })
/** A third above the line, as it is written. */
const part = score[0].notes
  .map(({ startSeconds, endSeconds, midi }) => ({
    startFrame: range.startFrame + Math.round((startSeconds - first) * SAMPLE_RATE_HZ),
    endFrame: range.startFrame + Math.round((endSeconds - first) * SAMPLE_RATE_HZ),
    midi: midi + 4,
  }))
  .filter(({ endFrame }) => endFrame <= range.endFrame)
const sounds: Record<string, Planar> = { 'asset-1': [sung], 'asset-2': [sung] }

let analysis: VoiceAnalysis
let song: Song
beforeAll(() => {
  analysis = analyseVoice(sung)
  const heard = noteHeard(picked, { heard: new Map([[takes[0].id, heardOf(analysis, takes[0])]]) })
  song = setMade(setPart(heard, { layerId: high, range, notes: part }), { layerId: high, made: { sound: 'lead', throatSemitones: 0, seed: 3 } })
})

async function play(now: Song): Promise<Mono> {
  const prints = new Map<string, AssetId>()
  const made: Record<string, Planar> = { ...sounds }
  for (const job of planPrints(now)) {
    const assetId = `print-${prints.size}` as AssetId
    made[assetId] = await makePrint(job, {
      read: (id, from, to) => Promise.resolve([Float32Array.from({ length: to - from }, (_, i) => sounds[id][0][from + i] ?? 0)]),
      pitchOf: () => Promise.resolve(analysis),
    })
    prints.set(keyOfJob(job), assetId)
  }
  const pieces: Planar[] = []
  const store = {
    framesOf: (id: AssetId) => Promise.resolve(made[id][0].length),
    readChunks: (id: AssetId, indices: readonly number[]) => Promise.resolve(indices.map(index => [...cutIntoChunks(made[id])][index])),
  }
  await renderOffline({ plan: planMix(now, { kind: 'only', beat: false, layerIds: [high] }, prints), store, sink: planes => void pieces.push(planes), range })
  return joinPlanes(pieces)[0]
}
const offs = (sound: Mono, notes = part) => {
  const { f0Hz, hopSeconds } = trackPitch(sound)
  const hop = (frame: number) => Math.round((frame - range.startFrame) / SAMPLE_RATE_HZ / hopSeconds)
  return notes.flatMap(({ startFrame, endFrame, midi }) => {
    const held = [...f0Hz.subarray(hop(startFrame + 4_800), hop(endFrame - 2_400))].filter(hz => hz > 0).map(centsOf)
    return held.length > 8 ? [Math.abs(held.sort((a, b) => a - b)[held.length >> 1] - 100 * midi)] : []
  })
}

describe('a made layer', () => {
  test('sings its part, sung by nobody, and is silent without the lead', async () => {
    const found = offs(await play(song))
    expect(found.length).toBeGreaterThan(3)
    for (const cents of found) expect(cents).toBeLessThan(12)
    const alone = {
      ...song,
      layers: song.layers.map(layer => (layer.id === lead ? { ...layer, comps: layer.comps.map(comp => ({ ...comp, picks: [] })) } : layer)),
    }
    expect((await play(alone)).every(sample => sample === 0)).toBe(true)
  }, 60_000)
  test('is made again when a note of its part or the lead is otherwise, and is the same object while neither is', () => {
    const [one] = planPrints(song)
    expect(madePhrases(song, requireLayer(song, high))).toBe(madePhrases(song, requireLayer(song, high)))
    const other = setPartNote(song, { layerId: high, startFrame: part[1].startFrame, midi: part[1].midi + 1 })
    expect(keyOfJob(planPrints(other)[0])).not.toBe(keyOfJob(one))
    const moved = { ...song, takes: song.takes.map((take, i) => (i === 0 ? { ...take, originFrame: take.originFrame + 480 } : take)) }
    expect(keyOfJob(planPrints(moved)[0])).not.toBe(keyOfJob(one))
    const louder = { ...song, layers: song.layers.map(layer => (layer.id === high ? { ...layer, gainDecibels: -6 } : layer)) }
    expect(planPrints(louder).map(keyOfJob)).toEqual([keyOfJob(one)])
  })
  test('gives way to a take, line by line', () => {
    const replaced = pickTake(song, { layerId: high, takeId: takes[1].id, ...range, insist: true, makeId })
    expect(madePhrases(replaced, requireLayer(replaced, high))).toEqual([])
    expect(currentComp(requireLayer(replaced, high)).picks).toHaveLength(1)
  })
  test('that is none any more leaves its part, as a guide', () => {
    const guide = setMade(song, { layerId: high, made: null })
    expect(planPrints(guide)).toEqual([])
    expect(requireLayer(guide, high).part).toEqual(part)
  })
})

describe('a part that nobody sings, in the Booth', () => {
  const guideOf = (
    now: Song,
    { layerId = high, guide = 'voice' as 'voice' | 'tone' | 'off', hear = 'beat' as const, recorded = range as FrameRange | null } = {},
  ) => {
    const heard = heardSong(now, { kind: 'booth', layerId, hear, guide, recorded, decibels: { beat: 0, comp: -60, others: 0, guide: -9 } }).song
    return { heard, guides: heard.layers.filter(layer => !now.layers.some(own => own.id === layer.id)) }
  }
  const notMade = () => setMade(song, { layerId: high, made: null })

  test('is heard over the beat alone, as loud as the singer likes it, from the lead’s voice or as a tone; and its first note a beat before', () => {
    const { heard, guides } = guideOf(notMade())
    expect(guides.map(layer => [layer.made?.sound, layer.gainDecibels, layer.muted])).toEqual([
      ['lead', -9, false],
      ['tone', -9, false],
    ])
    const [voice, entry] = guides.map(layer => madePhrases(heard, layer))
    expect(voice.length).toBeGreaterThan(0)
    expect(entry[0].job).toMatchObject({ kind: 'tone', notes: [{ midi: part[0].midi }] })
    // 120 bpm: a beat is 24 000 frames.
    expect(part[0].startFrame - entry[0].startFrame).toBe(24_000)
    const tones = guideOf(notMade(), { guide: 'tone' })
    expect(madePhrases(tones.heard, tones.guides[0]).flatMap(({ job }) => (job.kind === 'tone' ? job.notes.map(({ midi }) => midi) : []))).toEqual(
      part.map(({ midi }) => midi),
    )
  })

  test('is silent where it is switched off, where another layer is recorded, where a take plays and is not sung anew, and in the song', () => {
    expect(guideOf(notMade(), { guide: 'off' }).guides).toEqual([])
    expect(guideOf(notMade(), { layerId: lead }).guides).toEqual([])
    const taken = pickTake(notMade(), { layerId: high, takeId: takes[1].id, ...range, insist: true, makeId })
    expect(guideOf(taken, { recorded: null }).guides).toEqual([])
    expect(guideOf(taken).guides).toHaveLength(2)
    expect(planPrints(notMade())).toEqual([])
    // Where a made voice sings it already, that is the guide.
    expect(guideOf(song).guides).toHaveLength(1)
  })

  test('a level that is moved while it is sung is all that changes: no sound is sent anew', () => {
    const now = pickTake(notMade(), { layerId: lead, takeId: takes[0].id, ...range, insist: true, makeId })
    const plan = (decibels: number, recorded: FrameRange | null = range) =>
      planMix(now, { kind: 'booth', layerId: high, hear: 'stack', guide: 'tone', recorded, decibels: { beat: 0, comp: 0, others: 0, guide: decibels } })
    expect(isSameShape(plan(-3), plan(-9))).toBe(true)
    expect(levelsOf(plan(-3))).not.toEqual(levelsOf(plan(-9)))
    const taken = pickTake(now, { layerId: high, takeId: takes[1].id, ...range, insist: true, makeId })
    const over = (decibels: number) =>
      planMix(taken, {
        kind: 'booth',
        layerId: high,
        hear: 'stack',
        guide: 'tone',
        recorded: { ...range, endFrame: range.endFrame - 9_600 },
        decibels: { beat: 0, comp: decibels, others: 0, guide: 0 },
      })
    expect(isSameShape(over(0), over(-6))).toBe(true)
  })

  test('as a tone it needs no lead, and sounds at its pitches', async () => {
    const alone = {
      ...notMade(),
      layers: notMade().layers.map(layer => (layer.id === lead ? { ...layer, muted: true, comps: layer.comps.map(comp => ({ ...comp, picks: [] })) } : layer)),
    }
    const tone = setMade(alone, { layerId: high, made: { sound: 'tone', throatSemitones: 0, seed: 0 } })
    const off = offs(await play(tone))
    expect(off.length).toBeGreaterThan(4)
    expect(Math.max(...off)).toBeLessThan(5)
  })
})

describe('a part in the song', () => {
  test('is kept with it, and read again', () => {
    const opened = openSong(JSON.parse(JSON.stringify(song)))
    expect(opened).toMatchObject({ kind: 'current', mends: [] })
    if (opened.kind === 'current') expect(requireLayer(opened.song, high)).toEqual(requireLayer(song, high))
  })
  test('a note is held longer up to the next one, and shorter down to a touch', () => {
    const endOf = (endFrame: number) => requireLayer(holdPartNote(song, { layerId: high, startFrame: part[1].startFrame, endFrame }), high).part[1].endFrame
    expect(endOf(part[1].startFrame + 6_000)).toBe(part[1].startFrame + 6_000)
    expect(endOf(1e9)).toBe(part[2].startFrame)
    expect(endOf(0)).toBe(part[1].startFrame + 1_920)
    expect(holdPartNote(song, { layerId: high, startFrame: 1, endFrame: 5 })).toBe(song)
  })
  test('is written anew in a stretch only, cut where it reaches out of it, and a note of it can be left out', () => {
    const cut = setPart(song, { layerId: high, range: { startFrame: part[1].startFrame, endFrame: part[2].endFrame - 100 }, notes: [{ ...part[1], midi: 90 }] })
    const notes = requireLayer(cut, high).part
    expect(notes.slice(0, 2)).toEqual([part[0], { ...part[1], midi: 90 }])
    expect(notes[2]).toEqual({ ...part[2], startFrame: part[2].endFrame - 100 })
    expect(requireLayer(setPartNote(song, { layerId: high, startFrame: part[0].startFrame, midi: null }), high).part).toEqual(part.slice(1))
    expect(setPartNote(song, { layerId: high, startFrame: 5, midi: 60 })).toBe(song)
  })
})

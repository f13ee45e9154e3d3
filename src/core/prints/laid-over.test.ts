import { beforeAll, describe, expect, test } from '@jest/globals'
import { SAMPLE_RATE_HZ, type Mono, type Planar } from '../audio/frames'
import { gaussian, makeRandom } from '../audio/random'
import { ledLines, notePaths, setTogether } from '../align/led-paths'
import { pickTake } from '../comp/picks'
import { addBounce, editsPlayed, isBounceStale } from '../comp/bounces'
import { setAsSung, setNoteEdit } from '../edits/commands'
import { heardOf } from '../edits/heard-of'
import { checkPolicy, setMend, setTidy, setTune } from '../edits/policies'
import { USUAL_TIDY } from '../edits/tidy'
import { bare } from '../mix/mix.test-kit'
import { setBeatMix } from '../mix/commands'
import { heardSong, type LaidThing } from '../mix/heard'
import { planMix } from '../mix/plan'
import { cutIntoChunks } from '../mix/chunk-window'
import { joinPlanes, renderOffline } from '../mix/render-offline'
import { setKey } from '../song/beat-facts'
import type { EditId } from '../song/edit-schema'
import { openSong } from '../song/open'
import type { AssetId, Song, Take, TakeId } from '../song/schema'
import { currentComp, requireLayer, requireTake } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { noteHeard } from '../song/takes'
import { layerTune, TUNE_STEPS } from '../tune/tune-settings'
import { analyseVoice, joinAnalyses } from '../voice/analyse-voice'
import { centsOf } from '../voice/notes'
import { trackPitch } from '../voice/pitch'
import { buzz } from '../voice/voice.test-kit'
import { keyOfJob } from './jobs'
import { mendsIn as showMends, notesIn } from './laid-in'
import { allMendsOf, laidOver, mendsOf } from './laid-over'
import { makePrint } from './make-print'
import { planPrints } from './plan-prints'
import { highPass, StereoBiquad } from '../effects/biquad'

/** Sung from 0.5 s to 3.5 s a third of a semitone above C4, a breath before it, a click in it. */
const random = makeRandom(12)
const voice = buzz(() => 261.63 * 2 ** (34 / 1_200)).sound.map(sample => 0.08 * sample + 0.0003 * gaussian(random))
const breath = Float32Array.from({ length: 14_400 }, () => 0.006 * gaussian(random))
for (let pass = 0; pass < 2; pass++) new StereoBiquad(highPass(900)).process(breath, new Float32Array(breath.length))
breath.forEach((sample, i) => (voice[4_800 + i] += sample * Math.min(1, i / 3_000, (14_400 - i) / 3_000)))
voice[96_000] += 0.4

const base = withTakes(smallSong(), 'Lead', 1)
const lead = layerOf(base, 'Lead')
const double = layerOf(base, 'Double left')
const { startFrame } = lineRange(0)
const placed: Song = {
  ...base,
  takes: base.takes.map(take => ({ ...take, originFrame: startFrame, startFrame, endFrame: startFrame + voice.length })),
}
const takeId = placed.takes[0].id
const keyed = setKey(placed, { key: { tonic: 'C', mode: 'major' }, colour: null })
const picked = setBeatMix(bare(pickTake(keyed, { layerId: lead, takeId, ...lineRange(0), makeId })), { muted: true })
let heard: Song
beforeAll(() => {
  heard = noteHeard(picked, { heard: new Map([[takeId, heardOf(analyseVoice(voice), picked.takes[0])]]) })
})
const tidied = () => setTidy(heard, { layerIds: [lead], tidy: USUAL_TIDY.lead })
const tuned = (step: keyof typeof TUNE_STEPS = 'firmly') => setTune(heard, { layerIds: [lead], tune: layerTune(TUNE_STEPS[step]) })
const takeOf = (song: Song) => requireTake(song, takeId)
const mendsIn = (song: Song) => mendsOf(song, requireLayer(song, lead), takeOf(song))

/** What the song plays from the line's start, with all its prints. */
async function play(song: Song): Promise<Mono> {
  const sounds: Record<string, Planar> = { 'asset-1': [voice] }
  const prints = new Map<string, AssetId>()
  for (const job of planPrints(song)) {
    const assetId = `print-${prints.size}` as AssetId
    sounds[assetId] = await makePrint(job, {
      read: (id, from, to) => Promise.resolve(sounds[id].map(plane => Float32Array.from({ length: to - from }, (_, i) => plane[from + i] ?? 0))),
      pitchOf: id => Promise.resolve(trackPitch(sounds[id][0])),
    })
    prints.set(keyOfJob(job), assetId)
  }
  const pieces: Planar[] = []
  const store = {
    framesOf: (id: AssetId) => Promise.resolve(sounds[id][0].length),
    readChunks: (id: AssetId, indices: readonly number[]) => Promise.resolve(indices.map(index => [...cutIntoChunks(sounds[id])][index])),
  }
  await renderOffline({ plan: planMix(song, { kind: 'song' }, prints), store, sink: planes => void pieces.push(planes), range: lineRange(0) })
  return joinPlanes(pieces)[0]
}
const decibelsIn = (sound: Mono, from: number, to: number) =>
  10 * Math.log10(sound.subarray(from, to).reduce((sum, sample) => sum + sample * sample, 0) / (to - from) + 1e-14)
const centsIn = (sound: Mono) => centsOf(trackPitch(sound).f0Hz[Math.round(2 / 0.005)])

describe('a tidied layer', () => {
  test('plays its breath lower by what is asked, its rests silent, its click mended, its vowel to the bit', async () => {
    const [before, after] = [await play(heard), await play(tidied())]
    expect(decibelsIn(after, 9_000, 15_000) - decibelsIn(before, 9_000, 15_000)).toBeCloseTo(-8, 0)
    expect(decibelsIn(after, 180_000, 186_000)).toBeLessThan(-110)
    expect(Math.abs(before[96_000] - before[95_990])).toBeGreaterThan(0.1)
    expect(Math.abs(after[96_000])).toBeLessThan(0.5 * Math.abs(before[96_000]))
    expect(after.subarray(40_000, 90_000)).toEqual(before.subarray(40_000, 90_000))
  }, 60_000)
  test('keeps a mend that is taken off as it was, one with an amount of its own so, and gives both back', () => {
    const song = tidied()
    const breathAt = mendsIn(song).find(({ kind }) => kind === 'breath')!.startFrame
    const off = setMend(song, { takeId, kind: 'breath', startFrame: breathAt, decibels: null })
    expect(mendsIn(off).some(({ kind }) => kind === 'breath')).toBe(false)
    expect(allMendsOf(off, requireLayer(off, lead), takeOf(off)).find(({ mend }) => mend.kind === 'breath')).toMatchObject({ isOff: true })
    const softer = setMend(off, { takeId, kind: 'breath', startFrame: breathAt, decibels: -20 })
    expect(mendsIn(softer).find(({ kind }) => kind === 'breath')!.decibels).toBe(-20)
    expect(mendsIn(setMend(softer, { takeId, kind: 'breath', startFrame: breathAt, decibels: undefined }))).toEqual(mendsIn(song))
  })
  test('lays nothing over a pick that is as sung, nor before the take was listened to', async () => {
    const song = tidied()
    const asSung = setAsSung(song, { layerId: lead, pickId: currentComp(requireLayer(song, lead)).picks[0].id, asSung: true })
    expect(planPrints(asSung)).toEqual([])
    expect(await play(asSung)).toEqual(await play(heard))
    expect(laidOver(picked, { ...requireLayer(picked, lead), tidy: USUAL_TIDY.lead, tune: layerTune(TUNE_STEPS.hard) }, takeOf(picked))).toEqual(
      laidOver(picked, { ...requireLayer(picked, lead), tidy: null, tune: null }, takeOf(picked)),
    )
  }, 60_000)
  test('has its own way with a take that another layer plays too', () => {
    const both = setTidy(pickTake(tidied(), { layerId: double, takeId, ...lineRange(0), insist: true, makeId }), {
      layerIds: [double],
      tidy: USUAL_TIDY.double,
    })
    const amounts = [lead, double].map(id => mendsOf(both, requireLayer(both, id), takeOf(both)).find(({ kind }) => kind === 'breath')!.decibels)
    expect(amounts).toEqual([-8, -60])
  })
  test('ends with the lead, wherever the lead comes to end', async () => {
    // The double plays the same sound 0.3 s later: its phrase sticks out by so much.
    const late = 14_400
    const twin: Take = { ...takeOf(heard), id: 'twin' as TakeId, layerId: double, originFrame: startFrame + late, startFrame: startFrame + late }
    const both = (leadLater: number): Song => {
      const takes = [{ ...takeOf(heard), originFrame: startFrame + leadLater }, twin]
      const song = pickTake({ ...heard, takes }, { layerId: double, takeId: twin.id, ...lineRange(0), insist: true, makeId })
      return setTidy(song, { layerIds: [double], tidy: { ...USUAL_TIDY.spare, endsWithLead: true } })
    }
    const endsIn = (song: Song) => mendsOf(song, requireLayer(song, double), requireTake(song, twin.id)).filter(({ kind }) => kind === 'end')
    const phraseEnd = takeOf(heard).heard!.phrases.at(-1)![1]
    const [end] = endsIn(both(0))
    // Its own clock: the lead's end lies 0.3 s before its own.
    expect(Math.abs(end.startFrame - (phraseEnd - late))).toBeLessThan(0.05 * SAMPLE_RATE_HZ)
    expect(endsIn(both(late))).toEqual([])
    // Brought to the lead's timing it ends with it by itself.
    const places: [number, number][] = [0.5, 1, 2, 3, 3.4].map(seconds => [Math.round(seconds * SAMPLE_RATE_HZ), -late])
    const following = setTogether(both(0), { layerIds: [double], together: { tightness: 1, apart: [], endsTogether: false } })
    const [line] = ledLines(following)
    expect(endsIn(notePaths(following, [{ line, places }]))).toEqual([])
    const alone = (song: Song) => play({ ...song, layers: song.layers.map(layer => (layer.id === lead ? { ...layer, muted: true } : layer)) })
    const [asSung, together] = [await alone(setTidy(both(0), { layerIds: [double], tidy: null })), await alone(both(0))]
    const [from, to] = [phraseEnd + 4_800, phraseEnd + late - 2_400]
    expect(decibelsIn(together, from, to) - decibelsIn(asSung, from, to)).toBeLessThan(-40)
    expect(together.subarray(0, phraseEnd - 4_800)).toEqual(asSung.subarray(0, phraseEnd - 4_800))
  }, 60_000)
  test('has the room’s tone where a noise was, as loud as the room is', async () => {
    const { heard: found } = takeOf(heard)
    const noisy: Song = {
      ...heard,
      takes: heard.takes.map(take => ({ ...take, heard: { ...found!, noises: [[7_000, 16_000] as [number, number]], breaths: [] } })),
    }
    const filled = await play(setTidy(noisy, { layerIds: [lead], tidy: { ...USUAL_TIDY.spare, fillsNoises: true } }))
    const before = await play(heard)
    // The breath is taken for a noise here: what is left is the room, which lies at the end of the take.
    expect(decibelsIn(before, 9_000, 14_000)).toBeGreaterThan(decibelsIn(before, 180_000, 186_000) + 10)
    expect(Math.abs(decibelsIn(filled, 9_000, 14_000) - decibelsIn(before, 180_000, 186_000))).toBeLessThan(2)
    expect(filled.subarray(30_000, 90_000)).toEqual(before.subarray(30_000, 90_000))
  }, 60_000)
  test('finds its mends again when the take is chosen anew, or lies elsewhere', () => {
    const song = tidied()
    const later = { ...song, takes: song.takes.map(take => ({ ...take, originFrame: take.originFrame + 480, startFrame: take.startFrame + 480 })) }
    expect(mendsIn(later)).toEqual(mendsIn(song))
  })
})

describe('a layer heard without one thing that is laid over it', () => {
  const without = (song: Song, laid: LaidThing) => heardSong(song, { kind: 'without', layerId: lead, gainDecibels: 1.5, laid }).song
  test('has all its other mends, and is as loud as it is told', () => {
    const song = tidied()
    const mend = mendsIn(song).find(({ kind }) => kind === 'breath')!
    const bare = without(song, { kind: 'mend', takeId, mend })
    expect(mendsIn(bare)).toEqual(mendsIn(song).filter(({ kind }) => kind !== 'breath'))
    expect(requireLayer(bare, lead).gainDecibels - requireLayer(song, lead).gainDecibels).toBeCloseTo(1.5)
    expect(mendsIn(without(setMend(song, { takeId, kind: 'breath', startFrame: mend.startFrame, decibels: -20 }), { kind: 'mend', takeId, mend }))).toEqual(
      mendsIn(bare),
    )
  })
  test('has all its other edits', () => {
    const note = { id: 'n' as EditId, startFrame: 23_000, endFrame: 60_000, shiftCents: 50, rungCents: null }
    const two = setNoteEdit(setNoteEdit(heard, { takeId, edit: note }), { takeId, edit: { ...note, id: 'm' as EditId, startFrame: 70_000, endFrame: 90_000 } })
    expect(takeOf(without(two, { kind: 'edits', takeIds: [takeId], editIds: ['n' as EditId] })).edits.notes.map(({ id }) => id)).toEqual(['m'])
    const asSung = takeOf(without(two, { kind: 'note', takeId, note: { startFrame: 24_000, endFrame: 50_000 } })).edits.notes
    expect(asSung.map(({ startFrame, shiftCents, rungCents }) => [startFrame, shiftCents, rungCents])).toEqual([
      [24_000, 0, null],
      [70_000, 50, null],
    ])
    expect(takeOf(without(two, { kind: 'edits', takeIds: ['other' as TakeId], editIds: ['n' as EditId] })).edits).toEqual(takeOf(two).edits)
  })
})

describe('a tuned layer', () => {
  test('plays the rung of the key, or the one that the singer chose, or what was sung', async () => {
    expect(centsIn(await play(heard))).toBeCloseTo(6_034, -1)
    expect(Math.abs(centsIn(await play(tuned())) - 6_000)).toBeLessThan(3)
    const note = { id: 'n' as EditId, startFrame: 23_000, endFrame: 169_000, shiftCents: 0 }
    const up = setNoteEdit(tuned(), { takeId, edit: { ...note, rungCents: 6_200 } })
    expect(Math.abs(centsIn(await play(up)) - 6_200)).toBeLessThan(3)
    const left = setNoteEdit(tuned(), { takeId, edit: { ...note, rungCents: null } })
    expect(await play(left)).toEqual(await play(heard))
    const oneWithout = heardSong(up, { kind: 'without', layerId: lead, gainDecibels: 0, laid: { kind: 'note', takeId, note } }).song
    expect(await play(oneWithout)).toEqual(await play(heard))
  }, 120_000)
  test('follows the key of the beat, and waits for one', () => {
    const inB = setKey(tuned(), { key: { tonic: 'B', mode: 'major' }, colour: null })
    const target = (song: Song) => laidOver(song, requireLayer(song, lead), takeOf(song)).tuning?.notes[0].targetCents
    expect(target(tuned())).toBe(6_000)
    expect(target(inB)).toBe(6_100)
    expect(planPrints({ ...tuned(), beat: { ...tuned().beat, key: null } })).toEqual([])
  })
  test('is not printed where a note is nearer than the tolerance', () => {
    expect(planPrints(tuned())).toHaveLength(1)
    expect(planPrints(setTune(tuned(), { layerIds: [lead], tune: layerTune({ ...TUNE_STEPS.firmly, toleranceCents: 50 }) }))).toEqual([])
  })
})

describe('what a room shows of a line', () => {
  const line = lineRange(0)
  const shown = (song: Song) => notesIn(song, requireLayer(song, lead), line, () => null)[0]
  const note = { id: 'n' as EditId, startFrame: 23_000, endFrame: 169_000, shiftCents: 0, rungCents: null }
  test('is each note where it was sung, where it sounds, and why it is left', () => {
    expect(notesIn(picked, requireLayer(picked, lead), line, () => null)).toEqual([])
    expect(shown(heard)).toMatchObject({ rungCents: 6_000, left: 'not-tuned' })
    expect(Math.abs(shown(heard).drawnToCents - 6_034)).toBeLessThan(2)
    expect(shown(heard).startFrame).toBeGreaterThan(line.startFrame + 22_000)
    expect(shown(tuned())).toMatchObject({ drawnToCents: 6_000, left: null })
    expect(shown(setTune(heard, { layerIds: [lead], tune: layerTune({ ...TUNE_STEPS.firmly, toleranceCents: 50 }) }))).toMatchObject({ left: 'near' })
    expect(shown(setNoteEdit(tuned(), { takeId, edit: note }))).toMatchObject({ left: 'as-sung' })
    // An octave, and no further.
    expect(Math.abs(shown(setNoteEdit(tuned(), { takeId, edit: { ...note, rungCents: 12_000 } })).drawnToCents - 7_234)).toBeLessThan(2)
    expect(shown(setNoteEdit(tuned(), { takeId, edit: { ...note, rungCents: 6_200 } }))).toMatchObject({ drawnToCents: 6_200, rungCents: 6_000, left: null })
    const byHand = shown(setNoteEdit(heard, { takeId, edit: { ...note, shiftCents: 100, rungCents: 6_200 } }))
    expect(byHand.left).toBe('by-hand')
    expect(byHand.drawnToCents - byHand.note.cents).toBe(100)
  })
  test('is each mend in its place, those taken off too; none of a pick that is as sung', () => {
    const song = tidied()
    const all = mendsInLine(song)
    expect(all.map(({ mend }) => mend.kind)).toEqual(['breath', 'click', 'rest'])
    expect(all[1].startFrame - line.startFrame).toBe(all[1].mend.startFrame)
    const off = setMend(song, { takeId, kind: 'click', startFrame: all[1].mend.startFrame, decibels: null })
    expect(mendsInLine(off).map(({ isOff }) => isOff)).toEqual([false, true, false])
    expect(mendsInLine(setAsSung(song, { layerId: lead, pickId: currentComp(requireLayer(song, lead)).picks[0].id, asSung: true }))).toEqual([])
  })
  const mendsInLine = (song: Song) => showMends(song, requireLayer(song, lead), line)
})

test('a locked comp sounds as it does: its layer is neither tidied nor tuned otherwise', () => {
  const locked = { ...heard, layers: heard.layers.map(layer => ({ ...layer, comps: layer.comps.map(comp => ({ ...comp, locked: layer.id === lead })) })) }
  expect(checkPolicy(locked, [double])).toEqual({ ok: true })
  expect(checkPolicy(locked, [double, lead])).toMatchObject({ ok: false, compNames: ['Comp 1 of Lead'] })
  expect(() => setTidy(locked, { layerIds: [lead], tidy: USUAL_TIDY.lead })).toThrow(/locked/)
  expect(() => setTune(locked, { layerIds: [lead], tune: null })).toThrow(/locked/)
})

test('a bounce has in it what lay over its layer: it is not tidied twice, and says when the layer has changed', () => {
  const song = tidied()
  const { tidy, tune, ...layer } = requireLayer(song, lead)
  const { picks } = currentComp({ ...layer, tidy, tune })
  const place = {
    layerId: lead,
    replaces: null,
    takeId: 'bounce' as TakeId,
    assetId: 'asset-b' as AssetId,
    extent: lineRange(0),
    bouncedAt: '2026-01-01T20:00:00.000Z',
  }
  const bounced = addBounce(song, { ...place, picks, edits: editsPlayed(song, picks), tidy, tune })
  const bounce = { ...requireTake(bounced, 'bounce' as TakeId), heard: takeOf(song).heard }
  expect(mendsOf(bounced, { ...requireLayer(bounced, lead), tidy }, bounce)).toEqual([])
  expect(isBounceStale(bounced, bounce)).toBe(false)
  expect(isBounceStale(setTidy(bounced, { layerIds: [lead], tidy: null }), bounce)).toBe(true)
})

test('of a pass of a loop only what lies in it, or near it, is kept', () => {
  const analysis = analyseVoice(voice)
  const loop = joinAnalyses([analysis, analysis, analysis, analysis], 4)
  const passAt = (seconds: number) => ({ originFrame: 0, startFrame: seconds * SAMPLE_RATE_HZ, endFrame: (seconds + 4) * SAMPLE_RATE_HZ })
  expect(heardOf(loop, { originFrame: 0, startFrame: 0, endFrame: 16 * SAMPLE_RATE_HZ }).breaths).toHaveLength(4)
  // Two seconds beside it hold the breath of the next pass, and of none further away.
  expect(heardOf(loop, passAt(0)).breaths).toHaveLength(2)
  const [breath] = heardOf(loop, passAt(8)).breaths
  expect(Math.abs(breath[0] / SAMPLE_RATE_HZ - 8.1)).toBeLessThan(0.1)
})

test('what was found is kept with the song, through a file, and another reading never changes it', () => {
  const song = tidied()
  expect(openSong(JSON.parse(JSON.stringify(song)))).toEqual({ kind: 'current', song, mends: [] })
  expect(noteHeard(song, { heard: new Map([[takeId, { ...takeOf(song).heard!, breaths: [] }]]) })).toEqual(song)
  expect(heardOf(analyseVoice(new Float32Array(SAMPLE_RATE_HZ)), takeOf(song))).toMatchObject({ phrases: [], notes: [] })
})

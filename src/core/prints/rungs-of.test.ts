import { describe, expect, test } from '@jest/globals'
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { pickTake } from '../comp/picks'
import { setNoteEdit } from '../edits/commands'
import { unheardTakes } from '../edits/heard-of'
import { setTune, setTuneOfLine } from '../edits/policies'
import { setPart } from '../parts/commands'
import { setChord, setKey } from '../song/beat-facts'
import type { EditId } from '../song/edit-schema'
import { SongSchema, type LayerId, type LineId, type Song } from '../song/schema'
import { placedLines, requireLayer, requireTake } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { noteHeard } from '../song/takes'
import type { Heard, TuneTo } from '../song/tidy-schema'
import { chordRung, guideRung } from '../tune/targets'
import { layerTune, TUNE_STEPS } from '../tune/tune-settings'
import { agreedNotes, agreementOn } from './agreed-notes'
import { notesIn } from './laid-in'
import { planPrints } from './plan-prints'
import { rungsAt, rungsOf } from './rungs-of'

/** A take in which four notes of a second each are sung from the first line's start on, at these cents. */
const heardSinging = (cents: readonly number[], startSeconds = 1): Heard => ({
  frames: 10 * SAMPLE_RATE_HZ,
  phrases: [[SAMPLE_RATE_HZ, 9 * SAMPLE_RATE_HZ]],
  breaths: [],
  esses: [],
  pops: [],
  clicks: [],
  noises: [],
  finals: [],
  clipped: [],
  notes: cents.map((pitch, i) => {
    const [from, to] = [startSeconds + i, startSeconds + i + 0.9].map(seconds => Math.round(seconds * SAMPLE_RATE_HZ))
    return [from, to, from, to, pitch, 0, 0]
  }),
})
const line = lineRange(0)
const two = withTakes(withTakes(smallSong(), 'Lead', 1), 'Double left', 1)
const [lead, double] = ['Lead', 'Double left'].map(name => layerOf(two, name))
const placed: Song = {
  ...two,
  takes: two.takes.map(take => ({ ...take, originFrame: line.startFrame - SAMPLE_RATE_HZ, startFrame: line.startFrame, endFrame: line.endFrame })),
}
const pick = (song: Song, layerId: LayerId, i: number) => pickTake(song, { layerId, takeId: song.takes[i].id, ...line, makeId })
const keyed = setKey(pick(pick(placed, lead, 0), double, 1), { key: { tonic: 'C', mode: 'major' }, colour: null })
/** The lead sings C D E G; the double is by a tone and more beside it in the second note, and a third above in the last. */
const song = noteHeard(keyed, {
  heard: new Map([
    [keyed.takes[0].id, heardSinging([6_010, 6_190, 6_420, 6_690])],
    [keyed.takes[1].id, heardSinging([7_180, 6_010, 6_370, 7_100], 1.1)],
  ]),
})
const tuned = (to: TuneTo, layerId = double) => setTune(song, { layerIds: [layerId], tune: { ...layerTune(TUNE_STEPS.firmly), to } })
const rungs = (of: Song, layerId = double) => {
  const take = requireTake(of, of.takes[layerId === lead ? 0 : 1].id)
  return rungsOf(of, requireLayer(of, layerId), take, take.heard!).map(({ targetCents }) => targetCents)
}
const chord = (of: Song, startBeat: number, root: number, quality: 'major' | 'minor' | 'seventh') =>
  setChord(of, { startBeat, beatCount: 8, chord: { root, quality } })

describe('the notes of a layer are drawn to', () => {
  test('the rungs of the key, where nothing else is said', () => {
    expect(rungs(tuned({ kind: 'key' }))).toEqual([7_200, 6_000, 6_400, 7_100])
  })
  test('the notes that another layer sings, in the octave in which they are sung; a part of its own stays with the key', () => {
    expect(rungs(tuned({ kind: 'layer', layerId: lead }))).toEqual([7_200, 6_200, 6_400, 7_100])
  })
  test('the rung that the other layer’s singer chose', () => {
    const changed = setNoteEdit(tuned({ kind: 'layer', layerId: lead }), {
      takeId: song.takes[0].id,
      edit: { id: 'n' as EditId, startFrame: 3 * SAMPLE_RATE_HZ, endFrame: 3.9 * SAMPLE_RATE_HZ, shiftCents: 0, rungCents: 6_500 },
    })
    expect(rungs(changed)[2]).toBe(6_500)
  })
  test('the key, where the other layer is gone, or is the layer itself', () => {
    for (const layerId of [double, 'gone' as LayerId]) expect(rungs(tuned({ kind: 'layer', layerId }))).toEqual(rungs(tuned({ kind: 'key' })))
  })
  test('the notes of the chord that sounds, also those that are not in the key', () => {
    // E major under the first line's bars: its G sharp draws a G that is sung sharp.
    const inE = chord(tuned({ kind: 'chord' }, lead), 16, 4, 'major')
    expect(rungs(inE, lead)).toEqual([5_900, 6_400 - 200, 6_400, 6_800])
    expect(rungs(tuned({ kind: 'chord' }, lead), lead)).toEqual([6_000, 6_200, 6_400, 6_700])
  })
  test('something else in a single line, and as all again', () => {
    const [first, second] = placedLines(song).map(entry => entry.line.id)
    const own = setTuneOfLine(tuned({ kind: 'key' }), { layerId: double, lineId: first, to: { kind: 'layer', layerId: lead } })
    expect(rungs(own)).toEqual([7_200, 6_200, 6_400, 7_100])
    expect(rungs(setTuneOfLine(own, { layerId: double, lineId: first, to: null }))).toEqual(rungs(tuned({ kind: 'key' })))
    const other = setTuneOfLine(tuned({ kind: 'key' }), { layerId: double, lineId: second, to: { kind: 'layer', layerId: lead } })
    expect(rungs(other)).toEqual(rungs(tuned({ kind: 'key' })))
    expect(SongSchema.safeParse(setTuneOfLine(own, { layerId: double, lineId: 'gone' as LineId, to: { kind: 'chord' } })).success).toBe(true)
    expect(setTuneOfLine(song, { layerId: double, lineId: first, to: { kind: 'chord' } })).toBe(song)
  })
  test('and change with what the other layer plays, in the prints too', () => {
    const toLead = tuned({ kind: 'layer', layerId: lead })
    expect(planPrints(toLead)).not.toEqual(planPrints(tuned({ kind: 'key' })))
    const silent = {
      ...toLead,
      layers: toLead.layers.map(layer => (layer.id === lead ? { ...layer, comps: layer.comps.map(comp => ({ ...comp, picks: [] })) } : layer)),
    }
    expect(rungs(silent)).toEqual(rungs(tuned({ kind: 'key' })))
  })
})

test('a singer is drawn live to what the take will be drawn to', () => {
  const at = (of: Song, second: number, layerId = double) => rungsAt(of, requireLayer(of, layerId), line.startFrame + second * SAMPLE_RATE_HZ)
  const cMajor = [0, 200, 400, 500, 700, 900, 1_100]
  expect(at(song, 0.5)).toEqual(cMajor)
  expect(at(tuned({ kind: 'layer', layerId: lead }), 1.5)).toEqual([200])
  // In the other's rest, the key; without a key, nothing.
  expect(at(tuned({ kind: 'layer', layerId: lead }), 3.95)).toEqual(cMajor)
  expect(at(chord(tuned({ kind: 'chord' }), 16, 4, 'major'), 0.5)).toEqual([400, 800, 1_100])
  expect(at({ ...song, beat: { ...song.beat, key: null } }, 0.5)).toEqual([])
  const own = setTuneOfLine(tuned({ kind: 'key' }), { layerId: double, lineId: placedLines(song)[0].line.id, to: { kind: 'layer', layerId: lead } })
  expect(at(own, 1.5)).toEqual([200])
  expect(at(own, 5)).toEqual(cMajor)
  const sharp = setKey(song, { key: { tonic: 'C', mode: 'major' }, colour: 'lydian', tuningCents: 12 })
  expect(at(sharp, 0.5)).toContain(612)
})

test('a layer whose notes another is tuned to is listened to, tidied or not', () => {
  const unheard = { ...tuned({ kind: 'layer', layerId: lead }), takes: song.takes.map(take => ({ ...take, heard: null })) }
  expect(unheardTakes(unheard).map(({ id }) => id)).toEqual(song.takes.map(({ id }) => id))
  expect(unheardTakes({ ...unheard, layers: tuned({ kind: 'key' }).layers }).map(({ id }) => id)).toEqual([song.takes[1].id])
})

test('a chord draws what is near to its notes, and lets pass what goes through it', () => {
  // C major; F lies a semitone above E, and a tone below G.
  expect(chordRung(6_510, 6_500, [0, 4, 7], 0)).toBe(6_400)
  expect(chordRung(6_940, 6_900, [0, 4, 7], 0)).toBeNull()
  // A line that is flat as a whole: half a semitone under G, which the key has heard as such.
  expect(chordRung(6_645, 6_700, [0, 4, 6, 7], 0)).toBe(6_700)
  expect(chordRung(4_730, 4_820, [0, 4, 7], 20)).toBe(4_820)
})

test('a guide is followed where it sounds together with most of a note', () => {
  const at = (startFrame: number, endFrame: number, cents: number) => ({ startFrame, endFrame, cents })
  const guide = [at(0, 1_000, 6_000), at(1_000, 2_000, 6_200)]
  expect(guideRung(at(800, 1_900, 6_150), guide)).toBe(6_200)
  expect(guideRung(at(100, 900, 4_850), guide)).toBe(4_800)
  expect(guideRung(at(1_900, 4_000, 6_150), guide)).toBeNull()
  expect(guideRung(at(100, 900, 6_400), guide)).toBeNull()
})

describe('on what the other takes agree', () => {
  const at = (cents: number) => [{ startFrame: 0, endFrame: 1_000, cents }]
  const note = { startFrame: 100, endFrame: 900, cents: 6_350 }
  test('two of two, or two thirds, make an agreement; one, or a quarrel, makes none', () => {
    expect(agreementOn(note, [at(6_340), at(6_355)])).toEqual({ takes: 2, cents: 6_347.5 })
    expect(agreementOn(note, [at(6_340), at(6_355), at(7_000)])).toEqual({ takes: 2, cents: 6_347.5 })
    expect(agreementOn(note, [at(6_340)])).toBeNull()
    expect(agreementOn(note, [at(6_340), at(6_500), at(6_700)])).toBeNull()
    expect(agreementOn(note, [[], [{ startFrame: 850, endFrame: 3_000, cents: 6_350 }]])).toBeNull()
  })
  test('a note that all sing off the scale is meant so; one that all others sing elsewhere is drawn there; others are not spoken of', () => {
    const toKey = tuned({ kind: 'key' }, lead)
    const notes = notesIn(toKey, requireLayer(toKey, lead), line, () => null)
    const others = (cents: readonly number[]) => notes.map(({ startFrame, endFrame }, i) => ({ startFrame, endFrame, cents: cents[i] }))
    const nearest = (cents: number) =>
      [6_000, 6_200, 6_400, 6_500, 6_700].reduce((best, rung) => (Math.abs(rung - cents) < Math.abs(best - cents) ? rung : best))
    // The lead's third note lies 45 cents above E here.
    const blue = notes.map((entry, i) => (i === 2 ? { ...entry, note: { ...entry.note, cents: 6_445 } } : entry))
    const found = agreedNotes(blue, [others([6_000, 6_395, 6_440, 6_700]), others([6_005, 6_405, 6_450, 6_705])], nearest)
    expect(found.map(({ note: of, kind, takes, cents }) => [blue.indexOf(of), kind, takes, cents])).toEqual([
      [1, 'elsewhere', 2, 6_400],
      [2, 'meant', 2, 6_445],
    ])
  })
})

test('a layer goes to its own part, in whatever octave it is sung; where nothing is written, the key says', () => {
  const second = SAMPLE_RATE_HZ
  // Over the second and the third note of the double: D4 and F4 are written an octave lower.
  const part = [
    { startFrame: line.startFrame + second, endFrame: line.startFrame + 2 * second, midi: 48 },
    { startFrame: line.startFrame + 2 * second, endFrame: line.startFrame + 3 * second, midi: 53 },
  ]
  const toKey = rungs(tuned({ kind: 'key' }))
  const written = setPart(tuned({ kind: 'part' }), { layerId: double, range: line, notes: part })
  expect(rungs(written)).toEqual([toKey[0], 6_000, 6_500, toKey[3]])
  expect(rungsAt(written, requireLayer(written, double), line.startFrame + 2.5 * second)).toEqual([500])
  expect(rungs(setPart(written, { layerId: double, range: line, notes: [] }))).toEqual(toKey)
})

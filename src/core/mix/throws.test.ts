import { describe, expect, test } from '@jest/globals'
import { peakOf } from '../audio/decibels'
import type { Mono } from '../audio/frames'
import { decibelsBetween } from '../audio/signals.test-kit'
import { pickTake } from '../comp/picks'
import { nudgePick } from '../comp/seams'
import type { SpaceId, ThrowTail } from '../song/mix-schema'
import { setLineWords, splitLine } from '../song/lines'
import type { LineId, Song } from '../song/schema'
import { currentComp, placedLines, requireLayer } from '../song/select'
import { layerOf, lineRange, makeId } from '../song/song.test-kit'
import { hasBrokenReference, heardAt } from './throws.test-kit'
import { setBeatMix, setLayerMix } from './commands'
import { bare, offline, sung } from './mix.test-kit'
import type { View } from './heard'
import { planMix } from './plan'
import { addSpace, mayFeed, removeSpace, setSend, setSpace } from './spaces'
import { addThrow, removeThrows, setThrow, throwsSung } from './throws'
import { NO_VOICE_DBFS, WHOLE_VOICE_DBFS } from './voice-share'

const ECHO = 'echo' as SpaceId
const [FIRST, SECOND] = [lineRange(0), lineRange(1)]
/** Where the four words of the first line are sung, in frames of the song, and the second line begins. */
const WORDS = [0, 1, 1.5, 2].map(seconds => FIRST.startFrame + 14_400 + seconds * 48_000)
const PHRASE_END = FIRST.startFrame + 132_000
const NEXT = SECOND.startFrame + 7_200
/** A beat at 120 bpm: how late the echo comes. */
const BEAT = 24_000

const base = (() => {
  const song = bare(setBeatMix(sung(), { muted: true }))
  const [first, second] = placedLines(song).map(placed => placed.line.id)
  const worded = setLineWords(setLineWords(song, { lineId: first, words: 'carry the lights home' }), { lineId: second, words: 'slowly' })
  return heardAt(worded, [
    { take: 0, phrase: [WORDS[0], PHRASE_END], onsets: WORDS },
    { take: 1, phrase: [NEXT, SECOND.startFrame + 96_000], onsets: [NEXT] },
  ])
})()
const lead = layerOf(base, 'Lead')
const lineId = placedLines(base)[0].line.id
const nextLine = placedLines(base)[1].line.id
const lastWord = { from: 3, to: 3 }
const thrown = (song: Song, tail: ThrowTail = 'rings', words: { from: number; to: number } | null = lastWord, line: LineId = lineId) =>
  addThrow(song, { layerId: lead, lineId: line, words, spaceId: ECHO, tail, makeId })
/** All of it is rendered: what rings was thrown before. */
const HEARD = { startFrame: FIRST.startFrame - 4_800, endFrame: SECOND.endFrame + 144_000 }
const part = (plane: Mono, from: number, to: number) => plane.subarray(from - HEARD.startFrame, to - HEARD.startFrame)
const play = async (song: Song, view?: View) => (await offline(planMix(song, view), HEARD))[0]
const alone = (song: Song) => play(song, { kind: 'space', spaceId: ECHO })
const answer = (song: Song, from: number, to: number) => alone(song).then(plane => peakOf(part(plane, from, to)))

describe('a thrown word', () => {
  test('goes into the echo as it is sung, and comes back a beat later, and again; what is sung before and after it does not', async () => {
    const song = thrown(base)
    // It is left open a little after a phrase; the way opens and shuts in 15 ms.
    const [from, to] = [WORDS[3], PHRASE_END + 2_880]
    expect(await answer(song, WORDS[0], from + BEAT - 850)).toBeLessThan(1e-6)
    const once = await answer(song, from + BEAT + 1_000, from + BEAT + 9_000)
    expect(once).toBeGreaterThan(0.15)
    const twice = await answer(song, from + 2 * BEAT + 20_000, to + 2 * BEAT - 1_000)
    expect(twice / once).toBeCloseTo(0.35, 1)
  })

  test('leaves what is heard without its answer as it was', async () => {
    const before = [HEARD.startFrame, WORDS[3] + BEAT - 1_000] as const
    expect(decibelsBetween(part(await play(thrown(base)), ...before), part(await play(base), ...before))).toBe(-Infinity)
  })

  test('in the middle of a phrase, shuts before the next word', async () => {
    const song = thrown(base, 'rings', { from: 1, to: 1 })
    // The last 240 samples of the second word, and what is sung right after it.
    expect(await answer(song, WORDS[2] + BEAT - 960, WORDS[2] + BEAT - 720)).toBeGreaterThan(0.1)
    expect(await answer(setSpace(song, { spaceId: ECHO, settings: { feedbackFraction: 0 } }), WORDS[2] + BEAT + 2_000, PHRASE_END)).toBeLessThan(1e-5)
  })

  test.each([
    ['rings', 0.05, 0.4],
    ['ducks', 0.01, 0.09],
    ['ends', 0, 1e-7],
  ] as const)('whose answer %s is, while the next line is sung, as loud as that says', async (tail, least, most) => {
    const song = setSpace(thrown(base, tail), { spaceId: ECHO, settings: { feedbackFraction: 0.9 } })
    const peak = await answer(song, NEXT + 2_000, NEXT + 60_000)
    expect(peak).toBeGreaterThanOrEqual(least)
    expect(peak).toBeLessThanOrEqual(most)
    // Until shortly before it, all are alike.
    expect(await answer(song, NEXT - 20_000, NEXT - 2_880)).toBeGreaterThan(0.1)
  })

  test('that has ended is forgotten: a word of the next line comes back by itself', async () => {
    const loop = (song: Song) => setSpace(song, { spaceId: ECHO, settings: { feedbackFraction: 0.9 } })
    const only = loop(thrown(base, 'rings', null, nextLine))
    const range = [NEXT, HEARD.endFrame] as const
    expect(decibelsBetween(part(await alone(thrown(only, 'ends')), ...range), part(await alone(only), ...range))).toBeLessThan(-120)
    expect(peakOf(part(await alone(only), ...range))).toBeGreaterThan(0.1)
  })

  test('does not end what the same layer sends into that space all the time', async () => {
    const sending = setSend(base, { layerId: lead, spaceId: ECHO, gainDecibels: -6 })
    const range = [NEXT + 2_000, NEXT + 40_000] as const
    expect(await answer(thrown(sending, 'ends'), ...range)).toBeCloseTo(await answer(sending, ...range), 6)
  })

  test('moves with the voice: a nudged pick throws it later by as much', async () => {
    const [pick] = currentComp(requireLayer(base, lead)).picks
    const nudged = nudgePick(thrown(base), { layerId: lead, pickId: pick.id, nudgeFrames: 4_800 })
    expect(throwsSung(nudged, requireLayer(nudged, lead))[0].at.startFrame).toBe(WORDS[3] + 4_800)
  })

  test('goes with the mute of its layer and with the level of its space', async () => {
    const muted = setLayerMix(thrown(base), { layerId: lead, muted: true })
    expect(await answer(muted, WORDS[3], NEXT)).toBe(0)
    const off = setSpace(thrown(base), { spaceId: ECHO, gainDecibels: -60 })
    expect(decibelsBetween(await play(off), await play(base))).toBe(-Infinity)
  })
})

describe('on the sheet', () => {
  const at = (song: Song) => throwsSung(song, requireLayer(song, lead)).map(entry => [entry.at.placed.line.words, entry.at.words])

  test('a throw stays on its word when words come before it, when it is spelled otherwise, and when the line is parted', () => {
    const song = thrown(base)
    expect(at(setLineWords(song, { lineId, words: 'now carry all the lights home' }))).toEqual([['now carry all the lights home', { from: 5, to: 5 }]])
    expect(at(setLineWords(song, { lineId, words: 'carry the lights hoome' }))).toEqual([['carry the lights hoome', lastWord]])
    const parted = splitLine(song, { lineId, atWord: 2, newLineId: 'parted' as LineId })
    expect(at(parted)).toEqual([['lights home', { from: 1, to: 1 }]])
  })

  test('a word that is gone is thrown no more, and is back when it is', () => {
    const song = thrown(base)
    const without = setLineWords(song, { lineId, words: 'carry them' })
    expect(at(without)).toEqual([])
    expect(() => planMix(without)).not.toThrow()
    expect(at(setLineWords(without, { lineId, words: 'carry the lights home' }))).toEqual(at(song))
  })

  test('the same words go into the same space once; a level, a tail and another space can be set; it goes with its space', () => {
    const song = thrown(base)
    expect(thrown(song)).toBe(song)
    const [{ id }] = requireLayer(song, lead).throws
    const changed = setThrow(song, { layerId: lead, throwId: id, gainDecibels: 40, tail: 'ducks', spaceId: 'plate' as SpaceId })
    expect(requireLayer(changed, lead).throws).toEqual([expect.objectContaining({ gainDecibels: 12, tail: 'ducks', spaceId: 'plate' })])
    expect(requireLayer(removeSpace(changed, { spaceId: 'plate' as SpaceId }), lead).throws).toEqual([])
    expect(requireLayer(removeThrows(song, { layerId: lead, throwIds: [id] }), lead).throws).toEqual([])
    expect(() => addThrow(song, { layerId: lead, lineId, words: { from: 3, to: 4 }, spaceId: ECHO, makeId })).toThrow(RangeError)
    expect(() => addThrow(song, { layerId: lead, lineId, words: null, spaceId: 'none' as SpaceId, makeId })).toThrow(RangeError)
  })
})

describe('an answer that is ducked', () => {
  const sending = setSend(base, { layerId: lead, spaceId: ECHO, gainDecibels: 0 })
  const ducked = setSpace(sending, { spaceId: ECHO, settings: { duckDecibels: 18, duckReleaseSeconds: 0.2 } })

  test('is held down by so much while the voice sounds, and comes up when it rests', async () => {
    const free = await answer(sending, WORDS[2], WORDS[3])
    const held = await answer(ducked, WORDS[2], WORDS[3])
    expect(20 * Math.log10(held / free)).toBeCloseTo(-18, 1)
    // The pick of the second line ends with it; after it the echo goes on.
    const late = [SECOND.endFrame + 40_000, SECOND.endFrame + 47_000] as const
    const back = 20 * Math.log10((await answer(ducked, ...late)) / (await answer(sending, ...late)))
    // Of the amount, after four to five times its release, less than a twentieth is left.
    expect(back).toBeGreaterThan(-18 * 0.05)
    expect(back).toBeLessThan(0.1)
  })

  test('a voice that is softer than where it begins leaves it free', async () => {
    // 0.3 at -3 dB of place is -13.5 dBFS; this brings it below what is heard as a voice.
    const soft = (song: Song) => setLayerMix(song, { layerId: lead, gainDecibels: NO_VOICE_DBFS - 5 + 13.5 })
    const range = [WORDS[2], WORDS[3]] as const
    expect((await answer(soft(ducked), ...range)) / (await answer(soft(sending), ...range))).toBeCloseTo(1, 3)
    expect(WHOLE_VOICE_DBFS).toBeGreaterThan(NO_VOICE_DBFS)
  })

  test('stems of two voices sum to the mix: the voice that is not in a stem holds its answer down all the same', async () => {
    const high = layerOf(ducked, 'High 1')
    const picked = pickTake(ducked, { layerId: high, takeId: ducked.takes[1].id, ...FIRST, insist: true, makeId })
    const two = setSend(picked, { layerId: high, spaceId: ECHO, gainDecibels: -3 })
    const both = planMix(two)
    const others = two.layers.filter(({ id }) => id !== lead).map(({ id }) => id)
    const [whole] = await offline(both, HEARD)
    const [[own], [rest]] = await Promise.all([[lead], others].map(stem => offline({ ...both, stem }, HEARD)))
    expect(peakOf(rest)).toBeGreaterThan(0.1)
    expect(
      decibelsBetween(
        own.map((x, i) => x + rest[i]),
        whole,
      ),
    ).toBeLessThan(-120)
  })
})

describe('a space that feeds another', () => {
  const withHall = addSpace(base, { kind: 'hall', name: 'Hall', makeId: () => 'hall' })
  const HALL = 'hall' as SpaceId
  const fed = setSpace(thrown(withHall), { spaceId: ECHO, feeds: { spaceId: HALL, gainDecibels: 0 } })

  test('is heard in it: after the echo the hall rings on, and not before it', async () => {
    const once = (song: Song) => play(setSpace(song, { spaceId: ECHO, settings: { feedbackFraction: 0 } }))
    const [late, dry] = [await once(thrown(fed, 'rings', null, nextLine)), await once(thrown(withHall, 'rings', null, nextLine))]
    // The last echo is over a beat after the voice.
    const after = [SECOND.endFrame + BEAT + 9_600, SECOND.endFrame + BEAT + 48_000] as const
    expect(peakOf(part(late, ...after))).toBeGreaterThan(1e-3)
    expect(peakOf(part(dry, ...after))).toBeLessThan(1e-5)
    const before = [HEARD.startFrame, WORDS[3] + BEAT - 1_000] as const
    expect(decibelsBetween(part(late, ...before), part(dry, ...before))).toBe(-Infinity)
  })

  test('never feeds itself, by whatever way; what it fed is not missed when it is removed', () => {
    expect(mayFeed(fed, HALL, ECHO)).toBe(false)
    expect(() => setSpace(fed, { spaceId: HALL, feeds: { spaceId: ECHO, gainDecibels: 0 } })).toThrow(RangeError)
    expect(() => setSpace(fed, { spaceId: ECHO, feeds: { spaceId: ECHO, gainDecibels: 0 } })).toThrow(RangeError)
    expect(
      hasBrokenReference({ ...fed, spaces: fed.spaces.map(space => (space.id === HALL ? { ...space, feeds: { spaceId: ECHO, gainDecibels: 0 } } : space)) }),
    ).toBe(true)
    expect(removeSpace(fed, { spaceId: HALL }).spaces.every(({ feeds }) => feeds === null)).toBe(true)
  })
})

import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import type { Mono } from '../audio/frames'
import { makePeaks } from '../audio/peaks'
import { gaussian, makeRandom } from '../audio/random'
import { highPass, StereoBiquad } from '../effects/biquad'
import { CHUNK_FRAMES } from '../mix/chunk-window'
import type { AssetStore } from '../mix/render-offline'
import { makeDemoSheet } from '../rehearsal/demo-song'
import { scoreOfSheet } from '../rehearsal/score'
import { sing, USUAL_FAULTS } from '../rehearsal/sing'
import type { AssetId, Pick, Song } from '../song/schema'
import { currentComp, requireLayer } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { analyseVoice } from '../voice/analyse-voice'
import { chooseCrossfade, SEAM_CONTEXT_FRAMES } from './crossfade'
import { seamMatchDecibels } from './level-match'
import { pickTake } from './picks'
import { isBounceStale } from './bounces'
import { bounceComp } from '../mix/bounce'
import { NO_PRINTS } from '../prints/jobs'
import { bestQuietPlace, findQuietPlaces } from './quiet-places'
import { joinPicks, moveSeam, nudgePick, nudgeStretch, setPickGain, splitPick } from './seams'

const RATE = 48_000
const song = withTakes(smallSong(), 'Lead', 3)
const lead = layerOf(song, 'Lead')
const [one, two, three] = song.takes
const picksOf = (s: Song) => currentComp(requireLayer(s, lead)).picks
const picked = [0, 1, 2, 3].reduce((s, i) => pickTake(s, { layerId: lead, takeId: i === 1 ? two.id : one.id, ...lineRange(i), makeId }), song)

/** Sounds by asset, cut into chunks as storage has them. */
function storeOf(sounds: Record<string, Mono>): AssetStore {
  return {
    framesOf: async id => sounds[id].length,
    readChunks: async (id, indices) => indices.map(index => [sounds[id].slice(index * CHUNK_FRAMES, (index + 1) * CHUNK_FRAMES)]),
  }
}

async function bounce(s: Song, sounds: Record<string, Mono>): Promise<Mono> {
  const pieces: Mono[] = []
  for await (const piece of bounceComp(s, { picks: picksOf(s), layer: requireLayer(s, lead) }, { store: storeOf(sounds), prints: NO_PRINTS }))
    pieces.push(piece)
  const whole = new Float32Array(pieces.reduce((sum, piece) => sum + piece.length, 0))
  pieces.reduce((at, piece) => (whole.set(piece, at), at + piece.length), 0)
  return whole
}

/** Index of the first sample that is not equal; -1 if none. */
function firstDifference(a: Mono, b: Mono): number {
  return a.length === b.length ? a.findIndex((sample, i) => sample !== b[i]) : 0
}

function noise(frames: number, amplitude: number, seed: number): Mono {
  const random = makeRandom(seed)
  return Float32Array.from({ length: frames }, () => amplitude * gaussian(random))
}

describe('cutting and moving', () => {
  test('whatever is cut, moved, nudged or picked, the picks lie in order without overlap, inside their takes, and a moved seam leaves no hole', () => {
    const edit = fc.record({
      kind: fc.constantFrom('split', 'move', 'nudge', 'pick'),
      at: fc.integer({ min: 340_000, max: 1_150_000 }),
      by: fc.integer({ min: -200_000, max: 200_000 }),
      take: fc.integer({ min: 0, max: 2 }),
    })
    fc.assert(
      fc.property(fc.array(edit, { minLength: 1, maxLength: 20 }), edits => {
        let current = picked
        for (const { kind, at, by, take } of edits) {
          const picks = picksOf(current)
          const pick = picks[Math.abs(by) % picks.length]
          if (kind === 'split') current = splitPick(current, { layerId: lead, frame: at, makeId })
          if (kind === 'nudge') current = nudgePick(current, { layerId: lead, pickId: pick.id, nudgeFrames: by >> 4 })
          if (kind === 'pick')
            current = pickTake(current, { layerId: lead, takeId: song.takes[take].id, startFrame: at, endFrame: at + 3_000 + Math.abs(by), makeId })
          if (kind === 'move') {
            const meets = (list: readonly Pick[]) => list.filter((entry, i) => list[i + 1]?.startFrame === entry.endFrame).length
            const before = meets(picks)
            current = moveSeam(current, { layerId: lead, pickId: pick.id, edge: by > 0 ? 'start' : 'end', frame: at })
            expect(meets(picksOf(current))).toBeGreaterThanOrEqual(before)
          }
          picksOf(current).forEach((entry, i, all) => {
            const source = song.takes.find(candidate => candidate.id === entry.takeId)!
            expect(entry.endFrame).toBeGreaterThan(entry.startFrame)
            expect(entry.startFrame - entry.nudgeFrames).toBeGreaterThanOrEqual(source.startFrame)
            expect(entry.endFrame - entry.nudgeFrames).toBeLessThanOrEqual(source.endFrame)
            if (i > 0) expect(entry.startFrame).toBeGreaterThanOrEqual(all[i - 1].endFrame)
          })
        }
      }),
      { numRuns: 120 },
    )
  })

  test('a cut inside a take is a place to change takes and nothing else: joined again, the comp is as it was', () => {
    const cut = splitPick(picked, { layerId: lead, frame: lineRange(0).startFrame + 90_000, makeId })
    expect(picksOf(cut)).toHaveLength(picksOf(picked).length + 1)
    const after = picksOf(cut)[1]
    expect(after).toMatchObject({ takeId: one.id, split: true })
    expect(picksOf(joinPicks(cut, { layerId: lead, pickId: after.id }))).toEqual(picksOf(picked))
    // A line picked beside the cut does not swallow it.
    const other = pickTake(cut, { layerId: lead, takeId: three.id, ...lineRange(2), makeId })
    expect(picksOf(other).some(entry => entry.id === after.id)).toBe(true)
  })

  test('a nudge goes no further than the take has sound', () => {
    const first = picksOf(picked)[0]
    const nudged = nudgePick(picked, { layerId: lead, pickId: first.id, nudgeFrames: 96_000 })
    expect(picksOf(nudged)[0].nudgeFrames).toBe(first.startFrame - one.startFrame)
  })
})

describe('a nudge', () => {
  const whole = pickTake(song, { layerId: lead, takeId: one.id, startFrame: lineRange(0).startFrame, endFrame: lineRange(3).endFrame, makeId })
  const word = { startFrame: lineRange(1).startFrame + 48_000, endFrame: lineRange(1).startFrame + 72_000 }
  const nudge = (s: Song, frames: number, range = word) => nudgeStretch(s, { layerId: lead, ...range, nudgeFrames: now => now + frames, makeId })
  test('of one word in a longer pick moves only the word, however often', () => {
    const nudged = nudge(nudge(whole, 240), 240)
    expect(picksOf(nudged).map(({ startFrame, endFrame, nudgeFrames }) => [startFrame, endFrame, nudgeFrames])).toEqual([
      [lineRange(0).startFrame, word.startFrame, 0],
      [word.startFrame, word.endFrame, 480],
      [word.endFrame, lineRange(3).endFrame, 0],
    ])
  })
  test('of a stretch that is picked as it is moves the pick, seams and all', () => {
    const seamAside = { startFrame: lineRange(1).startFrame + 9_000, endFrame: lineRange(1).endFrame - 9_000 }
    expect(picksOf(nudge(picked, 240, seamAside)).map(pick => pick.nudgeFrames)).toEqual([0, 240, 0])
  })
  test('where nothing plays, or the take has no more sound, changes nothing, not even a cut', () => {
    expect(nudge(song, 240)).toBe(song)
    expect(nudge(whole, 0)).toBe(whole)
  })
})

describe('what a comp sounds like', () => {
  const length = one.endFrame - one.originFrame
  const sounds = Object.fromEntries([one, two, three].map((take, i) => [take.assetId, noise(length, 0.1, i + 1)]))

  test('a comp of one take equals that take bit for bit away from its edges, however it was cut', async () => {
    const whole = pickTake(song, { layerId: lead, takeId: one.id, startFrame: one.startFrame, endFrame: one.endFrame, makeId })
    const cut = [480_000, 600_011, 900_127].reduce((s, frame) => splitPick(s, { layerId: lead, frame, makeId }), whole)
    const bounced = await bounce(cut, sounds)
    expect(bounced.length).toBe(length)
    expect(firstDifference(bounced.subarray(240, length - 240), sounds[one.assetId].subarray(240, length - 240))).toBe(-1)
  })

  test('away from its seams every sample is the picked take’s own', async () => {
    const bounced = await bounce(picked, sounds)
    const start = picksOf(picked)[0].startFrame
    for (const pick of picksOf(picked)) {
      const sound = sounds[song.takes.find(take => take.id === pick.takeId)!.assetId]
      const from = pick.startFrame + 1_000
      const to = pick.endFrame - 1_000
      expect(firstDifference(bounced.subarray(from - start, to - start), sound.subarray(from - one.originFrame, to - one.originFrame))).toBe(-1)
    }
  })

  test('a bounce is stale once its comp plays something else, and fresh again when that is undone', () => {
    const comp = currentComp(requireLayer(picked, lead))
    const bounced = { ...one, bounceOf: { compId: comp.id, picks: comp.picks, edits: [], tidy: null, tune: null } }
    expect(isBounceStale(picked, bounced)).toBe(false)
    expect(isBounceStale(setPickGain(picked, { layerId: lead, pickId: picksOf(picked)[1].id, gainDecibels: 2, levelMatched: false }), bounced)).toBe(true)
  })
})

describe('seams', () => {
  const sheet = makeDemoSheet(106 * RATE)
  const lines = scoreOfSheet(sheet).slice(0, 2)
  const offset = lines[0].startSeconds - 1
  const score = lines.map(line => ({
    startSeconds: line.startSeconds - offset,
    notes: line.notes.map(note => ({ ...note, startSeconds: note.startSeconds - offset, endSeconds: note.endSeconds - offset })),
  }))
  const frames = Math.ceil((score[1].notes.at(-1)!.endSeconds + 1) * RATE)
  const faults = { ...USUAL_FAULTS, plain: false }
  const voices = [1, 2].map(take => sing({ score, frames, seed: 3, take, faults }))
  const heard = voices.map(voice => ({ analysis: analyseVoice(voice), originFrame: 0 }))
  /** Inside a vowel, by the score; the singer is up to some 30 ms off it. */
  const inVowel = (frame: number) =>
    score.some(line => line.notes.some(note => frame / RATE > note.startSeconds + 0.05 && frame / RATE < note.endSeconds - 0.16))

  test('between two passes of the practice singer every place is a rest or a consonant, and the pause between lines is among them', () => {
    const places = findQuietPlaces(heard, { startFrame: 0, endFrame: frames })
    expect(places.length).toBeGreaterThan(4)
    expect(places.filter(place => inVowel(place.frame))).toEqual([])
    const pause = [score[0].notes.at(-1)!.endSeconds, score[1].notes[0].startSeconds].map(seconds => seconds * RATE)
    expect(places.some(place => place.reason !== 'consonant' && place.frame > pause[0] && place.frame < pause[1])).toBe(true)
  })

  test('asked for anywhere, the best place within half a second is out of the vowels whenever one is there', () => {
    for (let frame = RATE; frame < frames - RATE; frame += 9_000) {
      const place = bestQuietPlace(heard, frame, RATE / 2)
      if (place && place.reason !== 'soft') expect([frame, inVowel(place.frame)]).toEqual([frame, false])
    }
  })

  test('a breath before a phrase is not cut: the seam comes before it', () => {
    // A hum, a second of rest, a breath of 0.3 s, a hum.
    const sound = new Float32Array(4 * RATE)
    const random = makeRandom(9)
    for (let i = 0; i < sound.length; i++) {
      const t = i / RATE
      const voice = (t > 0.3 && t < 1.5) || (t > 2.9 && t < 3.8) ? 1 : 0
      for (let n = 1; n < 12; n++) sound[i] += (voice * 0.1 * Math.sin(2 * Math.PI * 180 * n * t)) / n
      sound[i] += gaussian(random) * (t > 2.5 && t < 2.8 ? 0.006 : 0.0002)
    }
    const place = bestQuietPlace([{ analysis: analyseVoice(sound), originFrame: 0 }], 2.7 * RATE, RATE)
    expect(place).toMatchObject({ reason: 'before-breath' })
    expect(place!.frame / RATE).toBeGreaterThan(1.6)
    expect(place!.frame / RATE).toBeLessThan(2.51)
  })

  test('two takes of one hum are crossed at equal gain where they swing together, unlike ones at equal power, silence long and soft', () => {
    const hum = (hz: number, phase: number) =>
      Float32Array.from({ length: 2 * SEAM_CONTEXT_FRAMES }, (_, i) => 0.2 * Math.sin((2 * Math.PI * hz * i) / RATE + phase))
    const together = chooseCrossfade(hum(220, 0), hum(221, 0.2), null)
    expect(together.seam.alike).toBe(true)
    expect(together.correlation).toBeGreaterThan(0.8)
    const apart = chooseCrossfade(hum(220, 0), hum(220, Math.PI), null)
    expect(apart.seam.alike).toBe(false)
    expect(apart.seam.frames).toBeLessThan(together.seam.frames)
    expect(chooseCrossfade(hum(220, 0), noise(2 * SEAM_CONTEXT_FRAMES, 0.1, 4), null).seam.alike).toBe(false)
    expect(chooseCrossfade(hum(220, 0), new Float32Array(2 * SEAM_CONTEXT_FRAMES), { reason: 'rest', roomFrames: 30_000 }).seam.frames).toBeGreaterThan(
      together.seam.frames,
    )
  })

  test('no seam clicks, wherever it lies: above 8 kHz, 5 ms round it hold at most 3 dB more than the takes’ own there', async () => {
    const takes = song.takes.map((take, i) => ({
      ...take,
      assetId: `voice-${i % 2}` as AssetId,
      originFrame: 336_000,
      startFrame: 336_000,
      endFrame: 336_000 + frames,
    }))
    const base = { ...song, takes }
    const sounds = { 'voice-0': voices[0], 'voice-1': voices[1] }
    const worst = { decibels: -Infinity }
    for (let at = RATE; at < frames - RATE; at += 15_013) {
      const ground = pickTake(base, { layerId: lead, takeId: one.id, startFrame: 336_000, endFrame: 336_000 + frames, makeId })
      const [before, after] = voices.map(voice => voice.slice(at - SEAM_CONTEXT_FRAMES, at + SEAM_CONTEXT_FRAMES))
      const { seam, shiftFrames } = chooseCrossfade(before, after, null)
      const comp = pickTake(ground, {
        layerId: lead,
        takeId: two.id,
        startFrame: 336_000 + at + shiftFrames,
        endFrame: 336_000 + frames,
        startSeam: seam,
        makeId,
      })
      const bounced = await bounce(comp, sounds)
      const [own, other, seamed] = [voices[0], voices[1], bounced].map(sound => energyAbove8k(sound, at + shiftFrames))
      const loudest = Math.max(own, other, 1e-9)
      worst.decibels = Math.max(worst.decibels, 10 * Math.log10(seamed / loudest))
    }
    expect(worst.decibels).toBeLessThan(3)
  }, 60_000)
})

/** Energy above 8 kHz in 5 ms round a frame. */
function energyAbove8k(sound: Mono, frame: number): number {
  const around = sound.slice(frame - 960, frame + 960)
  for (let pass = 0; pass < 2; pass++) new StereoBiquad(highPass(8_000)).process(around, new Float32Array(around.length))
  return around.subarray(840, 1_080).reduce((sum, sample) => sum + sample * sample, 0)
}

describe('levels across a seam', () => {
  const sound = (amplitude: number) => ({ peaks: makePeaks([noise(30 * RATE, amplitude, 5)]), originFrame: 336_000 })
  const levels = { [one.id]: sound(0.1), [two.id]: sound(0.05), [three.id]: sound(0.01) }
  const peaksOf = (take: { id: string }) => levels[take.id] ?? null
  test('a take 6 dB softer than what it meets is raised by 6 dB, a much softer one by no more, and a stretch of the same take goes on as it was', () => {
    const ground = pickTake(song, { layerId: lead, takeId: one.id, startFrame: 384_000, endFrame: 1_536_000, makeId })
    expect(seamMatchDecibels(ground, { layerId: lead, takeId: two.id, ...lineRange(1), peaksOf })).toBeCloseTo(6, 1)
    expect(seamMatchDecibels(ground, { layerId: lead, takeId: three.id, ...lineRange(1), peaksOf })).toBe(6)
    const matched = pickTake(ground, { layerId: lead, takeId: two.id, ...lineRange(1), gainDecibels: 6, levelMatched: true, makeId })
    expect(seamMatchDecibels(matched, { layerId: lead, takeId: two.id, ...lineRange(2), peaksOf })).toBe(6)
    expect(seamMatchDecibels(song, { layerId: lead, takeId: two.id, ...lineRange(1), peaksOf })).toBe(0)
  })
})

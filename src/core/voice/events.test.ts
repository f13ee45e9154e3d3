import { describe, expect, test } from '@jest/globals'
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { gaussian, makeRandom } from '../audio/random'
import { highPass, lowPass, StereoBiquad } from '../effects/biquad'
import { makeDemoSheet } from '../rehearsal/demo-song'
import { scoreOfSheet } from '../rehearsal/score'
import { NO_FAULTS, sing, USUAL_FAULTS } from '../rehearsal/sing'
import { analyseVoice, joinAnalyses, type VoiceAnalysis } from './analyse-voice'
import { findClicks } from './clicks'
import { findEsses } from './esses'
import { framePowers } from './level'
import type { Stretch } from './phrases'
import { trackPitch } from './pitch'
import { findPops } from './pops'
import { buzz } from './voice.test-kit'

/** Sung from 0.5 s to 3.5 s of 4 s at -22 dBFS, over a room's noise. */
const usual = buzz(() => 196).sound
function voiceIn(noise: number, hz = 196): Mono {
  const random = makeRandom(4)
  return (hz === 196 ? usual : buzz(() => hz).sound).map(sample => 0.08 * sample + noise * gaussian(random))
}

function noiseBetween(seconds: number, fromHz: number, toHz: number, seed: number): Mono {
  const random = makeRandom(seed)
  const sound = Float32Array.from({ length: Math.round(seconds * SAMPLE_RATE_HZ) }, () => gaussian(random))
  for (const filter of [highPass(fromHz), highPass(fromHz), lowPass(toHz)]) new StereoBiquad(filter).process(sound, new Float32Array(sound.length))
  const level = Math.sqrt(sound.reduce((sum, sample) => sum + sample * sample, 0) / sound.length)
  // In and out over a quarter of it, as air comes and goes.
  return sound.map((sample, i) => (sample / level) * Math.min(1, (4 * i) / sound.length, (4 * (sound.length - i)) / sound.length))
}

function lay(voice: Mono, sound: Mono, atSeconds: number, decibels: number): Mono {
  const laid = voice.slice()
  const gain = 10 ** (decibels / 20)
  sound.forEach((sample, i) => (laid[Math.round(atSeconds * SAMPLE_RATE_HZ) + i] += gain * sample))
  return laid
}

const around = (seconds: number, { startSeconds, endSeconds }: Stretch, slack: number) => startSeconds <= seconds + slack && endSeconds >= seconds - slack
const kinds = ({ breaths, esses, pops, clicks }: VoiceAnalysis) => ({ breaths: breaths.length, esses: esses.length, pops: pops.length, clicks: clicks.length })
const NONE = { breaths: 0, esses: 0, pops: 0, clicks: 0 }

describe('a breath before a phrase', () => {
  test.each([
    ['close to the microphone', 0.0003, -38],
    ['soft', 0.0003, -52],
    ['in a noisy room', 0.002, -36],
  ])('%s is found, to within 60 ms at both ends', (_, noise, decibels) => {
    const heard = analyseVoice(lay(voiceIn(noise), noiseBetween(0.34, 800, 6_000, 9), 0.08, decibels))
    expect(kinds(heard)).toEqual({ ...NONE, breaths: 1 })
    expect(Math.abs(heard.breaths[0].startSeconds - 0.08)).toBeLessThan(0.06)
    expect(Math.abs(heard.breaths[0].endSeconds - 0.42)).toBeLessThan(0.06)
  })
  test('is not the rumble of a step, nor a short smack', () => {
    expect(kinds(analyseVoice(lay(voiceIn(0.0003), noiseBetween(0.34, 130, 400, 9), 0.08, -45))).breaths).toBe(0)
    expect(kinds(analyseVoice(lay(voiceIn(0.0003), noiseBetween(0.06, 800, 6_000, 9), 0.2, -45))).breaths).toBe(0)
  })
})

describe('a noise between the phrases', () => {
  const chair = noiseBetween(0.25, 200, 900, 11)
  test.each([
    ['before the line', 0.1, -40],
    ['soft', 0.1, -50],
    ['after it', 3.65, -36],
  ])('%s is found, and is neither breath nor phrase', (_, at, decibels) => {
    const { noises, breaths, phrases } = analyseVoice(lay(voiceIn(0.0003), chair, at, decibels))
    expect([noises.length, breaths.length, phrases.length]).toEqual([1, 0, 1])
    expect(Math.abs(noises[0].startSeconds - at)).toBeLessThan(0.06)
    expect(Math.abs(noises[0].endSeconds - at - 0.25)).toBeLessThan(0.06)
  })
  test('is neither the room, however loud, nor a breath, nor what is sung', () => {
    for (const noise of [0, 0.0003, 0.003]) expect(analyseVoice(voiceIn(noise)).noises).toEqual([])
    expect(analyseVoice(lay(voiceIn(0.0003), noiseBetween(0.34, 800, 6_000, 9), 0.08, -40)).noises).toEqual([])
  })
})

describe('the consonant that a phrase ends with', () => {
  test.each([
    ['an s', 0.12, 4_000, 9_000, -34],
    ['a t', 0.05, 2_000, 8_000, -30],
  ])('is found: %s', (_, seconds, from, to, decibels) => {
    const { finals } = analyseVoice(lay(voiceIn(0.0001), noiseBetween(seconds, from, to, 6), 3.53, decibels))
    expect(finals).toHaveLength(1)
    expect(Math.abs(finals[0].startSeconds - 3.53)).toBeLessThan(0.05)
    expect(Math.abs(finals[0].endSeconds - 3.53 - seconds)).toBeLessThan(0.05)
  })
  test('is not the dying end of a vowel, nor the room after it', () => {
    for (const noise of [0, 0.0003, 0.002]) expect(analyseVoice(voiceIn(noise)).finals).toEqual([])
  })
  test('belongs to the phrase when it is an ess far softer than its vowel, after a moment of nothing', () => {
    const [phrase] = analyseVoice(lay(voiceIn(0.0001), noiseBetween(0.14, 5_000, 9_000, 6), 3.54, -45)).phrases
    expect(Math.abs(phrase.endSeconds - 3.68)).toBeLessThan(0.06)
  })
  test('is not what a room leaves of it: the phrase ends with its last word, however soft', () => {
    const soft = voiceIn(3e-5).map((sample, i) => (i > 3.3 * SAMPLE_RATE_HZ ? 0.05 : i > 3.2 * SAMPLE_RATE_HZ ? 1e-4 : 1) * sample)
    const dying = lay(lay(soft, noiseBetween(0.7, 200, 900, 7), 3.15, -66), noiseBetween(0.7, 4_000, 9_000, 6), 3.15, -84)
    const [phrase] = analyseVoice(dying).phrases
    expect(Math.abs(phrase.endSeconds - 3.5)).toBeLessThan(0.06)
  })
})

describe('an ess', () => {
  test.each([-18, -26, -32])('at %d dBFS is found where it is', decibels => {
    const sound = voiceIn(0.0003)
    // The voice gives way to it.
    for (let i = Math.round(1.98 * SAMPLE_RATE_HZ); i < 2.12 * SAMPLE_RATE_HZ; i++) sound[i] *= 0.02
    const esses = findEsses(lay(sound, noiseBetween(0.12, 5_000, 10_000, 3), 1.99, decibels))
    expect(esses).toHaveLength(1)
    expect(Math.abs(esses[0].startSeconds - 1.99)).toBeLessThan(0.03)
    expect(Math.abs(esses[0].endSeconds - 2.11)).toBeLessThan(0.03)
  })
})

const popsIn = (voice: Mono) => findPops(voice, framePowers(voice, SAMPLE_RATE_HZ), 0)

describe('a pop', () => {
  const thump = Float32Array.from({ length: 6_000 }, (_, i) => Math.sin((2 * Math.PI * 45 * i) / SAMPLE_RATE_HZ) * Math.exp(-i / 1_400) * Math.min(1, i / 150))
  test.each([
    ['before a phrase', 0.45, -10],
    ['within a phrase', 2, -8],
    ['softly within a phrase', 2.6, -16],
  ])('%s is found where it strikes', (_, atSeconds, decibels) => {
    const pops = popsIn(lay(voiceIn(0.0003), thump, atSeconds, decibels))
    expect(pops).toHaveLength(1)
    expect(around(atSeconds + 0.02, pops[0], 0.03)).toBe(true)
    expect(pops[0].endSeconds - pops[0].startSeconds).toBeLessThan(0.2)
  })
  test('right after a phrase is no part of it, and has no pitch; a low note under one keeps its own', () => {
    const after = analyseVoice(lay(voiceIn(0.0003), thump, 3.53, -8))
    expect([after.pops.length, after.noises.length, after.finals.length]).toEqual([1, 0, 0])
    expect(Math.abs(after.phrases[0].endSeconds - 3.5)).toBeLessThan(0.06)
    expect(after.f0Hz.subarray(3.52 * 200).every(hz => hz === 0)).toBe(true)
    const under = lay(voiceIn(0.0003, 82), thump, 2, -8)
    expect(analyseVoice(under).f0Hz).toEqual(trackPitch(under).f0Hz)
  })
  test('is not a low note that goes on, nor hum', () => {
    expect(popsIn(voiceIn(0.0003, 62))).toEqual([])
    const hum = Float32Array.from({ length: 4 * SAMPLE_RATE_HZ }, (_, i) => 0.02 * Math.sin((2 * Math.PI * 50 * i) / SAMPLE_RATE_HZ))
    expect(popsIn(lay(voiceIn(0.0003), hum, 0, 0))).toEqual([])
  })
  test('is not a lone pulse of a creaking voice', () => {
    const pulse = Float32Array.from({ length: 480 }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / 480))
    for (const decibels of [-20, -14, -8]) expect(popsIn(lay(voiceIn(0.0003), pulse, 2, decibels))).toEqual([])
  })
  test('is not the wind, which swings down there all the time', () => {
    const random = makeRandom(9)
    const wind = Float32Array.from({ length: 4 * SAMPLE_RATE_HZ }, () => gaussian(random))
    for (let pass = 0; pass < 2; pass++) new StereoBiquad(lowPass(90)).process(wind, new Float32Array(wind.length))
    for (const decibels of [-10, 0, 6]) expect(popsIn(lay(voiceIn(0.0003), wind, 0, decibels))).toEqual([])
  })
})

describe('a click', () => {
  const spike = Float32Array.of(1, -0.6, 0.25)
  const smack = Float32Array.from({ length: 240 }, (_, i) => Math.cos((2 * Math.PI * 1_500 * i) / SAMPLE_RATE_HZ) * Math.exp(-i / 60))
  test.each([
    ['of the converter, in a rest', spike, 3.7, -30],
    ['of the converter, in a vowel', spike, 2, -16],
    ['of the mouth, in a rest', smack, 0.2, -30],
    ['of the mouth, in a vowel', smack, 2.4, -18],
  ])('%s is found to the millisecond', (_, sound, atSeconds, decibels) => {
    const clicks = findClicks(lay(voiceIn(0.0003), sound, atSeconds, decibels))
    expect(clicks).toHaveLength(1)
    expect(around(atSeconds, clicks[0], 0.0015)).toBe(true)
    expect(clicks[0].endSeconds - clicks[0].startSeconds).toBeLessThan(0.006)
  })
  test('is not the creak of a voice: pulses that come again and again', () => {
    let voice = voiceIn(0.0003)
    for (let seconds = 1; seconds < 2; seconds += 0.03) voice = lay(voice, spike, seconds, -24)
    expect(findClicks(voice)).toEqual([])
  })
})

test('a steady vowel, silence and the noise of a room have none of them', () => {
  for (const hz of [70, 262]) expect(kinds(analyseVoice(voiceIn(0.0005, hz)))).toEqual(NONE)
  for (const hz of [130, 523, 900]) {
    const vowel = voiceIn(0.0005, hz)
    expect([findEsses(vowel), popsIn(vowel), findClicks(vowel)]).toEqual([[], [], []])
  }
  const random = makeRandom(2)
  expect(kinds(analyseVoice(new Float32Array(2 * SAMPLE_RATE_HZ)))).toEqual(NONE)
  expect(kinds(analyseVoice(Float32Array.from({ length: 2 * SAMPLE_RATE_HZ }, () => 0.002 * gaussian(random))))).toEqual(NONE)
})

test('of sung lines the breath before each and the pops are found, and no click', () => {
  const score = scoreOfSheet(makeDemoSheet(5_000_000))
  const frames = 32 * SAMPLE_RATE_HZ
  const lines = score.filter(line => line.notes[0].startSeconds < 32).length
  const clean = analyseVoice(sing({ score, frames, seed: 5, take: 1, faults: NO_FAULTS }))
  expect([clean.breaths.length, clean.pops.length, clean.clicks.length]).toEqual([lines, 0, 0])
  const usual = analyseVoice(sing({ score, frames, seed: 3, take: 1, faults: USUAL_FAULTS }))
  expect(usual.breaths).toHaveLength(lines)
  expect(usual.pops.length).toBeGreaterThan(1)
  expect(usual.clicks).toEqual([])
}, 60_000)

test('pieces of a long take are joined with everything in its place', () => {
  const piece = analyseVoice(lay(voiceIn(0.0003), noiseBetween(0.34, 800, 6_000, 9), 0.08, -40))
  const { breaths } = joinAnalyses([piece, piece], 4)
  expect(breaths.map(({ startSeconds }) => startSeconds)).toEqual([piece.breaths[0].startSeconds, piece.breaths[0].startSeconds + 4])
})

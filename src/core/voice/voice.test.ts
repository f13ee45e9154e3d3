import { describe, expect, test } from '@jest/globals'
import { mixToMono, type Mono } from '../audio/frames'
import { gaussian, makeRandom } from '../audio/random'
import { makeDemoBeat } from '../rehearsal/demo-beat'
import { makeDemoSheet } from '../rehearsal/demo-song'
import { scoreOfSheet } from '../rehearsal/score'
import { NO_FAULTS, sing } from '../rehearsal/sing'
import { singStretch } from '../rehearsal/sing-stretch'
import { placedLines } from '../song/select'
import { analyseVoice, joinAnalyses } from './analyse-voice'
import { HOP_SECONDS } from './hop'
import { findHum } from './hum'
import { factsOfLine, remarksOn } from './line-facts'
import { matchTakes } from './match-takes'
import { findClipping } from './clipping'
import { checkRoom } from './mic-check'
import { trackPitch } from './pitch'
import { buzz } from './voice.test-kit'
import { compareLevels, levelOf } from './take-level'

const RATE = 48_000

/** Shares of sung frames within 50 and 10 cents, octave errors among them, and of silent frames called voiced. */
function score({ sound, hzAt }: { sound: Mono; hzAt: (seconds: number) => number }) {
  const { f0Hz, hopSeconds } = trackPitch(sound)
  let [sung, within50, within10, octaves, silent, falselyVoiced] = [0, 0, 0, 0, 0, 0]
  f0Hz.forEach((hz, i) => {
    const t = i * hopSeconds
    if (t > 0.54 && t < 3.46) {
      sung++
      const cents = hz > 0 ? Math.abs(1_200 * Math.log2(hz / hzAt(t))) : Infinity
      if (cents < 50) within50++
      if (cents < 10) within10++
      if (cents > 1_000 && cents < Infinity) octaves++
    } else if (t < 0.45 || t > 3.55) {
      silent++
      if (hz > 0) falselyVoiced++
    }
  })
  return { within50: within50 / sung, within10: within10 / sung, octaves, falselyVoiced: falselyVoiced / silent }
}

const vibrato = (hz: number) => (t: number) => hz * 2 ** ((40 * Math.sin(2 * Math.PI * 5.5 * t)) / 1_200)

describe('pitch', () => {
  test('soft lines beside a shouted one are sung all the same, not music that leaks', () => {
    const soft = buzz(() => 208).sound
    const whole = new Float32Array(5 * soft.length)
    for (let i = 0; i < 5; i++) whole.set(i < 3 ? soft : soft.map(sample => 6 * sample), i * soft.length)
    const { f0Hz, hopSeconds } = trackPitch(whole)
    const sung = f0Hz.subarray(Math.round(0.6 / hopSeconds), Math.round(3.4 / hopSeconds))
    expect(sung.filter(hz => Math.abs(hz - 208) < 4).length / sung.length).toBeGreaterThan(0.98)
  })

  test('soft passes of a loop are heard beside one that is 18 dB louder: they are no music that leaks', () => {
    const placed = placedLines(makeDemoSheet(0)).slice(0, 3)
    for (const line of placed) {
      const passes = singStretch(makeDemoSheet(0), line, { passes: 3, firstTake: 40, degreeShift: 0 }, () => {})
      const frames = line.endFrame - line.startFrame
      const hop = (pass: number) => Math.round((pass * frames) / 240)
      const voiced = (f0Hz: Float32Array) => f0Hz.filter(hz => hz > 0).length
      const together = trackPitch(passes).f0Hz
      for (const i of [0, 1, 2]) {
        const alone = trackPitch(passes.slice(i * frames, (i + 1) * frames)).f0Hz
        expect(voiced(together.subarray(hop(i), hop(i + 1))) / voiced(alone)).toBeGreaterThan(0.9)
      }
    }
  })

  test.each([58, 82, 131, 220, 392, 700, 1_050])('of a voice at %d Hz with vibrato is read within 10 cents, an octave never missed', hz => {
    const { within50, within10, octaves, falselyVoiced } = score(buzz(vibrato(hz)))
    expect(within50).toBeGreaterThan(0.99)
    expect(within10).toBeGreaterThan(0.93)
    expect([octaves, falselyVoiced]).toEqual([0, 0])
  })
  test('is followed through a glide over an octave and a half', () => {
    expect(score(buzz(t => 130 * 2 ** (t / 2.5))).within50).toBeGreaterThan(0.98)
  })
  test('holds up in noise 10 dB below the voice, and in hum, which has none of its own', () => {
    const clean = buzz(vibrato(180))
    const level = Math.sqrt(clean.sound.subarray(RATE, 3 * RATE).reduce((sum, sample) => sum + sample * sample, 0) / (2 * RATE))
    const noisy = score(buzz(vibrato(180), { noise: level * 10 ** (-10 / 20) }))
    expect(noisy.within50).toBeGreaterThan(0.97)
    expect(noisy.falselyVoiced).toBeLessThan(0.03)
    const hum = clean.sound.map(
      (sample, i) => sample + 0.1 * level * (Math.sin((2 * Math.PI * 50 * i) / RATE) + 0.5 * Math.sin((2 * Math.PI * 150 * i) / RATE)),
    )
    const humming = score({ sound: hum, hzAt: vibrato(180) })
    expect(humming.within50).toBeGreaterThan(0.98)
    expect(humming.falselyVoiced).toBeLessThan(0.03)
  })
  test('is followed where a line dies away under the hiss and rumble of a room', () => {
    const { sound, hzAt } = buzz(vibrato(240))
    const dying = sound.map((sample, i) => sample * 10 ** ((-16 * Math.max(0, i / RATE - 1)) / 2.5 / 20))
    const level = Math.sqrt(dying.subarray(RATE / 2, RATE).reduce((sum, sample) => sum + sample * sample, 0) / (RATE / 2))
    const random = makeRandom(6)
    let rumble = 0
    const noisy = dying.map(sample => {
      rumble = 0.98 * rumble + 0.2 * gaussian(random)
      return sample + 0.18 * level * (rumble + 0.6 * gaussian(random))
    })
    const { within50, falselyVoiced } = score({ sound: noisy, hzAt })
    expect(within50).toBeGreaterThan(0.93)
    expect(falselyVoiced).toBeLessThan(0.05)
  })
  test('is not found in silence, noise or an empty take', () => {
    const random = makeRandom(2)
    for (const sound of [new Float32Array(0), new Float32Array(RATE), Float32Array.from({ length: 2 * RATE }, () => 0.1 * gaussian(random))]) {
      expect(Array.from(trackPitch(sound).f0Hz).filter(hz => hz > 0).length).toBeLessThan(8)
    }
  })
})

/** As loud in every octave; root mean square 1. By Paul Kellet's filter (musicdsp.org), within 0.05 dB above 9 Hz. */
function roomNoise(length: number): Float32Array {
  const random = makeRandom(8)
  const [poles, gains] = [
    [0.99886, 0.99332, 0.969, 0.8665, 0.55, -0.7616],
    [0.0555179, 0.0750759, 0.153852, 0.3104856, 0.5329522, -0.016898],
  ]
  const held = poles.map(() => 0)
  const noise = Float32Array.from({ length }, () => {
    const white = gaussian(random)
    return held.reduce((sum, value, k) => sum + (held[k] = poles[k] * value + gains[k] * white), 0.5362 * white)
  })
  const rms = Math.sqrt(noise.reduce((sum, sample) => sum + sample * sample, 0) / length)
  return noise.map(sample => sample / rms)
}

const sheet = makeDemoSheet(5_000_000)
const lines = scoreOfSheet(sheet).slice(0, 4)
const frames = Math.ceil((lines[3].notes.at(-1)!.endSeconds + 1) * RATE)
const sung = (faults: Partial<typeof NO_FAULTS> = {}, take = 1) =>
  sing({ score: lines, frames, seed: 7, take, faults: { ...NO_FAULTS, noiseDbfs: -70, ...faults } })
const clean = analyseVoice(sung())

describe('a sung take', () => {
  test('begins and ends its phrases where its lines do, and none runs on into the next line', () => {
    for (const { notes } of lines) {
      const inside = clean.phrases.filter(phrase => phrase.endSeconds > notes[0].startSeconds && phrase.startSeconds < notes.at(-1)!.endSeconds)
      // A consonant stands before the first vowel.
      expect(inside[0].startSeconds).toBeLessThan(notes[0].startSeconds + 0.03)
      expect(inside[0].startSeconds).toBeGreaterThan(notes[0].startSeconds - 0.25)
      expect(Math.abs(inside.at(-1)!.endSeconds - notes.at(-1)!.endSeconds)).toBeLessThan(0.25)
    }
  })
  test('keeps the ends of its phrases whatever clicks after them, and whatever leaks from the headphones', () => {
    const voice = sung()
    const clicking = voice.slice()
    // The last one has a k of its own just there.
    const ends = clean.phrases.slice(0, 3).map(phrase => phrase.endSeconds)
    for (const endSeconds of ends) for (let i = 0; i < 200; i++) clicking[Math.round((endSeconds + 0.06) * RATE) + i] += 0.15 * (i % 20 < 10 ? 1 : -1)
    const clicked = analyseVoice(clicking).phrases
    ends.forEach((endSeconds, i) => expect(Math.abs(clicked[i].endSeconds - endSeconds)).toBeLessThan(0.03))
    const beat = mixToMono(makeDemoBeat()).subarray(20 * RATE)
    const power = (sound: Float32Array) => sound.reduce((sum, sample) => sum + sample * sample, 0)
    const leak = Math.sqrt(power(voice) / power(beat.subarray(0, voice.length))) * 10 ** (-20 / 20)
    const { phrases } = analyseVoice(voice.map((sample, i) => sample + leak * beat[i]))
    expect(phrases.length).toBe(clean.phrases.length)
    clean.phrases.forEach(({ startSeconds, endSeconds }, i) => {
      expect(Math.abs(phrases[i].startSeconds - startSeconds)).toBeLessThan(0.15)
      expect(Math.abs(phrases[i].endSeconds - endSeconds)).toBeLessThan(0.15)
    })
  })
  const level = Math.sqrt(sung().reduce((sum, sample) => sum + sample * sample, 0) / frames)
  const hiss = makeRandom(4)
  /** A turn of 50 Hz with its overtones. */
  const humming = Float32Array.from({ length: RATE / 50 }, (_, i) =>
    Array.from({ length: 16 }, (_, n) => Math.sin((2 * Math.PI * 50 * (n + 1) * i) / RATE + n * n) / (n + 1)).reduce((sum, value) => sum + value),
  )
  const room = roomNoise(frames)
  test.each<[string, number, (i: number) => number]>([
    ['a room', 20, i => room[i]],
    ['a room', 10, i => room[i]],
    ['hiss', 20, () => gaussian(hiss)],
    ['hiss', 10, () => gaussian(hiss)],
    // Of a bad cable.
    ['hum', 10, i => humming[i % humming.length]],
  ])('has its phrases heard through %s %d dB below it: none is parted, joined or made up', (_, below, noise) => {
    const gain = level * 10 ** (-below / 20)
    const { phrases } = analyseVoice(sung().map((sample, i) => sample + gain * noise(i)))
    expect(phrases).toHaveLength(clean.phrases.length)
    clean.phrases.forEach(({ startSeconds, endSeconds }, i) => {
      expect(Math.abs(phrases[i].startSeconds - startSeconds)).toBeLessThan(0.08)
      expect(Math.abs(phrases[i].endSeconds - endSeconds)).toBeLessThan(0.1)
    })
  })
  test('keeps the pitch of softer lines in a steady room, which is no music', () => {
    const softer = (i: number) => (lines.findIndex(line => i < line.notes.at(-1)!.endSeconds * RATE) % 2 === 1 ? 10 ** (-14 / 20) : 1)
    const { f0Hz } = trackPitch(sung().map((sample, i) => softer(i) * sample + 0.1 * level * room[i]))
    const sounding = clean.f0Hz.map((hz, i) => (softer(i * HOP_SECONDS * RATE) < 1 ? hz : 0))
    const kept = sounding.filter((hz, i) => hz > 0 && Math.abs(1_200 * Math.log2(f0Hz[i] / hz)) < 50).length
    expect(kept / sounding.filter(hz => hz > 0).length).toBeGreaterThan(0.85)
  })
  test('has an onset near most of its notes, and few others', () => {
    const notes = lines.flatMap(line => line.notes)
    const near = notes.filter(note => clean.onsetSeconds.some(onset => Math.abs(onset - note.startSeconds) < 0.06))
    expect(near.length / notes.length).toBeGreaterThan(0.7)
    expect(clean.onsetSeconds.length).toBeLessThan(1.5 * notes.length)
  })
  test('read in pieces is the same take', () => {
    const voice = sung()
    const piece = 4 * RATE
    const pieces = Array.from({ length: Math.ceil(voice.length / piece) }, (_, i) => analyseVoice(voice.slice(i * piece, (i + 1) * piece)))
    const joined = joinAnalyses(pieces, 4)
    const differ = Array.from(joined.f0Hz).filter((hz, i) => Math.abs(hz - clean.f0Hz[i]) > 0.02 * Math.max(hz, 1)).length
    expect(differ / joined.f0Hz.length).toBeLessThan(0.02)
  })
  test('states its faults line by line: flat, late, clipped, and nothing of a clean one', () => {
    const placed = placedLines(sheet)
    const remarks = (voice: Mono, line: number) => remarksOn(factsOfLine(analyseVoice(voice), 0, placed[line], sheet.beat), 0)
    expect(remarks(sung(), 1)).toEqual([])
    const shifted = (cents: number, milliseconds: number) => {
      const moved = lines.map(line => ({
        startSeconds: line.startSeconds + milliseconds / 1_000,
        notes: line.notes.map(note => ({
          ...note,
          midi: note.midi + cents / 100,
          startSeconds: note.startSeconds + milliseconds / 1_000,
          endSeconds: note.endSeconds + milliseconds / 1_000,
        })),
      }))
      return sing({ score: moved, frames, seed: 7, take: 1, faults: { ...NO_FAULTS, noiseDbfs: -70 } })
    }
    const [flat] = remarks(shifted(-38, 0), 1)
    expect(flat.kind).toBe('flat')
    expect(Math.abs(flat.amount - 38)).toBeLessThan(8)
    expect(remarks(shifted(0, 70), 1)).toContainEqual(expect.objectContaining({ kind: 'late' }))
    expect(
      remarks(
        sung().map(sample => Math.max(-0.2, Math.min(0.2, 3 * sample))),
        1,
      ),
    ).toContainEqual(expect.objectContaining({ kind: 'clipped' }))
  })
  test('whose tops lie above full scale is clipped, though they are not flat; one that just touches it is not', () => {
    const voice = sung()
    const top = voice.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0)
    const over = voice.map(sample => (1.4 * sample) / top)
    const places = findClipping(over)
    expect(places.length).toBeGreaterThan(2)
    for (const { startSeconds, endSeconds } of places) {
      const inside = over.subarray(Math.round(startSeconds * RATE), Math.round(endSeconds * RATE))
      expect(Math.max(...inside.map(Math.abs))).toBeGreaterThanOrEqual(0.9999)
    }
    expect(checkRoom(over.slice(5 * RATE, 13 * RATE)).clips).toBeGreaterThan(0)
    expect(findClipping(voice.map(sample => sample / top))).toEqual([])
  })
  test('rapped or spoken, gets no cents: its pitch glides through every syllable; held notes with vibrato get them', () => {
    const line = { startFrame: 0, endFrame: 4 * RATE }
    const analysisOf = (centsAt: (seconds: number) => number) => ({
      ...clean,
      clipped: [],
      onsetSeconds: [],
      f0Hz: Float32Array.from({ length: 800 }, (_, i) => (i % 100 < 90 ? 220 * 2 ** (centsAt(i * clean.hopSeconds) / 1_200) : 0)),
    })
    const factsOf = (centsAt: (seconds: number) => number) =>
      factsOfLine(analysisOf(centsAt), 0, line, { ...sheet.beat, key: { tonic: 'A', mode: 'minor' }, tuningCents: 0 })
    // Falls by 150 cents a second, as a sentence does, and jumps up with every other word.
    const rapped = factsOf(seconds => 330 - 150 * (seconds % 2) + 120 * (Math.floor(seconds / 0.5) % 2))
    expect(rapped).toMatchObject({ spoken: true, centsOff: null })
    const held = factsOf(seconds => [0, 200, 300, 200][Math.floor(seconds / 0.5) % 4] + 30 + 25 * Math.sin(2 * Math.PI * 5.5 * seconds))
    expect(held.spoken).toBe(false)
    expect(Math.abs(held.centsOff! - 30)).toBeLessThan(6)
  })
  test('is placed by matching against another pass of the same lines', () => {
    const brought = sung({ pitchSpreadCents: 15, timingSpreadSeconds: 0.015 }, 5).slice(7 * RATE)
    const match = matchTakes(analyseVoice(brought), [{ ...clean, originFrame: 1_000 }])
    expect(match).not.toBeNull()
    expect(Math.abs(match!.originFrame - (1_000 + 7 * RATE))).toBeLessThan(0.025 * RATE)
    const random = makeRandom(8)
    expect(matchTakes(analyseVoice(Float32Array.from({ length: 5 * RATE }, () => 0.05 * gaussian(random))), [{ ...clean, originFrame: 0 }])).toBeNull()
  })
})

describe('into the microphone', () => {
  const level = (voice: Mono) => levelOf(voice, analyseVoice(voice))
  test('a pass 6 dB down, one in a noisier room and one sung from aside are told apart from those before', () => {
    const before = [level(sung()), level(sung({}, 2))]
    expect(compareLevels(level(sung({}, 3)), before)).toEqual([])
    const [quieter] = compareLevels(level(sung({}, 3).map(sample => sample / 2)), before)
    expect(quieter.kind).toBe('quieter')
    expect(Math.abs(quieter.decibels - 6)).toBeLessThan(1.5)
    expect(compareLevels(level(sung({ noiseDbfs: -48 }, 3)), before)).toContainEqual(expect.objectContaining({ kind: 'noisier' }))
    let held = 0
    const dull = sung({}, 3).map(sample => (held += 0.25 * (sample - held)))
    expect(compareLevels(level(dull), before).map(change => change.kind)).toContain('duller')
  })
  test('hum is named with its mains and level, noise alone has none', () => {
    const random = makeRandom(6)
    const room = (mains: number, amplitude: number) =>
      Float32Array.from(
        { length: 3 * RATE },
        (_, i) =>
          0.0005 * gaussian(random) + amplitude * Math.sin((2 * Math.PI * mains * i) / RATE) + 0.4 * amplitude * Math.sin((6 * Math.PI * mains * i) / RATE),
      )
    expect(findHum(room(50, 0))).toBeNull()
    for (const mains of [50, 60]) {
      const hum = findHum(room(mains, 0.004))!
      expect(hum.mainsHz).toBe(mains)
      expect(Math.abs(hum.levelDbfs - 20 * Math.log10(0.004 * Math.SQRT1_2 * Math.hypot(1, 0.4)))).toBeLessThan(1)
    }
  })
  test('a voice in the quiet room is told from hum, noise and silence', () => {
    const random = makeRandom(9)
    const hum = Float32Array.from({ length: 3 * RATE }, (_, i) => 0.001 * gaussian(random) + 0.02 * Math.sin((2 * Math.PI * 100 * i) / RATE))
    expect(checkRoom(hum).voiceHeard).toBe(false)
    expect(checkRoom(hum.map(() => 0.01 * gaussian(random))).voiceHeard).toBe(false)
    expect(checkRoom(new Float32Array(3 * RATE)).voiceHeard).toBe(false)
    const [line] = lines
    const from = Math.round(line.startSeconds * RATE)
    expect(checkRoom(sung().slice(from, from + 3 * RATE)).voiceHeard).toBe(true)
  })
  test('where the machine stalled, the room is as loud as where it was heard; a microphone that is off for most of the time is silent', () => {
    const random = makeRandom(13)
    const room = Float32Array.from({ length: 3 * RATE }, (_, i) => 0.0001 * gaussian(random) + 0.0045 * Math.sin((2 * Math.PI * 50 * i) / RATE))
    const stalled = room.slice()
    // Blocks of 128 frames, from anywhere in them to anywhere.
    for (const [fromSeconds, seconds] of [
      [0, 0.05],
      [0.7, 0.31],
      [2.6, 0.02],
    ] as const)
      stalled.fill(0, fromSeconds * RATE, (fromSeconds + seconds) * RATE)
    const [whole, broken] = [checkRoom(room), checkRoom(stalled)]
    expect(Math.abs(whole.floorDbfs - -49.95)).toBeLessThan(0.1)
    expect(Math.abs(broken.floorDbfs - whole.floorDbfs)).toBeLessThan(0.1)
    expect(broken.hum).toMatchObject({ mainsHz: 50 })
    expect(Math.abs(broken.hum!.levelDbfs - whole.hum!.levelDbfs)).toBeLessThan(0.1)
    expect(broken.voiceHeard).toBe(false)
    expect(broken.unbrokenSeconds).toBeCloseTo(1.59, 1)
    expect(checkRoom(room.fill(0, 0.5 * RATE)).floorDbfs).toBe(-Infinity)
  })
  test('the room’s floor, the loudest peak and pops are measured', () => {
    const random = makeRandom(11)
    const captured = Float32Array.from(
      { length: 3 * RATE },
      (_, i) => 0.001 * gaussian(random) + (i > RATE && i < 2 * RATE ? 0.2 * Math.sin((2 * Math.PI * 300 * i) / RATE) : 0),
    )
    for (const pop of [2.2, 2.6])
      for (let k = 0; k < 2_400; k++) captured[Math.round(pop * RATE) + k] += 0.3 * Math.sin((2 * Math.PI * 45 * k) / RATE) * Math.exp(-k / 900)
    const check = checkRoom(captured)
    expect(Math.abs(check.floorDbfs + 60)).toBeLessThan(1.5)
    expect(check.pops).toBe(2)
    expect(check.clips).toBe(0)
    expect(check.peakDbfs).toBeGreaterThan(-14.5)
  })
})

import { describe, expect, test } from '@jest/globals'
import { compose } from '../../../training/compose'
import { playPlainly } from '../../../training/synth'
import { decibelsBetween } from '../audio/signals.test-kit'
import { mixToMono, type Mono } from '../audio/frames'
import { makeRandom } from '../audio/random'
import { resample } from '../audio/resample'
import { demoChords, demoPart, makeDemoBeat } from '../rehearsal/demo-beat'
import { analyseBeat } from './analyse'
import { chordTones } from './chord-names'
import { LevelMeter, measureLevel } from './level'
import { bestJoinShift, matchBeats, MAX_JOIN_SHIFT_FRAMES } from './match'
import { chordTonesAt, droneTones, scaleTones } from './tones'
import { integratedLufs } from '../loudness/loudness'
import { treat } from './treatments'
import { TREATMENT_KINDS } from './treatment-kinds'

const stereo = makeDemoBeat()
const demo = mixToMono(stereo)
const tone = (hz: number, seconds: number, gain = 0.5): Mono =>
  Float32Array.from({ length: seconds * 48_000 }, (_, i) => gain * Math.sin((2 * Math.PI * hz * i) / 48_000))

describe('chords, sections and swing of the demo beat', () => {
  const { chords, sections, tempo } = analyseBeat([demo])
  test('every bar has the root that was written, most the very chord', () => {
    const chordAt = (beat: number) => chords.find(span => beat >= span.startBeat && beat < span.startBeat + span.beatCount)?.chord
    const right = demoChords().map(({ startBeat, root, quality }) => [
      chordAt(startBeat)?.root === root,
      chordAt(startBeat)?.root === root && chordAt(startBeat)?.quality === quality,
    ])
    expect(right.filter(([root]) => root).length).toBeGreaterThan(37)
    expect(right.filter(([, chord]) => chord).length).toBeGreaterThan(30)
  })
  test('silence after the end moves no part: it belongs to the last one', () => {
    const silent = new Float32Array(demo.length + 12 * 48_000)
    silent.set(demo)
    const longer = analyseBeat([silent]).sections
    expect(longer.map(({ startBar, name }) => [startBar, name])).toEqual(sections.map(({ startBar, name }) => [startBar, name]))
    expect(longer.at(-1)!.barCount).toBeGreaterThan(sections.at(-1)!.barCount + 3)
  })
  test('the parts begin at their bars, alike parts have one letter, and calm ends are intro and outro', () => {
    const starts = sections.map(section => section.startBar)
    for (const bar of [5, 13, 21, 29, 37]) expect(starts).toContain(bar)
    const at = (bar: number) => sections.find(section => bar >= section.startBar && bar < section.startBar + section.barCount)!
    const letterAt = (bar: number) => at(bar).letter
    expect([demoPart(6), demoPart(22)]).toEqual(['verse', 'verse'])
    expect(letterAt(6)).toBe(letterAt(22))
    expect(letterAt(14)).toBe(letterAt(30))
    expect(letterAt(6)).not.toBe(letterAt(14))
    expect([sections[0]!.name, at(6).name, at(14).name, at(22).name, at(30).name, sections.at(-1)!.name]).toEqual([
      'Intro',
      'Verse 1',
      'Hook 1',
      'Verse 2',
      'Hook 2',
      'Outro',
    ])
  })
  test('the off-beats are as late as they were put', () => {
    expect(tempo.readings[0]!.swing).toMatchObject({ unit: 'eighths' })
    expect(Math.abs(tempo.readings[0]!.swing!.ratio - 0.57)).toBeLessThan(0.02)
  })
})

describe('level', () => {
  test('what is cut off, mono in stereo and out of phase are told', () => {
    const clipped = tone(220, 2, 1.4).map(x => Math.max(-1, Math.min(1, x)))
    expect(measureLevel([clipped]).clipped).toHaveLength(1)
    expect(measureLevel([tone(220, 2, 0.99)]).clipped).toEqual([])
    const noise = (() => {
      const random = makeRandom(3)
      return tone(220, 1).map(x => x + 0.1 * random())
    })()
    expect([
      measureLevel([noise, noise]).channels,
      measureLevel([noise, noise.map(x => -x)]).channels,
      measureLevel(stereo.map(plane => plane.slice(0, 480_000))).channels,
    ]).toEqual(['same on both sides', 'out of phase', 'stereo'])
  })
  test('a loud beat is turned down to leave room, a soft one is left alone, silence gives no number', () => {
    expect(measureLevel([tone(1_000, 5, 0.9)]).proposedGainDecibels).toBeLessThan(-10)
    expect(measureLevel([tone(1_000, 5, 0.02)]).proposedGainDecibels).toBe(0)
    expect(measureLevel([new Float32Array(96_000)])).toMatchObject({ proposedGainDecibels: 0, clipped: [] })
  })

  test('is the same in pieces of any length, a cut-off top across two of them included', () => {
    const left = tone(220, 3, 1.2).map(x => Math.max(-0.9, Math.min(0.9, x)))
    const right = left.map(x => -0.5 * x)
    const whole = measureLevel([left, right])
    expect(whole.clipped.length).toBeGreaterThan(0)
    const meter = new LevelMeter(
      2,
      left.reduce((a, b) => Math.max(a, Math.abs(b)), 0),
    )
    for (let at = 0, size = 4; at < left.length; at += size, size = ((size * 5) % 4_096) + 4)
      meter.push([left.subarray(at, at + size), right.subarray(at, at + size)])
    const { clipped, channels, integratedLufs, truePeakDbtp } = meter.read()
    expect({ clipped, channels }).toEqual({ clipped: whole.clipped, channels: 'out of phase' })
    expect(integratedLufs).toBeCloseTo(whole.integratedLufs, 6)
    expect(truePeakDbtp).toBeCloseTo(whole.truePeakDbtp, 6)
  })
})

describe('finding the same beat again', () => {
  const before = demo.slice(0, 30 * 48_000)
  test('a newer file that begins earlier and sounds brighter fits to the frame', () => {
    const after = new Float32Array(40 * 48_000)
    for (let i = 0; i + 12_345 < after.length; i++) after[i + 12_345] = 0.6 * (demo[i]! - 0.5 * (demo[i - 1] ?? 0))
    expect(matchBeats(before, after)).toMatchObject({ kind: 'fits', offsetFrames: expect.any(Number) })
    const { offsetFrames } = matchBeats(before, after) as { offsetFrames: number }
    expect(Math.abs(offsetFrames - 12_345)).toBeLessThanOrEqual(2)
  })
  test('another speed and another beat are refused', () => {
    expect(matchBeats(before, resample(before, 48_000, 48_240)).kind).not.toBe('fits')
    expect(matchBeats(before, playPlainly(compose(91_000), 1)).kind).toBe('does-not-fit')
  })
  test('a join is moved by less than two milliseconds to where the wave runs on', () => {
    const wave = tone(410, 1)
    const outgoing = wave.subarray(10_000, 10_480)
    const incoming = wave.subarray(20_000 - MAX_JOIN_SHIFT_FRAMES, 20_480 + MAX_JOIN_SHIFT_FRAMES)
    const shift = bestJoinShift(outgoing, incoming)
    expect(decibelsBetween(wave.slice(20_000 + shift, 20_480 + shift), outgoing.slice())).toBeLessThan(-20)
    expect(bestJoinShift(outgoing, wave.subarray(10_000 - MAX_JOIN_SHIFT_FRAMES, 10_480 + MAX_JOIN_SHIFT_FRAMES))).toBe(0)
  })
})

describe('treatments', () => {
  const stretch = stereo.map(plane => plane.slice(20 * 48_000, 24 * 48_000))
  test.each(TREATMENT_KINDS)('%s changes the middle, keeps the length, and leaves both ends as they were', kind => {
    const treated = treat(stretch, { kind, amount: 0.8, fadeFrames: 4_800 })
    expect(treated.map(plane => plane.length)).toEqual(stretch.map(plane => plane.length))
    treated.forEach((plane, c) => {
      expect([plane[0], plane.at(-1)]).toEqual([stretch[c]![0], stretch[c]!.at(-1)])
      expect(decibelsBetween(plane.slice(96_000, 100_000), stretch[c]!.slice(96_000, 100_000))).toBeGreaterThan(-20)
      expect(plane.every(Number.isFinite)).toBe(true)
    })
  })
  test.each([0.2, 1])('worn tape at %f is as loud as the beat was, at any level it comes in', amount => {
    for (const gain of [0.05, 1]) {
      const dry = stretch.map(plane => plane.map(sample => gain * sample))
      const wet = treat(dry, { kind: 'worn tape', amount, fadeFrames: 480 })
      expect(integratedLufs(wet)).toBeCloseTo(integratedLufs(dry), 0)
    }
  })
  test('and no colour makes it louder, nor a short or silent stretch anything but finite', () => {
    for (const kind of TREATMENT_KINDS) {
      const wet = treat(stretch, { kind, amount: 1, fadeFrames: 480 })
      expect(integratedLufs(wet)).toBeLessThan(integratedLufs(stretch) + 0.3)
      for (const short of [stretch.map(plane => plane.slice(0, 4_000)), [new Float32Array(48_000)]])
        expect(treat(short, { kind, amount: 1, fadeFrames: 480 }).every(plane => plane.every(Number.isFinite))).toBe(true)
    }
  })
  test('each does what it says: 24 dB softer, no lows, no highs', () => {
    const powerAt = (hz: number, kind: (typeof TREATMENT_KINDS)[number]) => {
      const wet = treat([tone(hz, 2)], { kind, amount: 1, fadeFrames: 100 })[0]!.subarray(24_000, 72_000)
      return 10 * Math.log10(wet.reduce((sum, x) => sum + x * x, 0) / 48_000 / 0.125)
    }
    expect(powerAt(500, 'level')).toBeCloseTo(-24, 1)
    expect(powerAt(200, 'low cut')).toBeLessThan(-40)
    expect(powerAt(3_000, 'low cut')).toBeGreaterThan(-0.5)
    expect(powerAt(6_000, 'far away')).toBeLessThan(-50)
    expect(powerAt(500, 'far away')).toBeGreaterThan(-9)
  })
})

test('scale, chord and drone sound at the beat’s own tuning', () => {
  const loudestHz = (sound: Mono, from: number) => {
    let best = { hz: 0, power: 0 }
    for (let hz = 60; hz < 700; hz += 0.25) {
      let re = 0
      let im = 0
      for (let i = from; i < from + 9_600; i++) {
        re += sound[i]! * Math.cos((2 * Math.PI * hz * i) / 48_000)
        im += sound[i]! * Math.sin((2 * Math.PI * hz * i) / 48_000)
      }
      if (re * re + im * im > best.power) best = { hz, power: re * re + im * im }
    }
    return best.hz
  }
  const cents = (hz: number, wanted: number) => Math.abs(1_200 * Math.log2(hz / wanted))
  expect(cents(loudestHz(scaleTones(5, [0, 2, 3, 5, 7, 8, 10], 30), 2_400), 349.23 * 2 ** (30 / 1_200))).toBeLessThan(5)
  const drone = droneTones(9, -20)
  expect(cents(loudestHz(drone, 0), 110 * 2 ** (-20 / 1_200))).toBeLessThan(5)
  expect(Math.abs(drone[0]! - drone.at(-1)!)).toBeLessThan(0.1)
  expect(chordTonesAt(chordTones({ root: 5, quality: 'minor' }), 0).every(Number.isFinite)).toBe(true)
})

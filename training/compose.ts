/** Composes random beats of many kinds with known answers: what the analysis is fitted on, and never what it is judged by. */
import { gaussian, makeRandom } from '../src/core/audio/random'
import { KITS, type DrumLine, type Kit } from './kits'
import { chordOf, pickProgression, type Chord, type Mode } from './harmony'

export interface Truth {
  style: string
  tempoBpm: number
  meter: [number, number]
  beatsPerBar: number
  firstDownbeatIndex: number
  /** Seconds of every beat. */
  beats: number[]
  tonic: number
  mode: Mode
  tuningCents: number
  drift: number
  /** Chords by their start in seconds. */
  chords: { seconds: number; root: number; quality: Chord['quality'] }[]
  /** Two that play the same over the same chords cannot be told apart, whatever their names. */
  sections: { seconds: number; name: string; plays: string }[]
}

export interface Note {
  seconds: number
  lengthSeconds: number
  channel: number
  pitch: number
  velocity: number
}

export interface Composition {
  truth: Truth
  notes: Note[]
  programs: { channel: number; program: number; volume: number }[]
  seconds: number
  master: Master
}

/** What is done to the sound after the instruments have played. */
export interface Master {
  drive: number
  level: number
  lowPassHz: number | null
  hiss: number
  duck: number
  riser: { fromSeconds: number; toSeconds: number } | null
  fadeOutSeconds: number
  leadSilenceSeconds: number
  /** Where the file is cut to begin, seconds. */
  cutSeconds: number
}

const KEYS = [0, 2, 4, 5, 6, 7, 16, 18, 24, 25, 26, 27, 11, 12, 46]
const PADS = [48, 49, 50, 52, 88, 89, 90, 91, 94, 95, 19, 54]
const LEADS = [0, 11, 73, 75, 80, 81, 65, 56, 13, 40, 79, 108, 104, 107, 22, 9]
const BASSES = [32, 33, 34, 35, 38, 39, 36, 87]

/** @param kits The kinds of beat to choose from. */
export function compose(seed: number, kits = KITS): Composition {
  const random = makeRandom(seed * 7919 + 17)
  const pick = <T>(items: readonly T[]): T => items[Math.floor(random() * items.length)]
  const chance = (p: number) => random() < p
  const between = (low: number, high: number) => low + (high - low) * random()

  const kit = pickWeighted(kits, kit => kit.weight ?? 1, random)
  const tempoBpm = chance(0.5) ? Math.round(between(...kit.tempo)) : Math.round(between(...kit.tempo) * 10) / 10
  const { beatsPerBar } = kit
  const triple = kit.steps % 3 === 0 && kit.steps / beatsPerBar === 3
  const stepsPerBeat = kit.steps / beatsPerBar
  const swing = triple ? 0.5 : chance(kit.swing) ? between(0.53, 0.66) : 0.5
  const jitter = chance(0.4) ? between(0.002, 0.012) : 0
  const drift = chance(0.1) ? between(0.01, 0.05) * (chance(0.5) ? 1 : -1) : 0
  const driftShape = pick(['line', 'wave'] as const)
  const tuningCents = chance(0.3) ? Math.round(between(-45, 45)) : 0
  const tonic = Math.floor(random() * 12)
  const mode: Mode = chance(kit.minor) ? 'minor' : 'major'
  const progression = pickProgression(random, mode)
  const hookProgression = chance(0.3) ? pickProgression(random, mode) : progression
  const chordBeats =
    pickWeighted(
      CHORD_BARS.filter(bars => Number.isInteger(bars * beatsPerBar)),
      bars => chordLengthWeight(bars, (bars * beatsPerBar * 60) / tempoBpm),
      random,
    ) * beatsPerBar
  const pickupBeats = chance(0.15) ? 1 + Math.floor(random() * (beatsPerBar - 1)) : 0

  // Sections, in bars, until a little under a minute is full.
  const targetSeconds = between(38, 58)
  const barSeconds = (60 / tempoBpm) * beatsPerBar
  const drumless = kit.drumless ?? false
  const claps = pick([0, 0.3, 0.9])
  type Section = {
    name: string
    bars: number
    drums: 'full' | 'half' | 'hats' | 'none' | 'claps'
    bass: boolean
    chords: boolean
    melody: boolean
    pad: boolean
  }
  const sections: Section[] = []
  const unit = barSeconds > 3 ? pick([2, 4, 6]) : pick([4, 8, 8])
  if (chance(0.6))
    sections.push({
      name: 'intro',
      bars: pick([2, 4, unit]),
      drums: chance(0.25) ? 'hats' : chance(0.1) ? 'claps' : chance(0.15) ? 'full' : 'none',
      bass: chance(0.15),
      chords: true,
      melody: chance(0.35),
      pad: chance(0.3),
    })
  const body = ['verse', 'hook', chance(0.25) ? 'bridge' : 'verse', 'hook', 'verse']
  let bars = sections.reduce((sum, s) => sum + s.bars, 0)
  for (const name of body) {
    if (bars * barSeconds > targetSeconds - 4) break
    const length = pick([unit, unit, Math.max(2, unit / 2)])
    sections.push({
      name,
      bars: length,
      drums: drumless ? (chance(claps) ? 'claps' : 'none') : name === 'bridge' ? pick(['half', 'none', 'hats'] as const) : chance(0.1) ? 'hats' : 'full',
      bass: !(drumless && chance(0.5)) && !chance(0.06),
      chords: !chance(0.05),
      melody: name !== 'verse' || chance(0.2),
      pad: name === 'hook' && chance(0.4),
    })
    bars += length
  }
  if (chance(0.3)) {
    sections.push({
      name: 'outro',
      bars: pick([1, 2, 4]),
      drums: pick(['none', 'none', 'full'] as const),
      bass: chance(0.2),
      chords: true,
      melody: false,
      pad: chance(0.3),
    })
    bars += sections.at(-1)!.bars
  }
  const finalChord = chance(0.6)
  const totalBeats = pickupBeats + bars * beatsPerBar + (finalChord ? beatsPerBar : 0)

  // Time: a beat's seconds, with the drift.
  const beatTimes = [0]
  for (let beat = 0; beat < totalBeats + 8; beat++) {
    const at = beat / totalBeats
    const bend = driftShape === 'line' ? drift * (at - 0.5) : 0.5 * drift * Math.sin(2 * Math.PI * at * 1.5)
    beatTimes.push(beatTimes[beat] + 60 / (tempoBpm * (1 + bend)))
  }
  const timeAt = (beat: number) => {
    const whole = Math.max(0, Math.min(beatTimes.length - 2, Math.floor(beat)))
    return beatTimes[whole] + (beat - whole) * (beatTimes[whole + 1] - beatTimes[whole])
  }

  const notes: Note[] = []
  const play = (channel: number, beat: number, lengthBeats: number, pitch: number, velocity: number, spread = jitter) => {
    const seconds = Math.max(0, timeAt(beat) + (spread ? spread * gaussian(random) : 0))
    notes.push({
      seconds,
      lengthSeconds: Math.max(0.04, timeAt(beat + lengthBeats) - timeAt(beat)),
      channel,
      pitch: Math.round(pitch),
      velocity: Math.max(1, Math.min(127, Math.round(velocity + 6 * gaussian(random)))),
    })
  }
  const stepBeat = (step: number) => {
    const beat = step / stepsPerBeat
    if (swing === 0.5 || stepsPerBeat !== 4) return beat
    // Swing moves every second sixteenth (or eighth, for slow feels) late.
    return kit.swingEighths ? Math.floor(beat) + swingAt(beat - Math.floor(beat), swing) : Math.floor(beat * 2) / 2 + swingAt((beat * 2) % 1, swing) / 2
  }

  // The drums: one fixed choice a song, with small changes by bar.
  const variant = chooseVariant(kit, random)
  const hatVelocity = between(45, 95)
  const playDrums = (beat: number, bar: number, part: Section['drums'], lastOfSection: boolean) => {
    if (part === 'none') return
    for (const { pitch, pattern, role, velocity } of variant) {
      if (part === 'hats' && role !== 'hat') continue
      if (part === 'claps' && role !== 'snare' && role !== 'extra') continue
      const text = pattern[bar % pattern.length]
      for (let step = 0; step < kit.steps; step++) {
        let mark = text[step]
        if (part === 'half' && beatsPerBar === 4 && role === 'snare') mark = step === kit.steps / 2 ? 'x' : '.'
        if (part === 'half' && role === 'kick' && step > kit.steps / 4 && chance(0.7)) mark = '.'
        if (mark === '.' && role === 'kick' && chance(0.02)) mark = 'o'
        if (mark !== '.' && step > 0 && chance(0.02)) mark = '.'
        if (mark === '.') continue
        const loud = (mark === 'x' ? 1 : 0.6) * (role === 'hat' ? hatVelocity : velocity)
        play(9, beat + stepBeat(step), 0.2, pitch, loud)
        // Rolls: a hat step split in two or three.
        if (role === 'hat' && kit.rolls && chance(0.06))
          for (let k = 1; k < 3; k++) play(9, beat + stepBeat(step) + (k / 3) * (1 / stepsPerBeat), 0.1, pitch, loud * 0.8)
      }
    }
    if (lastOfSection && part === 'full' && chance(0.5))
      for (let k = 0; k < 4; k++) if (chance(0.8)) play(9, beat + beatsPerBar - 1 + k / 4, 0.2, pick([38, 45, 47, 50, 38]), between(70, 110))
  }

  const chordProgram = kit.drumless ? pick([...KEYS, ...PADS, 46, 48]) : pick(chance(0.75) ? KEYS : PADS)
  const chordStyle = kit.drumless
    ? pick(['hold', 'hold', 'arpeggio', 'arpeggio', 'strum'] as const)
    : pick(['hold', 'hold', 'stabs', 'arpeggio', 'strum', 'offbeat'] as const)
  const stabSteps = Array.from({ length: kit.steps }, (_, step) => (step === 0 ? chance(0.85) : step % stepsPerBeat === 0 ? chance(0.3) : chance(0.14)))
  const bassSteps = Array.from({ length: kit.steps }, (_, step) => (step === 0 ? chance(0.92) : step % stepsPerBeat === 0 ? chance(0.3) : chance(0.12)))
  const bassFollowsKick = chance(0.4)
  const bassHolds = chance(0.4)
  const octave = 48 + 12 * Math.floor(between(0, 1.6))
  const restrikes = pick([0, 0, 0.3, 1])
  const inversion = Math.floor(random() * 3)
  const arpeggioStep = pick([1, 2]) / (triple ? 3 : 4)
  const scale = mode === 'major' ? [0, 2, 4, 5, 7, 9, 11] : [0, 2, 3, 5, 7, 8, 10]
  const melodyRhythm = Array.from({ length: kit.steps * 2 }, (_, step) => chance(step % stepsPerBeat === 0 ? 0.55 : step % 2 === 0 || triple ? 0.3 : 0.1))
  const melodyDegrees = melodyRhythm.map(() => Math.floor(between(0, 8)))

  const chords: Truth['chords'] = []
  const sectionTimes: Truth['sections'] = []
  const kicks = variant.find(line => line.role === 'kick')
  let bar = 0
  if (pickupBeats > 0) {
    const what = chance(0.5) ? 'drums' : 'melody'
    for (let k = 0; k < pickupBeats; k++) {
      if (what === 'drums') play(9, k, 0.2, pick([38, 42, 39, 47]), 90)
      else play(3, k + (chance(0.3) ? 0.5 : 0), 0.8, tonic + 60 + pick(scale), 85)
    }
    if (chance(0.5)) play(1, 0, pickupBeats, tonic + 36 + (chance(0.7) ? 7 : 0), 80)
  }
  sections.forEach((section, index) => {
    const loop = section.name === 'hook' ? hookProgression : progression
    const { drums, bass, chords: comping, melody, pad } = section
    sectionTimes.push({
      seconds: timeAt(pickupBeats + bar * beatsPerBar),
      name: section.name,
      plays: JSON.stringify([drums, bass, comping, melody, pad, comping || bass || pad ? loop : null]),
    })
    for (let inSection = 0; inSection < section.bars; inSection++, bar++) {
      const beat = pickupBeats + bar * beatsPerBar
      playDrums(beat, bar, section.drums, inSection === section.bars - 1)
      if (inSection === 0 && index > 0 && section.drums === 'full' && chance(0.4)) play(9, beat, 1, 49, 100)
      const changes = Math.max(1, beatsPerBar / chordBeats)
      for (let change = 0; change < changes; change++) {
        const chordIndex = Math.floor((inSection * beatsPerBar + change * (beatsPerBar / changes)) / chordBeats)
        const chord = chordOf(loop[chordIndex % loop.length], tonic, mode)
        const startsHere = (inSection * beatsPerBar) % chordBeats === 0 || changes > 1
        const at = beat + change * (beatsPerBar / changes)
        const length = changes > 1 ? beatsPerBar / changes : beatsPerBar
        if (startsHere) chords.push({ seconds: timeAt(at), root: chord.root, quality: chord.quality })
        const pitches = chord.pitches.map((pitch, i) => octave + ((pitch + (i < inversion ? 12 : 0)) % 24))
        if (section.chords) playChord(pitches, at, length, Math.min(startsHere ? chordBeats : length, (section.bars - inSection) * beatsPerBar), startsHere)
        if (section.pad && (startsHere || inSection === 0)) pitches.forEach(pitch => play(4, at, Math.max(length, chordBeats), pitch + 12, 60, 0))
        if (section.bass) playBass(chord.root, at, length, change * (kit.steps / changes), bar)
      }
      if (section.melody) playMelody(beat, bar)
    }
  })
  if (finalChord) {
    const at = pickupBeats + bar * beatsPerBar
    const chord = chordOf({ degree: 0, quality: mode === 'major' ? 'maj' : 'min' }, tonic, mode)
    chords.push({ seconds: timeAt(at), root: chord.root, quality: chord.quality })
    sectionTimes.push({ seconds: timeAt(at), name: 'end', plays: 'end' })
    chord.pitches.forEach(pitch => play(0, at, beatsPerBar, octave + pitch, 85))
    play(1, at, beatsPerBar, 36 + chord.root, 90)
    if (!drumless && chance(0.5)) play(9, at, 1, 36, 100)
  }

  function playChord(pitches: number[], at: number, length: number, hold: number, fresh: boolean): void {
    if (chordStyle === 'hold') {
      if (fresh || chance(restrikes)) pitches.forEach(pitch => play(0, at, hold, pitch, 75))
    } else if (chordStyle === 'arpeggio') {
      for (let t = 0, k = 0; t < length - 1e-6; t += arpeggioStep, k++)
        play(0, at + t, arpeggioStep * 1.5, pitches[k % pitches.length] + (k % (pitches.length * 2) >= pitches.length ? 12 : 0), k === 0 ? 88 : 70)
    } else if (chordStyle === 'offbeat') {
      for (let t = 0.5; t < length; t += 1) pitches.forEach(pitch => play(0, at + t, 0.35, pitch, 78))
      if (chance(0.4)) pitches.forEach(pitch => play(0, at, 0.4, pitch, 60))
    } else {
      const steps = Math.round(length * stepsPerBeat)
      const from = Math.round((at - pickupBeats) * stepsPerBeat) % kit.steps
      for (let step = 0; step < steps; step++) {
        if (!stabSteps[(from + step) % kit.steps] && !(fresh && step === 0)) continue
        pitches.forEach((pitch, i) =>
          play(0, at + stepBeat(step) + (chordStyle === 'strum' ? i * 0.02 : 0), chordStyle === 'strum' ? 1 : 0.4, pitch, step === 0 ? 86 : 72),
        )
      }
    }
  }
  function playBass(root: number, at: number, length: number, fromStep: number, atBar: number): void {
    const pitch = 28 + ((root - 4 + 12) % 12) + (kit.highBass ? 12 : 0)
    const steps = Math.round(length * stepsPerBeat)
    const kickText = kicks?.pattern[atBar % kicks.pattern.length]
    for (let step = 0; step < steps; step++) {
      const on =
        step === 0 ? bassSteps[0] : bassFollowsKick && kickText ? kickText[(fromStep + step) % kit.steps] === 'x' : bassSteps[(fromStep + step) % kit.steps]
      if (!on) continue
      let next = step + 1
      while (next < steps && !(bassFollowsKick && kickText ? kickText[(fromStep + next) % kit.steps] === 'x' : bassSteps[(fromStep + next) % kit.steps])) next++
      const fifth = step > 0 && chance(0.15) ? 7 : step > 0 && chance(0.1) ? 12 : 0
      play(1, at + stepBeat(step), bassHolds ? (next - step) / stepsPerBeat : Math.min(0.5, (next - step) / stepsPerBeat), pitch + fifth, 95)
    }
  }
  function playMelody(beat: number, atBar: number): void {
    for (let step = 0; step < kit.steps; step++) {
      const index = (atBar % 2) * kit.steps + step
      if (!melodyRhythm[index]) continue
      const degree = melodyDegrees[index]
      play(3, beat + stepBeat(step), 0.9 / Math.min(2, stepsPerBeat / 2), tonic + 60 + scale[degree % 7] + 12 * Math.floor(degree / 7), 82)
    }
  }

  const musicSeconds = timeAt(totalBeats) + 1
  const firstDrums = sections.findIndex(section => section.drums === 'full')
  const firstDrumsAt = firstDrums > 0 ? sectionTimes[firstDrums].seconds : 0
  const lead = chance(0.12) ? between(0.1, 1.5) : 0
  const cut = chance(0.4) ? between(0.5, 13) : 0
  const master: Master = {
    drive: chance(0.35) ? between(1.5, 6) : 1,
    level: between(0.1, 0.95),
    lowPassHz: chance(0.15) ? between(2_500, 8_000) : null,
    hiss: chance(0.15) ? between(0.001, 0.006) : 0,
    duck: chance(0.12) ? between(0.4, 0.9) : 0,
    riser: firstDrumsAt > 4 && chance(0.3) ? { fromSeconds: Math.max(0, firstDrumsAt - barSeconds * pick([1, 2, 4, 8])), toSeconds: firstDrumsAt } : null,
    fadeOutSeconds: chance(0.25) ? between(2, 8) : 0,
    leadSilenceSeconds: cut > 0 ? 0 : lead,
    cutSeconds: cut,
  }
  const shift = master.leadSilenceSeconds - master.cutSeconds
  const beats = Array.from({ length: totalBeats }, (_, beat) => timeAt(beat) + shift)
  const dropped = beats.filter(seconds => seconds < -1e-9).length
  const firstKept = dropped
  let firstDownbeatIndex = 0
  while ((firstKept + firstDownbeatIndex - pickupBeats) % beatsPerBar !== 0 || firstKept + firstDownbeatIndex < pickupBeats) firstDownbeatIndex++
  return {
    notes,
    seconds: musicSeconds,
    programs: [
      { channel: 0, program: chordProgram, volume: between(60, 115) },
      { channel: 1, program: kit.drumless && chance(0.5) ? 32 : pick(BASSES), volume: between(70, 120) },
      { channel: 3, program: pick(LEADS), volume: between(50, 105) },
      { channel: 4, program: pick(PADS), volume: between(50, 90) },
      { channel: 9, program: pick([0, 0, 8, 16, 24, 25, 25, 32]), volume: between(75, 125) },
    ],
    master,
    truth: {
      style: kit.name,
      tempoBpm: ((totalBeats - 1) * 60) / (timeAt(totalBeats - 1) - timeAt(0)),
      meter: kit.meter,
      beatsPerBar,
      firstDownbeatIndex,
      beats: beats.slice(dropped),
      tonic,
      mode,
      tuningCents,
      drift,
      chords: chords.map(chord => ({ ...chord, seconds: chord.seconds + shift })),
      sections: sectionTimes.map(section => ({ ...section, seconds: section.seconds + shift })),
    },
  }
}

/** How long a chord may last, in bars. */
const CHORD_BARS = [0.5, 1, 2, 4]

/** Chords change with the bar most often, and about every two and a half seconds whatever the tempo. */
function chordLengthWeight(bars: number, seconds: number): number {
  return (bars === 1 ? 2 : bars === 4 ? 0.3 : 1) * Math.exp(-0.5 * (Math.log2(seconds / 2.5) / 0.8) ** 2)
}

function pickWeighted<T>(items: readonly T[], weightOf: (item: T) => number, random: () => number): T {
  let left = random() * items.reduce((sum, item) => sum + weightOf(item), 0)
  return items.find(item => (left -= weightOf(item)) < 0) ?? items[items.length - 1]
}

function swingAt(fraction: number, swing: number): number {
  return fraction < 0.5 ? fraction * 2 * swing : swing + (fraction - 0.5) * 2 * (1 - swing)
}

function chooseVariant(kit: Kit, random: () => number): (DrumLine & { pitch: number; pattern: string[] })[] {
  return kit.lines
    .filter(line => line.role !== 'extra' || random() < 0.4)
    .map(line => {
      const first = line.patterns[Math.floor(random() * line.patterns.length)]
      const second = random() < 0.4 ? line.patterns[Math.floor(random() * line.patterns.length)] : first
      const changed = line.role !== 'snare' && random() < 0.35 ? [first, second].map(pattern => changeSteps(pattern, random)) : [first, second]
      return { ...line, pitch: line.pitches[Math.floor(random() * line.pitches.length)], pattern: changed, velocity: line.velocity }
    })
}

/** A pattern with one or two of its steps, never the first, turned over: nobody's drums are all in a list. */
function changeSteps(pattern: string, random: () => number): string {
  const steps = [...pattern]
  for (let change = random() < 0.5 ? 1 : 2; change > 0; change--) {
    const at = 1 + Math.floor(random() * (steps.length - 1))
    steps[at] = steps[at] === '.' ? 'x' : '.'
  }
  return steps.join('')
}

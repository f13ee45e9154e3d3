/** The demo song's beat, synthesised: swung drums, a round bass, soft keys. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { makeRandom } from '../audio/random'
import { frameOfBeat, framesPerBeat, type Grid } from '../beat/grid'
import type { ChordName } from '../beat/chord-names'
import type { Key } from '../beat/key-names'

export const DEMO_GRID: Grid = { tempoBpm: 92.6, barOneFrame: 17_904, beatsPerBar: 4, beatUnit: 'quarter', map: null }
export const DEMO_KEY: Key = { tonic: 'F', mode: 'minor' }
export const DEMO_BARS = 40
/** Off-beat eighths come this far into the beat: 0.5 is straight. */
const SWING = 0.57

/** Chords of one bar each, as MIDI notes: Fm9, Dbmaj7, Abmaj7, Eb6 (verse); the hook goes by way of Bbm7. */
const VERSE_CHORDS = [
  [53, 60, 63, 67, 68],
  [49, 56, 60, 65],
  [56, 60, 63, 67],
  [51, 58, 63, 67, 72],
]
const HOOK_CHORDS = [
  [49, 56, 60, 65, 68],
  [51, 58, 63, 67],
  [53, 60, 63, 68],
  [46, 58, 61, 65, 68],
]
const VERSE_ROOTS = [41, 37, 44, 39]
const HOOK_ROOTS = [37, 39, 41, 34]

type Part = 'intro' | 'verse' | 'hook' | 'outro'

/** Which part a bar (from 1) belongs to: four bars of intro, then verse and hook twice, eight bars each, then the outro. */
export function demoPart(bar: number): Part {
  if (bar < 5) return 'intro'
  if (bar > 36) return 'outro'
  return Math.floor((bar - 5) / 8) % 2 === 0 ? 'verse' : 'hook'
}

const VERSE_NAMES: ChordName[] = [
  { root: 5, quality: 'minor' },
  { root: 1, quality: 'major seventh' },
  { root: 8, quality: 'major seventh' },
  { root: 3, quality: 'major' },
]
const HOOK_NAMES: ChordName[] = [
  { root: 1, quality: 'major seventh' },
  { root: 3, quality: 'major' },
  { root: 5, quality: 'minor seventh' },
  { root: 10, quality: 'minor seventh' },
]

/** The chord of every bar, by name. */
export function demoChords(): ({ startBeat: number; beatCount: number } & ChordName)[] {
  return Array.from({ length: DEMO_BARS }, (_, bar) => ({
    startBeat: 4 * bar,
    beatCount: 4,
    ...(demoPart(bar + 1) === 'hook' ? HOOK_NAMES : VERSE_NAMES)[bar % 4],
  }))
}

/** Left and right, 16 bits deep, about 105 s; always the same samples. */
export function makeDemoBeat(): [Mono, Mono] {
  const frames = frameOfBeat(DEMO_GRID, DEMO_BARS * 4) + 2 * SAMPLE_RATE_HZ
  const left = new Float32Array(frames)
  const right = new Float32Array(frames)
  const random = makeRandom(1_966)
  const beatFrames = framesPerBeat(DEMO_GRID)
  const put = (sound: Mono, frame: number, gain: number, pan = 0) => {
    for (let i = 0; i < sound.length && frame + i < frames; i++) {
      left[frame + i] += sound[i] * gain * Math.min(1, 1 - pan)
      right[frame + i] += sound[i] * gain * Math.min(1, 1 + pan)
    }
  }
  const key = remember(makeKey)
  const bass = remember(makeBass)
  const kick = makeKick()
  const snare = makeSnare(random)
  const hats = [makeHat(random, 0.045), makeHat(random, 0.045), makeHat(random, 0.22)]
  // A pickup: two soft keys before bar one.
  put(key(65, 0.5), frameOfBeat(DEMO_GRID, -0.5), 0.1, 0.2)
  for (let bar = 1; bar <= DEMO_BARS; bar++) {
    const part = demoPart(bar)
    const inPart = (bar - 1) % 4
    const chord = (part === 'hook' ? HOOK_CHORDS : VERSE_CHORDS)[inPart]
    const root = (part === 'hook' ? HOOK_ROOTS : VERSE_ROOTS)[inPart]
    const at = (beat: number) => {
      const whole = Math.floor(beat * 2) / 2
      const swung = whole % 1 === 0.5 ? Math.floor(whole) + SWING : whole
      return frameOfBeat(DEMO_GRID, (bar - 1) * 4 + swung)
    }
    chord.forEach((midi, i) => put(key(midi, (3.9 * beatFrames) / SAMPLE_RATE_HZ), at(0) + i * 260, 0.085, (i - 2) * 0.18))
    if (part === 'hook') chord.slice(1).forEach((midi, i) => put(key(midi + 12, 0.6), at(2.5) + i * 120, 0.04, 0.3 - i * 0.2))
    if (bar === DEMO_BARS) break
    if (part !== 'intro' || bar > 2)
      for (const beat of [0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5])
        put(hats[beat === 3.5 && bar % 4 === 0 ? 2 : (beat * 2) % 2], at(beat), beat % 1 === 0 ? 0.11 : 0.07, 0.25)
    if (part === 'intro' || part === 'outro') {
      if (bar > 2) put(kick, at(0), 0.5)
      continue
    }
    for (const beat of part === 'hook' ? [0, 1.5, 2.5] : [0, 2.5]) put(kick, at(beat), beat === 0 ? 0.62 : 0.5)
    for (const beat of [1, 3]) put(snare, at(beat), 0.34, -0.06)
    put(bass(root, (1.3 * beatFrames) / SAMPLE_RATE_HZ), at(0), 0.34)
    put(bass(root, (0.45 * beatFrames) / SAMPLE_RATE_HZ), at(1.5), 0.26)
    put(bass(bar % 2 === 0 ? root + 7 : root, (1.2 * beatFrames) / SAMPLE_RATE_HZ), at(2.5), 0.3)
  }
  return [quantise(left), quantise(right)]
}

function quantise(plane: Mono): Mono {
  return plane.map(sample => Math.max(-32_768, Math.min(32_767, Math.round(Math.tanh(sample * 1.15) * 29_000))) / 32_768)
}

function tone(seconds: number, at: (t: number) => number): Mono {
  return Float32Array.from({ length: Math.round(seconds * SAMPLE_RATE_HZ) }, (_, i) => at(i / SAMPLE_RATE_HZ))
}

const hzOf = (midi: number) => 440 * 2 ** ((midi - 69) / 12)

function makeKick(): Mono {
  return tone(0.32, t => Math.sin(2 * Math.PI * (48 * t + 5.2 * (1 - Math.exp(-t * 28)))) * Math.exp(-t * 11) + 0.25 * Math.exp(-t * 900) * Math.sin(9_000 * t))
}

function makeSnare(random: () => number): Mono {
  let before = 0
  return tone(0.24, t => {
    const white = 2 * random() - 1
    const bright = white - 0.6 * before
    before = white
    return (0.55 * bright * Math.exp(-t * 19) + 0.5 * Math.sin(2 * Math.PI * 188 * t) * Math.exp(-t * 30)) * Math.min(1, t * 4_000)
  })
}

function makeHat(random: () => number, seconds: number): Mono {
  let before = 0
  let beforeThat = 0
  return tone(seconds * 3, t => {
    const white = 2 * random() - 1
    const bright = white - 2 * before + beforeThat
    beforeThat = before
    before = white
    return 0.3 * bright * Math.exp((-t / seconds) * 2.2)
  })
}

function makeBass(midi: number, seconds: number): Mono {
  const hz = hzOf(midi)
  return tone(seconds + 0.05, t => {
    const envelope = Math.min(1, t * 180) * Math.exp(-t * 1.1) * Math.min(1, Math.max(0, (seconds + 0.05 - t) * 30))
    return envelope * Math.tanh(1.4 * Math.sin(2 * Math.PI * hz * t) + 0.35 * Math.sin(4 * Math.PI * hz * t))
  })
}

/** Notes come back many times: each length and pitch is made once a beat. */
function remember(make: (midi: number, seconds: number) => Mono): (midi: number, seconds: number) => Mono {
  const made = new Map<string, Mono>()
  return (midi, seconds) => {
    const key = `${midi}/${seconds}`
    const sound = made.get(key) ?? make(midi, seconds)
    made.set(key, sound)
    return sound
  }
}

/** An electric piano: a sine whose second, a fourteenth above, colours the attack. */
function makeKey(midi: number, seconds: number): Mono {
  const hz = hzOf(midi)
  return tone(seconds + 0.25, t => {
    const envelope = Math.min(1, t * 120) * Math.exp(-t * 0.9) * Math.min(1, Math.max(0, (seconds + 0.25 - t) * 5))
    const colour = 1.1 * Math.exp(-t * 3.2) + 0.15
    const tremolo = 1 + 0.12 * Math.sin(2 * Math.PI * 4.3 * t)
    return envelope * tremolo * Math.sin(2 * Math.PI * hz * t + colour * Math.sin(2 * Math.PI * hz * 2.001 * t) * 0.55)
  })
}

/** Chord loops for composed beats. */
export type Mode = 'major' | 'minor'

export interface Step {
  /** Semitones above the tonic. */
  degree: number
  quality: Chord['quality']
}

export interface Chord {
  /** 0..11, C = 0. */
  root: number
  quality: 'maj' | 'min' | 'maj7' | 'min7' | 'dom7' | 'sus4' | 'dim'
  /** Semitones from C. */
  pitches: number[]
}

const SHAPES: Record<Chord['quality'], number[]> = {
  maj: [0, 4, 7],
  min: [0, 3, 7],
  maj7: [0, 4, 7, 11],
  min7: [0, 3, 7, 10],
  dom7: [0, 4, 7, 10],
  sus4: [0, 5, 7],
  dim: [0, 3, 6],
}

const MAJOR_LOOPS = [
  'I V vi IV',
  'vi IV I V',
  'I vi IV V',
  'IV I V vi',
  'I IV',
  'I IV vi V',
  'I iii IV V',
  'I bVII IV I',
  'IV V iii vi',
  'I IV iv I',
  'ii V I I',
  'Imaj7 vi7 ii7 V7',
  'Imaj7 IVmaj7',
  'IVmaj7 iii7 ii7 Imaj7',
  'ii7 V7 Imaj7 vi7',
  'I I IV V',
  'I ii IV I',
  'V IV I I',
  'I V IV V',
  'vi V IV V',
  'IV vi I V',
  'I7 I7 IV7 V7',
  'I bVII',
  'I',
  'I Isus4',
  'iii vi ii V',
  'I III vi IV',
  'IV iv I I',
]
const MINOR_LOOPS = [
  'i bVI bIII bVII',
  'i iv',
  'i bVII bVI V',
  'i bVI',
  'i iv V i',
  'i bVI iv V',
  'bVI bVII i i',
  'i v bVI iv',
  'i7 IV7',
  'iv bVII i V',
  'i bII',
  'i',
  'i i bVI V',
  'i bVII bVI bVI',
  'i bIII bVII iv',
  'i7 iv7 v7 i7',
  'iv i V i',
  'i bVI bVII v',
  'bVI bVII i bIII',
  'i i iv i',
  'i7 bVImaj7',
  'i iv bVII bIII',
  'bVImaj7 bVII i7 i7',
  'i bVII iv bVI',
  'i V',
  'iidim V i i',
  'iv bVI i bVII',
  'i bVII',
]
const ROMAN: Record<string, number> = { I: 0, II: 2, III: 4, IV: 5, V: 7, VI: 9, VII: 11 }

export function pickProgression(random: () => number, mode: Mode): Step[] {
  const loops = mode === 'major' ? MAJOR_LOOPS : MINOR_LOOPS
  const loop = loops[Math.floor(random() * loops.length)].split(' ').map(parseStep)
  const sevenths = random() < 0.2
  return loop.map(step =>
    sevenths && step.quality === 'maj'
      ? { ...step, quality: 'maj7' as const }
      : sevenths && step.quality === 'min'
        ? { ...step, quality: 'min7' as const }
        : step,
  )
}

/** "bVII", "ii7", "IVmaj7", "iidim"; case gives the third. */
function parseStep(text: string): Step {
  const [, flat, numeral, rest] = /^(b?)([ivIV]+)(.*)$/.exec(text)!
  const major = numeral === numeral.toUpperCase()
  // In minor loops the numerals without a flat are those of the major scale's degrees that both modes share.
  const degree = (ROMAN[numeral.toUpperCase()] - (flat ? 1 : 0) + 12) % 12
  const quality =
    rest === 'maj7' ? 'maj7' : rest === '7' ? (major ? 'dom7' : 'min7') : rest === 'dim' ? 'dim' : rest === 'sus4' ? 'sus4' : major ? 'maj' : 'min'
  return { degree, quality }
}

export function chordOf(step: Step, tonic: number, _mode: Mode): Chord {
  const root = (tonic + step.degree) % 12
  return { root, quality: step.quality, pitches: SHAPES[step.quality].map(interval => root + interval) }
}

/** From spelled words to the sounds a small synthetic voice can sing. English spelling, roughly; it need not fool anyone. */

/** The first four resonances of the mouth, in hertz. */
export type Formants = readonly [number, number, number, number]

export interface Vowel {
  kind: 'vowel'
  from: Formants
  /** Where a diphthong ends; the same for a plain vowel. */
  to: Formants
}

export interface Consonant {
  kind: 'voiced' | 'fricative' | 'stop' | 'breathy'
  seconds: number
  formants: Formants | null
  /** Linear amplitudes. */
  voicing: number
  noise: number
  noiseHz: number
  noiseBandwidthHz: number
}

export interface Syllable {
  text: string
  onset: Consonant[]
  vowel: Vowel
  coda: Consonant[]
}

/** Formants of sung vowels, between a low and a high voice (after Peterson and Barney 1952, rounded). */
const V = {
  i: [300, 2_450, 3_050, 3_700],
  I: [420, 2_150, 2_750, 3_650],
  e: [560, 2_000, 2_700, 3_600],
  ae: [760, 1_800, 2_600, 3_600],
  a: [820, 1_250, 2_650, 3_600],
  o: [560, 900, 2_650, 3_500],
  u: [350, 900, 2_500, 3_450],
  uh: [660, 1_300, 2_600, 3_550],
  er: [500, 1_400, 1_850, 3_400],
} satisfies Record<string, Formants>

const vowel = (from: Formants, to: Formants = from): Vowel => ({ kind: 'vowel', from, to })

/** Longest spellings first. */
const VOWEL_SPELLINGS: [RegExp, Vowel][] = [
  [/^(igh|eye|ie$|y$)/, vowel(V.a, V.I)],
  [/^(ee|ea|ey$)/, vowel(V.i)],
  [/^(ai|ay|ei)/, vowel(V.e, V.I)],
  [/^(oo|ew|ue)/, vowel(V.u)],
  [/^(oa|ow|oe)/, vowel(V.o, V.u)],
  [/^(ou)/, vowel(V.a, V.u)],
  [/^(aw|au|or|oar)/, vowel(V.o)],
  [/^(er|ir|ur)/, vowel(V.er)],
  [/^(ar)/, vowel(V.a)],
  [/^a/, vowel(V.ae)],
  [/^e/, vowel(V.e)],
  [/^i/, vowel(V.I)],
  [/^o/, vowel(V.o)],
  [/^u/, vowel(V.uh)],
  [/^y/, vowel(V.i)],
]
const LONG: Record<string, Vowel> = { a: vowel(V.e, V.I), e: vowel(V.i), i: vowel(V.a, V.I), o: vowel(V.o, V.u), u: vowel(V.u), y: vowel(V.a, V.I) }

const voiced = (formants: Formants, seconds = 0.07, voicing = 0.45): Consonant => ({
  kind: 'voiced',
  seconds,
  formants,
  voicing,
  noise: 0,
  noiseHz: 0,
  noiseBandwidthHz: 1,
})
const fricative = (noiseHz: number, noiseBandwidthHz: number, noise: number, seconds = 0.1, voicing = 0): Consonant => ({
  kind: 'fricative',
  seconds,
  formants: null,
  voicing,
  noise,
  noiseHz,
  noiseBandwidthHz,
})
const stop = (noiseHz: number, noise: number, voicing = 0): Consonant => ({
  kind: 'stop',
  seconds: 0.075,
  formants: null,
  voicing,
  noise,
  noiseHz,
  noiseBandwidthHz: noiseHz * 0.6,
})

const ESS = fricative(6_800, 2_600, 0.3, 0.12)
const K = stop(2_000, 0.5)
const CONSONANT_SPELLINGS: [RegExp, Consonant[]][] = [
  [/^sh/, [fricative(3_300, 1_500, 0.28, 0.11)]],
  [/^(ch|tch)/, [stop(3_500, 0.2), fricative(3_300, 1_500, 0.25, 0.07)]],
  [/^ck/, [K]],
  [/^qu/, [K, voiced([300, 650, 2_200, 3_300], 0.05)]],
  [/^th/, [fricative(6_000, 5_000, 0.08, 0.07, 0.1)]],
  [/^ph/, [fricative(6_500, 6_000, 0.12)]],
  [/^ng/, [voiced([280, 1_300, 2_300, 3_300])]],
  [/^(gh|wh)/, []],
  [/^c(?=[eiy])/, [ESS]],
  [/^s/, [ESS]],
  [/^z/, [fricative(6_800, 2_600, 0.2, 0.09, 0.15)]],
  [/^x/, [K, ESS]],
  [/^f/, [fricative(6_500, 6_000, 0.12)]],
  [/^v/, [fricative(6_000, 6_000, 0.07, 0.06, 0.25)]],
  [/^h/, [{ kind: 'breathy', seconds: 0.06, formants: null, voicing: 0, noise: 0.12, noiseHz: 0, noiseBandwidthHz: 1 }]],
  [/^p/, [stop(900, 0.45)]],
  [/^b/, [stop(700, 0.2, 0.12)]],
  [/^t/, [stop(4_500, 0.35)]],
  [/^d/, [stop(3_800, 0.18, 0.12)]],
  [/^[kcq]/, [K]],
  [/^g/, [stop(1_800, 0.22, 0.12)]],
  [/^j/, [fricative(3_300, 1_500, 0.2, 0.07, 0.15)]],
  [/^m/, [voiced([260, 1_100, 2_250, 3_300])]],
  [/^n/, [voiced([260, 1_500, 2_500, 3_300])]],
  [/^l/, [voiced([370, 1_150, 2_750, 3_400])]],
  [/^r/, [voiced([350, 1_200, 1_650, 3_300])]],
  [/^w/, [voiced([310, 650, 2_250, 3_300])]],
  [/^y/, [voiced([290, 2_250, 2_950, 3_600], 0.05)]],
]

/** The syllables of a line of words; "la" for each of `fallbackCount` if it has none. */
export function syllablesOf(words: string, fallbackCount = 6): Syllable[] {
  const syllables = words
    .toLowerCase()
    .replace(/[^a-z\s']/g, ' ')
    .replace(/'/g, '')
    .split(/\s+/)
    .filter(Boolean)
    .flatMap(splitWord)
  return syllables.length > 0 ? syllables : Array.from({ length: fallbackCount }, () => spell('l', 'a', ''))
}

/** One syllable a vowel group; of the consonants between two groups the last opens the next syllable. */
function splitWord(word: string): Syllable[] {
  const silentE = /[^aeiouy]e$/.test(word) && /[aeiouy].*[^aeiouy]e$/.test(word)
  const body = silentE ? word.slice(0, -1) : word
  const pieces = [...body.matchAll(/([^aeiouy]*)([aeiouy]+(?:r(?![aeiouy])|w(?![aeiouy])|gh)?)/g)]
  if (pieces.length === 0) return [spell(body, 'uh', '')]
  const tail = body.slice(pieces.reduce((sum, piece) => sum + piece[0].length, 0))
  return pieces.map((piece, i) => {
    const between = pieces[i + 1]?.[1] ?? tail
    const opening = i === 0 ? piece[1] : openingOf(piece[1])
    const closing = i === pieces.length - 1 ? tail : between.slice(0, between.length - openingOf(between).length)
    const long = silentE && i === pieces.length - 1 && piece[2].length === 1 ? LONG[piece[2]] : undefined
    return spell(opening, piece[2], closing, long)
  })
}

function openingOf(consonants: string): string {
  const cluster = /(?:[bcdfgkpstw]?[lrw]|[stcpw]?h|s?[ptkcmn]|.)$/.exec(consonants)
  return cluster ? cluster[0] : consonants
}

function spell(opening: string, middle: string, closing: string, long?: Vowel): Syllable {
  const found = VOWEL_SPELLINGS.find(([pattern]) => pattern.test(middle))
  return { text: opening + middle + closing, onset: consonantsOf(opening), vowel: long ?? found?.[1] ?? vowel(V.uh), coda: consonantsOf(closing) }
}

function consonantsOf(letters: string): Consonant[] {
  const sounds: Consonant[] = []
  for (let left = letters.replace(/([a-z])\1/g, '$1'); left.length > 0;) {
    const match = CONSONANT_SPELLINGS.map(([pattern, spelled]) => ({ length: pattern.exec(left)?.[0].length ?? -1, spelled })).find(entry => entry.length >= 0)
    if (match) sounds.push(...match.spelled)
    left = left.slice(Math.max(1, match?.length ?? 1))
  }
  return sounds
}

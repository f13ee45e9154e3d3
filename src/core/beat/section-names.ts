/** Likely names for the sections of a beat; only suggestions. */

/** Most songs go from a verse to their hook: the kind that begins one is its hook only if it is this much above the rest. */
const CLEARLY_LOUDER = 1.1

/** Calm first and last: intro and outro. The loudest of the others: the hook. What comes once, late: the bridge. */
export function nameSections(letters: number[], energy: number[], lastBars: number): string[] {
  const loudest = Math.max(...energy)
  const calm = (i: number) => energy[i] < 0.82 * loudest
  const kinds = [...new Set(letters)]
  const body = letters.map((_, i) => i).filter(i => !(i === 0 && letters.length > 2 && calm(i)) && !(i === letters.length - 1 && letters.length > 2 && (calm(i) || lastBars <= 2)))
  const energyOf = (kind: number) => Math.max(...energy.filter((_, i) => letters[i] === kind)) / (kind === letters[body[0]] ? CLEARLY_LOUDER : 1)
  const [hook, ...others] = kinds.filter(kind => body.some(i => letters[i] === kind)).sort((a, b) => energyOf(b) - energyOf(a))
  const counts = new Map<string, number>()
  return letters.map((kind, i) => {
    const once = body.filter(other => letters[other] === kind).length === 1
    const base = !body.includes(i) ? (i === 0 ? 'Intro' : 'Outro') : kind === hook && others.length > 0 ? 'Hook' : once && i > letters.length / 2 && body.at(-1) !== i ? 'Bridge' : 'Verse'
    if (base === 'Intro' || base === 'Outro') return base
    counts.set(base, (counts.get(base) ?? 0) + 1)
    return `${base} ${counts.get(base)}`
  })
}

/** Likely names for the sections of a beat; only suggestions. */

/** Most songs go from a verse to their hook: the kind that begins one is its hook only if it is this much above all other kinds. */
const CLEARLY_LOUDER = 1.25

/** Less than this share of the loudest section's level is calm. */
const CALM = 0.75
/** So few bars at the very end are how the beat rings out. */
const ENDING_BARS = 2

/**
 * Calm ones first and last: intro and outro. The loudest kind of the others: the hook. What comes once, late: the bridge.
 * @param kinds The same number for sections that sound alike. @param energies Mean log energies. @param bars How long each is.
 */
export function nameSections(kinds: readonly number[], energies: readonly number[], bars: readonly number[]): string[] {
  const lastBars = bars[bars.length - 1]
  const loudest = Math.max(...energies)
  const isCalm = (i: number) => energies[i] < CALM * loudest
  const isLong = kinds.length > 2
  let first = Number(isLong && isCalm(0))
  let end = kinds.length - Number(isLong && (isCalm(kinds.length - 1) || lastBars <= ENDING_BARS))
  if (end < kinds.length && lastBars <= ENDING_BARS && end > first + 1 && first > 0 && kinds[end - 1] === kinds[0]) {
    // What the beat began with has come back before it rings out: as an ending, or, where that would leave one section, as the next verse.
    if (end - first > 2) end--
    else first = 0
  }
  const body = kinds.slice(first, end)
  const energyOf = (kind: number) => Math.max(...energies.filter((_, i) => kinds[i] === kind)) / (kind === body[0] ? CLEARLY_LOUDER : 1)
  // A bar alone is a fill or a stop.
  const lasting = [...new Set(body)].filter(kind => kinds.some((other, i) => other === kind && bars[i] > 1))
  const [hook, ...others] = lasting.sort((a, b) => energyOf(b) - energyOf(a))
  const names = kinds.map((kind, i) => {
    if (i < first) return 'Intro'
    if (i >= end) return 'Outro'
    if (kind === hook && others.length > 0) return 'Hook'
    const comesOnce = body.filter(other => other === kind).length === 1
    return comesOnce && i > kinds.length / 2 && i < end - 1 ? 'Bridge' : 'Verse'
  })
  return names.map((name, i) => {
    const ofIt = names.filter(other => other === name).length
    return ofIt > 1 || ['Verse', 'Hook', 'Bridge'].includes(name) ? `${name} ${names.slice(0, i + 1).filter(other => other === name).length}` : name
  })
}

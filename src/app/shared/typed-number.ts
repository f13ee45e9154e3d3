/** Numbers as people type them: with a comma, a true minus, a unit, a clock's colon. */

export interface NumberRange {
  min: number
  max: number
  /** Places after the point; 0: whole numbers only. */
  digits: number
  unit?: string | undefined
}

export type TypedNumber = { ok: true; value: number } | { ok: false; why: 'no-number' | 'not-whole' | 'below' | 'above' }

/** Units that can be typed for one another, and what each is worth. */
const FAMILIES: Record<string, number>[] = [
  { ms: 0.001, s: 1, sec: 1, secs: 1, second: 1, seconds: 1, min: 60, minutes: 60 },
  { hz: 1, khz: 1_000 },
  // Levels differ in what they are measured against, which the field says already.
  { db: 1, dbfs: 1, dbtp: 1, lufs: 1, lu: 1 },
  { bpm: 1 },
  { '%': 1, percent: 1 },
  { cents: 1, cent: 1, ct: 1 },
]

const MINUS = /[\u2010-\u2015\u2212]/g
/** A space or an apostrophe between thousands. */
const GROUPS = /(?<=\d)[\s'’](?=\d{3}(?!\d))/g
const CLOCK = /^([+-]?)(\d+):([0-5]\d(?:[.,]\d+)?)$/
const NUMBER = /^(?:bars?\s*)?([+-]?)\s*(\d+(?:[.,]\d*)?|[.,]\d+)\s*([a-z%]*)\.?$/i

/** The number that was meant, in the field's unit; or why it cannot be taken. */
export function readTypedNumber(text: string, { min, max, digits, unit }: NumberRange): TypedNumber {
  const value = valueOf(text.normalize('NFKC').trim().replace(MINUS, '-').replace(GROUPS, ''), unit?.toLowerCase())
  if (value === null) return { ok: false, why: 'no-number' }
  if (digits === 0 && !Number.isInteger(value)) return { ok: false, why: 'not-whole' }
  if (value < min) return { ok: false, why: 'below' }
  return value > max ? { ok: false, why: 'above' } : { ok: true, value }
}

function valueOf(text: string, unit: string | undefined): number | null {
  const family = FAMILIES.find(units => unit !== undefined && unit in units)
  const clock = CLOCK.exec(text)
  if (clock) {
    const [, sign, minutes, seconds] = clock
    const inSeconds = Number(minutes) * 60 + Number(seconds!.replace(',', '.'))
    return family?.s === undefined ? null : ((sign === '-' ? -1 : 1) * inSeconds) / family[unit!]!
  }
  const [, sign, digits, typedUnit] = NUMBER.exec(text) ?? []
  if (digits === undefined) return null
  const value = (sign === '-' ? -1 : 1) * Number(digits.replace(',', '.'))
  const typed = typedUnit!.toLowerCase()
  if (typed === '' || typed === unit) return value
  const worth = family?.[typed]
  // To a ten-thousandth: 0.0235 s are 23.5 ms, and nothing behind it.
  return worth === undefined ? null : Math.round((1e4 * value * worth) / family![unit!]!) / 1e4
}

/** Why a number was not taken, and what the field holds. */
export function refusalText(typed: string, why: Extract<TypedNumber, { ok: false }>['why'], { min, max, unit }: NumberRange, holds: string): string {
  const withUnit = (value: number | string) => (unit ? `${value} ${unit}` : String(value))
  const reason = {
    'no-number': typed.trim() === '' ? 'Type a number.' : `“${typed.trim().slice(0, 20)}” cannot be read as a number${unit ? ` of ${unit}` : ''}.`,
    'not-whole': 'Whole numbers only.',
    below: `At least ${withUnit(min)}.`,
    above: `At most ${withUnit(max)}.`,
  }[why]
  return `${reason} It stays at ${withUnit(holds)}.`
}

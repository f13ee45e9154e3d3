/**
 * Whether two settings of one kind are the same: numbers and words by name.
 * Without a list of the names: the audio thread asks it of every step of a new plan.
 */
export function isSameFlat<T extends object>(a: T, b: T): boolean {
  for (const name in a) if (a[name] !== b[name]) return false
  return true
}

/** Each pass has a tint of its own, so that a take is recognised in every room; the tint is never its only mark. */

const HUES = [12, 196, 268, 88, 330, 44, 152, 232]

export function takeTint(pass: number, theme: 'day' | 'night'): string {
  const hue = HUES[(pass - 1) % HUES.length]!
  return theme === 'day' ? `hsl(${hue} 42% 46%)` : `hsl(${hue} 48% 68%)`
}

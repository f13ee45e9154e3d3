/** Gestures of the keyboard and the pointer, counted, so that all that a held key repeats can be one step. */

let gesture = 0
let repeating = false

if (typeof addEventListener === 'function') {
  addEventListener(
    'keydown',
    event => {
      repeating = event.repeat
      if (!event.repeat) gesture++
    },
    true,
  )
  for (const name of ['keyup', 'pointerdown'] as const) {
    addEventListener(
      name,
      () => {
        repeating = false
        gesture++
      },
      true,
    )
  }
}

export function currentGesture(): number {
  return gesture
}

/** Whether a key is held that was pressed in that gesture. */
export function isHeldFrom(earlier: number | null): boolean {
  return repeating && earlier === gesture
}

/** A gesture on a control: tried while it moves, kept once when it is let go, dropped on Escape. */
import { useCallback, useRef, useState } from 'react'

export interface Trial<T> {
  value: T
  try: (value: T) => void
  keep: () => void
  drop: () => void
}

/** @param actions `try` lets the value be heard, `keep` writes it once, `drop` takes back what was tried. */
export function useTrial<T>(kept: T, actions: { try: (value: T) => void; keep: (value: T) => void; drop: () => void }): Trial<T> {
  const [tried, setTried] = useState<{ value: T } | null>(null)
  // The last value tried: a controlled slider moved by a key can report the old one at its end.
  const last = useRef<{ value: T } | null>(null)
  const attempt = useCallback(
    (value: T) => {
      last.current = { value }
      setTried({ value })
      actions.try(value)
    },
    [actions],
  )
  const keep = useCallback(() => {
    if (last.current) actions.keep(last.current.value)
    last.current = null
    setTried(null)
  }, [actions])
  const drop = useCallback(() => {
    last.current = null
    setTried(null)
    actions.drop()
  }, [actions])
  return { value: tried ? tried.value : kept, try: attempt, keep, drop }
}

/** A gesture on a control: tried while it moves, kept once when it is let go, dropped on Escape. */
import { useCallback, useEffect, useEffectEvent, useRef, useState } from 'react'

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
  // Its room was left in mid-gesture: what was tried is heard no longer.
  const leave = useEffectEvent(() => {
    if (last.current) actions.drop()
  })
  useEffect(() => () => leave(), [])
  return { value: tried ? tried.value : kept, try: attempt, keep, drop }
}

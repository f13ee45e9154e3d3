/** What is drawn for the first time only after what stands before it: a room of many controls takes longer than one frame may. */
import { useDeferredValue, type ReactNode } from 'react'

export function Afterwards({ children }: { children: ReactNode }) {
  return useDeferredValue(true, false) ? children : null
}

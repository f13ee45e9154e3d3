/** The width of an element in CSS pixels, kept up to date; 0 until it is laid out. */
import { useEffect, useState, type RefObject } from 'react'

export function useWidth(ref: RefObject<HTMLElement | null>): number {
  const [width, setWidth] = useState(0)
  useEffect(() => {
    if (!ref.current) return
    const observer = new ResizeObserver(entries => setWidth(entries[0]!.contentRect.width))
    observer.observe(ref.current)
    return () => observer.disconnect()
  }, [ref])
  return width
}

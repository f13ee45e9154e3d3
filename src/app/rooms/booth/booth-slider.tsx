/** A slider on a number of the Booth's settings: at work while it moves, remembered. */
import { useRef } from 'react'
import { ValueSlider, type ValueSliderProps } from '../../shared/value-slider'

export function BoothSlider({ change, ...slider }: Omit<ValueSliderProps, 'onTry' | 'onKeep' | 'onDrop'> & { change: (value: number) => void }) {
  /** Where it stood before it was moved. */
  const before = useRef<number | null>(null)
  const attempt = (tried: number) => {
    before.current ??= slider.value
    change(tried)
  }
  const keep = (kept: number) => {
    before.current = null
    change(kept)
  }
  const drop = () => {
    if (before.current !== null) change(before.current)
    before.current = null
  }
  return <ValueSlider {...slider} onTry={attempt} onKeep={keep} onDrop={drop} />
}

/** A slider with its typed value beside it: tried while it moves, kept once when it is let go, dropped on Escape. */
import { Box, Flex, Slider, Text } from '@chakra-ui/react'
import { useMemo, type ReactNode } from 'react'
import { NumberField } from './number-field'
import { useTrial } from './use-trial'

export interface ValueSliderProps {
  label: string
  /** Shown before the slider; hidden labels are still spoken. */
  showLabel?: string
  value: number
  min: number
  max: number
  step: number
  unit?: string
  digits?: number
  colour?: string
  /** Of the filled part, as dashes and gaps in pixels; none: a plain line. */
  stitch?: readonly number[]
  /** Lies under the slider, over its whole length. */
  under?: ReactNode
  fieldWidth?: string
  /** Of a place, not an amount: nothing is filled. */
  fromNowhere?: boolean
  /** What the number means in words, for screen readers. */
  valueText?: (value: number) => string
  onTry: (value: number) => void
  onKeep: (value: number) => void
  onDrop: () => void
}

export function ValueSlider({
  label,
  showLabel,
  value,
  min,
  max,
  step,
  unit,
  digits = 1,
  colour = 'brand',
  stitch = [],
  under,
  fieldWidth,
  fromNowhere = false,
  valueText,
  onTry,
  onKeep,
  onDrop,
}: ValueSliderProps) {
  const actions = useMemo(() => ({ try: onTry, keep: onKeep, drop: onDrop }), [onTry, onKeep, onDrop])
  const trial = useTrial(value, actions)
  return (
    <Flex align="center" gap={3} minW={0}>
      {showLabel ? (
        <Text flex="0 0 92px" truncate>
          {showLabel}
        </Text>
      ) : null}
      <Box flex="1 1 auto" minW="60px" position="relative">
        {under}
        <Slider.Root
          size="sm"
          min={min}
          max={max}
          step={step}
          value={[trial.value]}
          aria-label={[label]}
          getAriaValueText={details => (valueText ? valueText(details.value) : `${details.value.toFixed(digits)} ${unit ?? ''}`)}
          onValueChange={({ value: [next] }) => next !== undefined && trial.try(next)}
          onValueChangeEnd={trial.keep}
          onKeyDown={event => {
            if (event.key !== 'Escape') return
            // The room's own Escape is for when nothing is being moved.
            event.stopPropagation()
            trial.drop()
          }}
        >
          <Slider.Control>
            <Slider.Track bg="seamline" height="5px" borderRadius="full">
              <Slider.Range
                visibility={fromNowhere ? 'hidden' : 'visible'}
                {...(stitch.length > 0 ? { style: { background: stitched(stitch, colour) } } : { bg: colour })}
              />
            </Slider.Track>
            <Slider.Thumb index={0} boxSize="16px" bg="card" borderWidth="2.5px" borderColor={colour} />
          </Slider.Control>
        </Slider.Root>
      </Box>
      <NumberField
        label={label}
        value={trial.value}
        min={min}
        max={max}
        digits={digits}
        {...(unit ? { unit } : {})}
        {...(fieldWidth ? { width: fieldWidth } : {})}
        onKeep={onKeep}
      />
    </Flex>
  )
}

/** A line of stitches, as a background. */
function stitched(dashes: readonly number[], colour: string): string {
  let at = 0
  const stops = dashes.map((length, i) => {
    const from = at
    at += length
    return `${i % 2 === 0 ? colour : 'transparent'} ${from}px ${at}px`
  })
  return `repeating-linear-gradient(90deg, ${stops.join(', ')})`
}

/** Gains that are proposed for the phrases of the selection: shown on the ladder, and laid only when they are taken. */
import { Box, Text } from '@chakra-ui/react'
import { count } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Pill } from '../../shared/parts'
import { layEven } from './tidying'
import { useTidy } from './tidy-store'
import type { Even } from './use-even'
import type { Line } from './use-line'

const LIMIT_DECIBELS = { min: 1, max: 12 }

export function dropEven(): void {
  useTidy.setState({ evenDecibels: null })
}

export function EvenBar({ line, even }: { line: Line; even: Even }) {
  const { gains, limitDecibels } = even
  const take = () => {
    layEven(line.layer.id, gains)
    dropEven()
  }
  return (
    <>
      <Text role="status">{evenText(line, even)}</Text>
      <Text>At most</Text>
      <NumberField
        label="Even out phrases by at most"
        value={limitDecibels}
        {...LIMIT_DECIBELS}
        unit="dB"
        width="44px"
        onKeep={evenDecibels => useTidy.setState({ evenDecibels })}
      />
      <Box flex="1" />
      {/* Enter takes them: whoever asked by a key answers by one. */}
      {gains.length > 0 ? (
        <Pill autoFocus size="xs" px={3} borderColor="brand" onClick={take}>
          Lay {count(gains.length, 'gain')}
        </Pill>
      ) : null}
      <Pill size="xs" px={3} onClick={dropEven}>
        Not now
      </Pill>
    </>
  )
}

function evenText({ layer, title }: Line, { gains, phrases, beyondLimit, usualLufs, isListening }: Even): string {
  if (isListening) return 'Listening to the layer …'
  const all = count(phrases, 'phrase')
  const usual = usualLufs === null ? '' : `, ${usualLufs.toFixed(1)} LUFS`.replace('-', '−')
  const limited = beyondLimit > 0 ? ` ${count(beyondLimit, 'phrase')} would need more than the limit.` : ''
  if (gains.length > 0)
    return `${gains.length} of ${all} ${gains.length === 1 ? 'goes' : 'go'} to within 1 dB of what ${layer.name} usually is${usual}.${limited}`
  if (beyondLimit > 0) return `No more within the limit.${limited}`
  return `The ${all} of ${title} are even: within 1 dB of what the layer usually is.`
}

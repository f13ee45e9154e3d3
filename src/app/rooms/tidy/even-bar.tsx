/** Gains that are proposed for the phrases of the selection: shown on the ladder, and laid only when they are taken. */
import { Box, Text } from '@chakra-ui/react'
import { count } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Pill } from '../../shared/parts'
import { layEven } from './tidying'
import { useTidy } from './tidy-store'
import { useEven } from './use-even'
import type { Line } from './use-line'

const LIMIT_DECIBELS = { min: 1, max: 12 }

export function dropEven(): void {
  useTidy.setState({ evenDecibels: null })
}

export function EvenBar({ line, limitDecibels }: { line: Line; limitDecibels: number }) {
  const { gains, phrases, usual, isListening } = useEven(line, limitDecibels)
  const take = () => {
    layEven(line.layer.id, gains)
    dropEven()
  }
  return (
    <>
      <Text role="status">
        {isListening
          ? 'Listening to the layer …'
          : gains.length === 0
            ? `The ${count(phrases, 'phrase')} of ${line.title} are even: within 1 dB of what the layer usually is.`
            : `${gains.length} of ${count(phrases, 'phrase')} go to within 1 dB of what ${line.layer.name} usually is${usual === null ? '' : `, ${usual.toFixed(1)} LUFS`.replace('-', '−')}.`}
      </Text>
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

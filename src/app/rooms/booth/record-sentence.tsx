/** What will be recorded, as one sentence to fill in: each underlined piece is a choice, by pointer and by keys. */
import { Box, chakra } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import type { LayerId } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import { focusRoom } from '../../shared/keep-focus'
import { NumberField } from '../../shared/number-field'
import { useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { setBooth, useBoothSettings } from '../../recording/booth-settings'
import { BarsPicker, useScopeChoice } from './scope-choice'

const Piece = chakra('select', {
  base: {
    font: 'inherit',
    fontWeight: 600,
    color: 'ink',
    bg: 'transparent',
    appearance: 'none',
    fieldSizing: 'content',
    maxWidth: '100%',
    px: '2px',
    borderBottomWidth: '2px',
    borderBottomStyle: 'dashed',
    borderColor: 'brand',
    borderRadius: 0,
    cursor: 'pointer',
    _hover: { bg: 'sunken' },
    _disabled: { cursor: 'default', borderColor: 'seamline', _hover: { bg: 'transparent' } },
    '& option': { fontFamily: 'body', fontSize: '14px', fontWeight: 400 },
  },
})

interface ChoiceProps {
  label: string
  value: string
  options: readonly (readonly [value: string, text: string])[]
  disabled: boolean
  onChoose: (value: string) => void
}

function Choice({ label, value, options, disabled, onChoose }: ChoiceProps) {
  return (
    <Piece
      aria-label={label}
      value={value}
      disabled={disabled}
      onChange={event => {
        onChoose(event.target.value)
        // Chosen with the pointer, it is done with: the next key is the room's, R before all.
        if (!event.currentTarget.matches(':focus-visible')) focusRoom()
      }}
    >
      {options.map(([option, text]) => (
        <option key={option} value={option}>
          {text}
        </option>
      ))}
    </Piece>
  )
}

const NUMBERS = ['no', 'one', 'two', 'three', 'four']
const barsOf = (bars: number, of: string) => `${NUMBERS[bars]} ${bars === 1 ? 'bar' : 'bars'} ${of}`.trim()
const COUNT_INS = [0, 1, 2].map(bars => [String(bars), bars === 0 ? 'no count-in' : barsOf(bars, 'of clicks')] as const)
const PRE_ROLLS = [0, 1, 2, 3, 4].map(bars => [String(bars), bars === 0 ? 'no bars before' : barsOf(bars, 'of the song before')] as const)
const TIMES = [
  ['once', 'once'],
  ['loop', 'over and over, a take each time'],
] as const
const STARTS = [
  ['at-once', 'at once'],
  ['on-sound', 'when I sing'],
] as const
const ENDS = [
  ['at-end', 'at the end'],
  ['run-on', 'when I press stop'],
] as const

export function RecordSentence({ range, busy }: { range: FrameRange; busy: boolean }) {
  const layers = useSong(song => song.layers)
  const layerId = useView(state => state.layerId)
  const looping = useView(state => state.looping)
  const { countInBars, preRollBars, startOnSound, startThresholdDbfs, runOn } = useBoothSettings()
  const scope = useScopeChoice(range)
  const choice = (label: string, value: string, options: ChoiceProps['options'], onChoose: (value: string) => void): ReactNode => (
    <Choice label={label} value={value} options={options} disabled={busy} onChoose={onChoose} />
  )
  const chooseLayer = (id: string) => useView.setState({ layerId: id as LayerId })
  const layerOptions = [...(layerId === null ? [['', 'a layer'] as const] : []), ...layers.map(layer => [layer.id, layer.name] as const)]
  return (
    <Box role="group" aria-label="What will be recorded, and how" flex="1" fontFamily="heading" fontSize="20px" lineHeight={1.65} color="ink.soft">
      Record {choice('What to record', scope.value, scope.options, scope.choose)}
      {scope.isBars ? <BarsPicker /> : null} on {choice('Layer to sing on', layerId ?? '', layerOptions, chooseLayer)},{' '}
      {choice('How often', looping ? 'loop' : 'once', TIMES, times => useView.setState({ looping: times === 'loop' }))}, after{' '}
      {choice('Count-in', String(countInBars), COUNT_INS, bars => setBooth({ countInBars: Number(bars) }))}, with{' '}
      {choice('Bars before', String(preRollBars), PRE_ROLLS, bars => setBooth({ preRollBars: Number(bars) }))}, starting{' '}
      {choice('When it starts', startOnSound ? 'on-sound' : 'at-once', STARTS, start => setBooth({ startOnSound: start === 'on-sound' }))}
      {startOnSound ? (
        <>
          {' '}
          above{' '}
          <NumberField
            label="Begin above"
            value={startThresholdDbfs}
            min={-60}
            max={0}
            digits={0}
            unit="dBFS"
            width="48px"
            onKeep={dbfs => setBooth({ startThresholdDbfs: dbfs })}
          />
        </>
      ) : null}
      {looping ? (
        ', until I stop it.'
      ) : (
        <>, stopping {choice('When it stops', runOn ? 'run-on' : 'at-end', ENDS, end => setBooth({ runOn: end === 'run-on' }))}.</>
      )}
    </Box>
  )
}

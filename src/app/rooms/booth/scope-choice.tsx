/** What is recorded: the selection on the sheet, one word of it, from the cursor on, or bars by number. */
import { Box } from '@chakra-ui/react'
import { barAtFrame, barCountUntil } from '../../../core/beat/grid'
import type { Song } from '../../../core/song/schema'
import type { FrameRange } from '../../../core/song/select'
import { placeWords } from '../../../core/song/words'
import { NumberField } from '../../shared/number-field'
import { useSong } from '../../song/song-store'
import { focusedLine, useView, type Selection } from '../../song/view-store'
import { useRecorder, type Scope } from '../../recording/recorder-store'

interface ScopeChoice {
  value: string
  options: (readonly [value: string, text: string])[]
  isBars: boolean
  choose: (value: string) => void
}

/** @param range What is recorded by now: bars begin with it. */
export function useScopeChoice(range: FrameRange): ScopeChoice {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const scope = useRecorder(state => state.scope)
  const line = selection.kind === 'lines' ? focusedLine(song, selection) : null
  const words = line ? placeWords(line) : []
  return {
    value: scope.kind === 'word' ? `word ${scope.index}` : scope.kind,
    options: [
      ['selection', nameOf(song, selection)],
      ...words.map(({ word }, i) => [`word ${i}`, `only “${word}”`] as const),
      ['from-here', 'from here on'],
      ['bars', 'bars'],
    ],
    isBars: scope.kind === 'bars',
    choose: value => {
      const [kind, index] = value.split(' ') as [Scope['kind'], string?]
      const { grid, frames } = song.beat
      const last = barCountUntil(grid, frames)
      const fromBar = Math.min(last, barAtFrame(grid, range.startFrame))
      const toBar = Math.min(last, barAtFrame(grid, range.endFrame - 480))
      useRecorder.setState({ scope: kind === 'bars' ? { kind, fromBar, toBar } : kind === 'word' ? { kind, index: Number(index) } : { kind } })
    },
  }
}

/** From which bar to which, both included; a first bar beyond the last moves it only for as long as it is. */
export function BarsPicker() {
  const { grid, frames } = useSong(song => song.beat)
  const scope = useRecorder(state => state.scope)
  if (scope.kind !== 'bars') return null
  const first = Math.min(1, barAtFrame(grid, 0))
  const last = barCountUntil(grid, frames)
  return (
    <Box as="span" whiteSpace="nowrap">
      {' '}
      <NumberField
        label="From bar"
        value={scope.fromBar}
        min={first}
        max={last}
        digits={0}
        width="44px"
        onKeep={fromBar => useRecorder.setState({ scope: { ...scope, fromBar } })}
      />{' '}
      to{' '}
      <NumberField
        label="To bar"
        value={Math.max(scope.fromBar, scope.toBar)}
        min={scope.fromBar}
        max={last}
        digits={0}
        width="44px"
        onKeep={toBar => useRecorder.setState({ scope: { ...scope, toBar } })}
      />
    </Box>
  )
}

/** "line 3 of Hook 1 and 1 more", "Hook 1", "the whole song" */
function nameOf(song: Song, selection: Selection): string {
  const whole = 'the whole song'
  if (selection.kind === 'section') return song.sections.find(section => section.id === selection.sectionId)?.name ?? whole
  const line = selection.kind === 'lines' ? focusedLine(song, selection) : null
  if (!line || selection.kind !== 'lines') return whole
  return `line ${line.number} of ${line.section.name}${selection.lineIds.length > 1 ? ` and ${selection.lineIds.length - 1} more` : ''}`
}

/** What is recorded: the selection on the sheet, from the cursor on, or bars by number. */
import { Flex, NativeSelect } from '@chakra-ui/react'
import { barAtFrame, barCountUntil } from '../../../core/beat/grid'
import type { FrameRange } from '../../../core/song/select'
import { placeWords } from '../../../core/song/words'
import { NumberField } from '../../shared/number-field'
import { useSong } from '../../song/song-store'
import { focusedLine, useView, type Selection } from '../../song/view-store'
import type { Song } from '../../../core/song/schema'
import { useRecorder, type Scope } from './recorder-store'

export function ScopePicker({ range, busy }: { range: FrameRange; busy: boolean }) {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const scope = useRecorder(state => state.scope)
  const { grid, frames } = song.beat
  const bars = { min: Math.min(1, barAtFrame(grid, 0)), max: barCountUntil(grid, frames) }
  const fromBar = barAtFrame(grid, range.startFrame)
  const toBar = barAtFrame(grid, range.endFrame - 480)
  const line = selection.kind === 'lines' ? focusedLine(song, selection) : null
  const words = line ? placeWords(line) : []
  const choose = (value: string) => {
    const [kind, index] = value.split(' ') as [Scope['kind'], string?]
    useRecorder.setState({ scope: kind === 'bars' ? { kind, fromBar, toBar } : kind === 'word' ? { kind, index: Number(index) } : { kind } })
  }
  return (
    <Flex gap={2} align="center">
      <NativeSelect.Root size="sm" width="236px" disabled={busy}>
        <NativeSelect.Field
          aria-label="What to record"
          bg="card"
          borderColor="seamline"
          borderRadius="full"
          fontWeight={500}
          value={scope.kind === 'word' ? `word ${scope.index}` : scope.kind}
          onChange={event => choose(event.target.value)}
        >
          <option value="selection">
            {nameOf(song, selection)}
            {scope.kind === 'selection' ? ` · bars ${fromBar} to ${toBar}` : ''}
          </option>
          {words.map(({ word }, i) => (
            <option key={i} value={`word ${i}`}>
              Only “{word}”
            </option>
          ))}
          <option value="from-here">From here on{scope.kind === 'from-here' ? ` · bar ${fromBar}` : ''}</option>
          <option value="bars">Bars …</option>
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      {scope.kind === 'bars' ? (
        <Flex gap={1} align="center">
          <NumberField
            label="From bar"
            value={scope.fromBar}
            min={bars.min}
            max={bars.max}
            digits={0}
            width="44px"
            onKeep={fromBar => useRecorder.setState({ scope: { ...scope, fromBar } })}
          />
          to
          <NumberField
            label="To bar"
            value={Math.max(scope.fromBar, scope.toBar)}
            min={scope.fromBar}
            max={bars.max}
            digits={0}
            width="44px"
            onKeep={toBar => useRecorder.setState({ scope: { ...scope, toBar } })}
          />
        </Flex>
      ) : null}
    </Flex>
  )
}

/** "Hook 1, line 3 and 1 more", "Hook 1", "Whole song" */
function nameOf(song: Song, selection: Selection): string {
  if (selection.kind === 'section') return song.sections.find(section => section.id === selection.sectionId)?.name ?? 'Whole song'
  const line = selection.kind === 'lines' ? focusedLine(song, selection) : null
  if (!line || selection.kind !== 'lines') return 'Whole song'
  return `${line.section.name}, line ${line.number}${selection.lineIds.length > 1 ? ` and ${selection.lineIds.length - 1} more` : ''}`
}

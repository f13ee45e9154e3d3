/** One line of the sheet: its words, where it begins, how long it is; split in two, or joined with the next. */
import { Box, Dialog, Flex, Stack, Text } from '@chakra-ui/react'
import { DialogCard } from '../shared/dialog-card'
import { useState } from 'react'
import { create } from 'zustand'
import { beatAtFrame } from '../../core/beat/grid'
import { joinLineWithNext, roomOfLine, setLineBeats, setLineWords, splitLine, SHORTEST_LINE_BEATS } from '../../core/song/lines'
import type { LineId, Song } from '../../core/song/schema'
import { makeId } from '../../storage/database'
import { NameField } from '../shared/name-field'
import { NumberField } from '../shared/number-field'
import { KeyCap, Pill } from '../shared/parts'
import { playheadFrame } from '../song/live'
import { edit, useSong } from '../song/song-store'
import { focusedLine, useView } from '../song/view-store'

export const useLineDialog = create<{ open: boolean }>(() => ({ open: false }))

/** Works on the selected line, or on the first of those selected. */
export function LineDialog() {
  const open = useLineDialog(state => state.open)
  return (
    <Dialog.Root open={open} onOpenChange={details => useLineDialog.setState({ open: details.open })} lazyMount unmountOnExit>
      <DialogCard title="This line">
        <Dialog.Body>
          <LineForm />
        </Dialog.Body>
      </DialogCard>
    </Dialog.Root>
  )
}

function LineForm() {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const placed = focusedLine(song, selection)
  if (!placed) return <Text color="ink.soft">Choose a line on the sheet first.</Text>
  return <FormOf key={placed.line.id} song={song} lineId={placed.line.id} />
}

function FormOf({ song, lineId }: { song: Song; lineId: LineId }) {
  const [refused, setRefused] = useState<string | null>(null)
  const { section, line, leastStartBeat, mostEndBeat } = roomOfLine(song, lineId)
  const { grid } = song.beat
  const sectionBeat = (section.startBar - 1) * grid.beatsPerBar
  // Bars of the song and beats in them, from one, as they are read everywhere.
  const { beatsPerBar } = grid
  const barOf = (beat: number) => section.startBar + Math.floor(beat / beatsPerBar + 1e-6)
  const bar = barOf(line.startBeat)
  const firstOfBar = (bar - section.startBar) * beatsPerBar
  const rounded = (beat: number) => Math.round(beat * 1_000) / 1_000
  const lastStart = mostEndBeat - SHORTEST_LINE_BEATS
  /** What is shown is rounded: the very ends are meant where they are typed. */
  const beginAt = (beat: number) => {
    const startBeat = Math.max(leastStartBeat, Math.min(lastStart, beat))
    place(startBeat, Math.min(line.beatCount, mostEndBeat - startBeat))
  }
  const words = line.words.split(/\s+/).filter(Boolean)
  const title = line.words || 'the line'
  const place = (startBeat: number, beatCount: number) => {
    setRefused(null)
    edit(`move “${title}”`, current => setLineBeats(current, { lineId, startBeat, beatCount }))
  }
  const beginAtPlayhead = () => {
    const startBeat = Math.round((beatAtFrame(grid, playheadFrame()) - sectionBeat) * 4) / 4
    const beatCount = Math.min(line.beatCount, mostEndBeat - startBeat)
    if (startBeat >= leastStartBeat && beatCount >= SHORTEST_LINE_BEATS) place(startBeat, beatCount)
    else setRefused('The playhead stands beyond the lines beside it. Move it between them, or move those first.')
  }
  const index = section.lines.findIndex(entry => entry.id === lineId)
  const hasNext = index < section.lines.length - 1
  return (
    <Stack gap={3}>
      <NameField
        label="Words of the line"
        name={line.words}
        mayBeEmpty
        width="100%"
        maxLength={500}
        bg="ground"
        borderColor="seamline"
        onKeep={next => edit(`change “${title}”`, current => setLineWords(current, { lineId, words: next }))}
      />
      <Flex gap={2} align="center" wrap="wrap">
        Begins at bar
        <NumberField
          label="Begins at bar"
          value={bar}
          min={barOf(leastStartBeat)}
          max={barOf(lastStart)}
          digits={0}
          width="48px"
          onKeep={next => beginAt(line.startBeat + (Math.round(next) - bar) * beatsPerBar)}
        />
        beat
        <NumberField
          label="Begins at beat"
          value={rounded(line.startBeat - firstOfBar + 1)}
          min={rounded(Math.max(1, leastStartBeat - firstOfBar + 1))}
          max={rounded(Math.min(beatsPerBar + 1 - 0.001, lastStart - firstOfBar + 1))}
          digits={3}
          width="56px"
          onKeep={beat => beginAt(firstOfBar + beat - 1)}
        />
        and is
        <NumberField
          label="Length of the line"
          value={Math.round(line.beatCount * 1_000) / 1_000}
          min={SHORTEST_LINE_BEATS}
          max={Math.round((mostEndBeat - line.startBeat) * 1_000) / 1_000}
          digits={3}
          unit="beats long"
          width="56px"
          onKeep={beatCount => place(line.startBeat, Math.min(beatCount, mostEndBeat - line.startBeat))}
        />
      </Flex>
      <Flex gap={2} align="center" wrap="wrap">
        <Pill onClick={beginAtPlayhead}>Begins at the playhead</Pill>
        <Pill
          disabled={!hasNext}
          title={hasNext ? undefined : 'It is the last of its section'}
          onClick={() => edit(`join “${title}” with the next`, current => joinLineWithNext(current, { lineId }))}
        >
          Join with the next
        </Pill>
        {words.length < 2 ? (
          <Pill
            disabled={line.beatCount < 2 * SHORTEST_LINE_BEATS || words.length === 1}
            title={words.length === 1 ? 'One word is not split' : undefined}
            onClick={() => edit(`split ${title}`, current => splitLine(current, { lineId, atWord: 0, newLineId: makeId() as LineId }))}
          >
            Split in two
          </Pill>
        ) : null}
      </Flex>
      {words.length > 1 ? (
        <Box>
          <Text color="ink.soft" mb={1}>
            Split it before
          </Text>
          <Flex gap={1} wrap="wrap">
            {words.slice(1).map((word, i) => (
              <Pill
                key={i}
                size="xs"
                px={2}
                aria-label={`Split before “${word}”`}
                disabled={line.beatCount < 2 * SHORTEST_LINE_BEATS}
                onClick={() => edit(`split “${title}”`, current => splitLine(current, { lineId, atWord: i + 1, newLineId: makeId() as LineId }))}
              >
                {word}
              </Pill>
            ))}
          </Flex>
        </Box>
      ) : null}
      {refused ? (
        <Text role="alert" color="warn">
          {refused}
        </Text>
      ) : null}
      <Text color="ink.soft">
        What was sung stays where it is. <KeyCap>D</KeyCap> opens this for the selected line.
      </Text>
    </Stack>
  )
}

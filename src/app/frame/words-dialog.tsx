/** Pasting or typing lyrics, or laying lines without words. */
import { Box, Button, Dialog, Flex, Text, Textarea } from '@chakra-ui/react'
import { DialogCard } from '../shared/dialog-card'
import { NotebookPen } from 'lucide-react'
import { memo, useDeferredValue, useMemo, useState } from 'react'
import { create } from 'zustand'
import { formatLyrics, parseLyrics } from '../../core/song/lyrics'
import { barCountUntil } from '../../core/beat/grid'
import { BARS_A_LINE, layLyrics, layWordlessLines } from '../../core/song/lay-lyrics'
import { placedLines } from '../../core/song/select'
import { makeId } from '../../storage/database'
import { count } from '../shared/format'
import { NumberField } from '../shared/number-field'
import { Pill, PrimaryButton } from '../shared/parts'
import { edit, useSong } from '../song/song-store'

export const useWordsDialog = create<{ open: boolean }>(() => ({ open: false }))

const setOpen = (open: boolean) => useWordsDialog.setState({ open })

/** Opened by its button, or by its key even where the sheet is folded. Memoised: it is much to draw, and the sheet it stands in changes with every edit. */
export const WordsDialog = memo(function WordsDialog({ withButton }: { withButton: boolean }) {
  const open = useWordsDialog(state => state.open)
  return (
    <Dialog.Root open={open} onOpenChange={details => setOpen(details.open)} size="lg" lazyMount unmountOnExit>
      {withButton ? (
        <Dialog.Trigger asChild>
          <Button size="xs" variant="outline" borderRadius="full" borderColor="seamline" bg="card" color="ink" flexShrink={0} title="All words of the song (W)">
            <NotebookPen size={14} aria-hidden /> Words
          </Button>
        </Dialog.Trigger>
      ) : null}
      <DialogCard title="The words">
        <WordsForm onDone={() => setOpen(false)} />
      </DialogCard>
    </Dialog.Root>
  )
})

function WordsForm({ onDone }: { onDone: () => void }) {
  const song = useSong(current => current)
  const withLines = song.sections.find(section => section.lines.length > 0)
  const [text, setText] = useState(() => formatLyrics(song.sections))
  const [firstBar, setFirstBar] = useState(withLines?.startBar ?? song.sections.find(section => section.startBar > 1)?.startBar ?? 5)
  const [barsALine, setBarsALine] = useState<number>(2)
  const lyrics = parseLyrics(text)
  const lineCount = lyrics.reduce((sum, section) => sum + section.lines.length, 0)
  // Laid to see what does not fit, once the keys rest: of a long text it is much to work out.
  const rested = useDeferredValue(text)
  const beyond = useMemo(() => {
    const laid = layLyrics(song, { lyrics: parseLyrics(rested), firstBar, barsALine, makeId })
    return placedLines(laid).filter(line => line.startFrame >= laid.beat.frames).length
  }, [song, rested, firstBar, barsALine])
  const lay = () => {
    edit('lay the words', current => layLyrics(current, { lyrics, firstBar, barsALine, makeId }))
    onDone()
  }
  const layWordless = () => {
    edit('lay lines without words', current => layWordlessLines(current, { sectionIds: current.sections.map(section => section.id), barsALine, makeId }))
    onDone()
  }
  return (
    <>
      <Dialog.Body>
        <Text color="ink.soft" mb={2}>
          One line a line. A blank line or a heading in brackets begins a section: [Hook 1]. A heading can say its bar: [Verse 2 | bar 25]; one that names a
          part of the beat goes there.
        </Text>
        <Textarea
          aria-label="Lyrics"
          rows={14}
          maxH="38vh"
          value={text}
          onChange={event => setText(event.target.value)}
          bg="ground"
          borderColor="seamline"
          fontSize="15px"
          placeholder={'[Verse 1]\nThe first line\nthe second line'}
        />
        <Flex align="center" justify="space-between" mt={3} columnGap={6} rowGap={2} wrap="wrap">
          <Box title="Unless its heading says a bar">
            First section at bar <NumberField label="First bar" value={firstBar} min={1} max={400} digits={0} onKeep={setFirstBar} />
          </Box>
          <Flex align="center" gap={2}>
            <Text whiteSpace="nowrap">{count(lineCount, 'line')} of</Text>
            {BARS_A_LINE.map(bars => (
              <Pill key={bars} chosen={bars === barsALine} onClick={() => setBarsALine(bars)}>
                {count(bars, 'bar')}
              </Pill>
            ))}
          </Flex>
        </Flex>
        {beyond > 0 ? (
          <Text role="status" color="warn" mt={2}>
            {count(beyond, 'line')} would begin after the beat has ended, at bar {barCountUntil(song.beat.grid, song.beat.frames)}. Lay them closer, or repeat
            bars of the beat in its room.
          </Text>
        ) : null}
      </Dialog.Body>
      <Dialog.Footer>
        <Pill onClick={layWordless} title="Every section that has no lines gets lines of this length">
          Lines without words
        </Pill>
        <PrimaryButton onClick={lay} disabled={lineCount === 0}>
          Lay them over the bars
        </PrimaryButton>
      </Dialog.Footer>
    </>
  )
}

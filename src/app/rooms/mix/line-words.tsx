/** The words of a line as a row of buttons: one is chosen, with Shift several. */
import { chakra, Flex, Text } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import { wordsOfLine, type WordRange } from '../../../core/song/anchor'
import type { Song } from '../../../core/song/schema'
import { lineTitle, type PlacedLine } from '../../../core/song/select'
import { useMix } from './mix-store'

/** What is chosen of a line: what was clicked, or its last word; null where it has no words. */
export function chosenWords({ line }: PlacedLine): WordRange | null {
  const { words } = useMix.getState()
  const last = wordsOfLine(line).length - 1
  if (words?.lineId === line.id && words.to <= last) return { from: words.from, to: words.to }
  return last < 0 ? null : { from: last, to: last }
}

/** What they say. */
export function sayWords({ line, ...placed }: PlacedLine, words: WordRange | null): string {
  const said = words
    ? wordsOfLine(line)
        .slice(words.from, words.to + 1)
        .join(' ')
    : ''
  return said || lineTitle({ line, ...placed })
}

/** The voice that the room works on: the chosen one, or the first. */
export function chosenVoice(song: Song): Song['layers'][number] | null {
  const { layerId } = useMix.getState()
  return song.layers.find(layer => layer.id === layerId) ?? song.layers[0] ?? null
}

const Word = chakra('button', {
  base: {
    px: '8px',
    height: '28px',
    borderRadius: '9px',
    borderWidth: '1px',
    borderColor: 'seamline',
    bg: 'card',
    cursor: 'pointer',
    _hover: { bg: 'sunken' },
    _pressed: { bg: 'sunken', borderColor: 'brand', borderStyle: 'dashed', fontWeight: 600 },
  },
})

interface LineWordsProps {
  placed: PlacedLine
  chosen: WordRange | null
  /** Words that have something on them, and how that is said and shown. */
  marked: readonly WordRange[]
  said: string
  mark: ReactNode
}

export function LineWords({ placed, chosen, marked, said, mark }: LineWordsProps) {
  const { line } = placed
  const words = wordsOfLine(line)
  const choose = (at: number, extended: boolean) => {
    const from = extended && chosen ? Math.min(chosen.from, at) : at
    const to = extended && chosen ? Math.max(chosen.to, at) : at
    useMix.setState({ words: { lineId: line.id, from, to } })
  }
  if (words.length === 0) {
    return (
      <Text mt={2}>
        {lineTitle(placed)} has no words: all of it is meant. {marked.length > 0 ? mark : null}
      </Text>
    )
  }
  return (
    <Flex mt={2} gap="5px" wrap="wrap" role="group" aria-label={`Words of “${lineTitle(placed)}”; Shift for several`}>
      {words.map((word, i) => {
        const isMarked = marked.some(range => i >= range.from && i <= range.to)
        return (
          <Word
            key={i}
            aria-pressed={chosen !== null && i >= chosen.from && i <= chosen.to}
            aria-label={isMarked ? `${word}, ${said}` : word}
            onClick={event => choose(i, event.shiftKey)}
          >
            {word}
            {marked.some(({ to }) => to === i) ? mark : null}
          </Word>
        )
      })}
    </Flex>
  )
}

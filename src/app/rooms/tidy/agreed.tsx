/** Notes on which the other takes agree otherwise: proposed with the reason, and drawn or left only when it is said. */
import { Flex, Text } from '@chakra-ui/react'
import type { AgreedNote } from '../../../core/prints/agreed-notes'
import { count } from '../../shared/format'
import { Pill } from '../../shared/parts'
import { bareWord } from './mend-words'
import { nameOfRung } from './note-words'
import { layRungs } from './tidying'
import { useAgreed } from './use-agreed'
import type { Line } from './use-line'

/** More than so many words are counted. */
const MOST_WORDS = 3

export function Agreed({ line }: { line: Line }) {
  const all = useAgreed(line)
  const meant = all.filter(({ kind }) => kind === 'meant')
  const elsewhere = all.filter(({ kind }) => kind === 'elsewhere')
  return (
    <>
      {meant.length > 0 ? (
        <Proposal
          text={`${wordsOf(meant, line)}: off the rung in every take. Meant so?`}
          act="Leave as sung"
          onTake={() =>
            layRungs(
              meant.map(({ note }) => ({ note, rungCents: null })),
              `leave ${count(meant.length, 'note')} as sung`,
            )
          }
        />
      ) : null}
      {elsewhere.length > 0 ? (
        <Proposal
          text={`${wordsOf(elsewhere, line)}: the other takes sing ${elsewhere.length === 1 ? nameOfRung(elsewhere[0]!.cents, line.song) : 'other notes'}.`}
          act="Draw there"
          onTake={() =>
            layRungs(
              elsewhere.map(({ note, cents }) => ({ note, rungCents: cents })),
              `draw ${count(elsewhere.length, 'note')} to where the other takes sing`,
            )
          }
        />
      ) : null}
    </>
  )
}

function Proposal({ text, act, onTake }: { text: string; act: string; onTake: () => void }) {
  return (
    <Flex mt={2} pt={2} gap={2} align="center" borderTopWidth="1px" borderStyle="dashed" borderColor="seamline">
      <Text flex="1" minW={0} role="status">
        {text}
      </Text>
      <Pill size="xs" px={3} flexShrink={0} onClick={onTake}>
        {act}
      </Pill>
    </Flex>
  )
}

function wordsOf(agreed: readonly AgreedNote[], { words }: Line): string {
  const names = agreed
    .map(({ note }) => words.findLast(word => word.startFrame <= (note.startFrame + note.endFrame) / 2))
    .flatMap(word => (word ? [`‘${bareWord(word)}’`] : []))
  const apart = [...new Set(names)]
  return apart.length === 0 || apart.length > MOST_WORDS ? count(agreed.length, 'note') : apart.join(', ')
}

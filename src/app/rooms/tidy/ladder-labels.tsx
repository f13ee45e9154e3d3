/** What is written on the ladder: the words, how far each note is off, the mend that is looked at. */
import { chakra } from '@chakra-ui/react'
import { HEIGHT, heightsOf, LEFT, type Frame } from './ladder-frame'
import { MEND_NAMES } from './mend-words'
import { leftWords } from './note-words'
import { keyOfMend, keyOfNote } from './tidy-store'
import type { Line } from './use-line'

/** Where it crosses the sung pitch, it stands before it: a minus is as thin as that. */
const HALO = Array.from({ length: 6 }, () => '0 0 3px var(--chakra-colors-sunken)').join(', ')
const Written = chakra('span', { base: { position: 'absolute', fontWeight: 600, whiteSpace: 'nowrap', pointerEvents: 'none', textShadow: HALO } })
const SMALL = { fontSize: '11.5px', lineHeight: '16px' } as const
/** What is written under a note is worth it from here on. */
const WORTH_CENTS = 8

/** A letter is about so wide; a word that would lie on the one before it at the same height is left out. */
const LETTER_WIDTH = 8.6
const WORD_HEIGHT = 22

/** In the serif face, over the note that they begin on. */
export function Words({ line, frame }: { line: Line; frame: Frame }) {
  const placed: { left: number; right: number; top: number }[] = []
  return line.words.map(word => {
    const over = line.notes.filter(note => note.startFrame < word.endFrame && note.endFrame > word.startFrame)
    const heights = over.flatMap(({ note, drawnToCents }) => [note.cents, drawnToCents])
    const top = Math.max(20, heights.length > 0 ? frame.y(Math.max(...heights)) - 36 : HEIGHT - 102)
    const left = Math.max(LEFT, frame.x(over[0] ? Math.max(word.startFrame, over[0].startFrame) : word.startFrame))
    const right = left + LETTER_WIDTH * word.word.length
    if (right > frame.right || placed.some(other => left < other.right && right > other.left && Math.abs(top - other.top) < WORD_HEIGHT)) return null
    placed.push({ left, right, top })
    return (
      <Written key={word.startFrame} style={{ left, top }} fontFamily="heading" fontSize="17px" lineHeight="24px" color={over.length > 0 ? 'ink' : 'ink.soft'}>
        {word.word}
      </Written>
    )
  })
}

/** A label is about so large; one that would lie on another is left to the note's own words. */
const LABEL = { width: 46, height: 15 }

/** How far each note was sung off its rung, where that is worth a word. */
export function Offs({ line, frame }: { line: Line; frame: Frame }) {
  const placed: { left: number; top: number }[] = []
  return line.notes.map(note => {
    const { cents, targetCents } = note.note
    const off = note.rungCents === null ? 0 : Math.round(cents - (targetCents ?? note.rungCents))
    if (Math.abs(off) < WORTH_CENTS && note.own === null) return null
    const [left, top] = [Math.max(LEFT, frame.x(note.startFrame)), Math.min(HEIGHT - 84, heightsOf(note, frame)[1] + 8)]
    if (placed.some(other => Math.abs(other.left - left) < LABEL.width && Math.abs(other.top - top) < LABEL.height)) return null
    placed.push({ left, top })
    const why = leftWords(note)
    return (
      <Written key={keyOfNote(note)} aria-hidden style={{ left, top }} {...SMALL} color={why ? 'ink.soft' : 'warn'} fontStyle={why ? 'italic' : undefined}>
        {off > 0 ? '+' : off < 0 ? '−' : ''}
        {Math.abs(off)} ct{note.own && why ? `, ${why}` : ''}
      </Written>
    )
  })
}

/** Of a mend's name with its amount, at most. */
const NAME_WIDTH = 110

/** Beside the patch of the mend that is looked at: what it is, and by how much. */
export function ChosenMend({ line, frame, chosen }: { line: Line; frame: Frame; chosen: string | null }) {
  const at = line.mends.find(mend => keyOfMend(mend) === chosen)
  if (!at) return null
  const { kind, decibels } = at.mend
  const how = at.isOff ? 'taken off' : kind === 'click' ? 'mended' : `${decibels} dB`.replace('-', '−')
  const after = frame.x(at.endFrame) + 6
  // Where there is no room behind it, it stands before it.
  const isBefore = after > frame.right - NAME_WIDTH
  const left = Math.max(LEFT, isBefore ? frame.x(at.startFrame) - 6 - NAME_WIDTH : after)
  return (
    <Written aria-hidden style={{ left, top: HEIGHT - 24, width: isBefore ? NAME_WIDTH : undefined, textAlign: 'right' }} {...SMALL} color="ink.soft">
      {MEND_NAMES[kind]} {how}
    </Written>
  )
}

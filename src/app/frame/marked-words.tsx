/** A line of the sheet with a mark after each stretch of words that is thrown. */
import { Fragment } from 'react'
import { wordsOfLine, type WordRange } from '../../core/song/anchor'
import type { PlacedLine } from '../../core/song/select'
import { ThrownMark } from '../shared/thrown-mark'

/** Numbers of the last words of what is thrown, rising, with a comma each; empty: nothing is. */
export function endsOf(thrown: readonly WordRange[] | undefined): string {
  return [...new Set((thrown ?? []).map(({ to }) => to))].sort((a, b) => a - b).join()
}

const read = (ends: string) => new Set(ends.split(',').map(Number))

/** For a screen reader. */
export function thrownText({ line }: PlacedLine, ends: string): string {
  const numbers = read(ends)
  return (
    wordsOfLine(line)
      .filter((_, i) => numbers.has(i))
      .join(', ') || 'the line'
  )
}

export function MarkedWords({ placed: { line, number }, thrown }: { placed: PlacedLine; thrown: string }) {
  const ends = read(thrown)
  const words = wordsOfLine(line)
  if (words.length === 0) {
    return (
      <>
        line {number}
        <ThrownMark />
      </>
    )
  }
  return words.map((word, i) => (
    <Fragment key={i}>
      {i > 0 ? ' ' : ''}
      {word}
      {ends.has(i) ? <ThrownMark /> : null}
    </Fragment>
  ))
}

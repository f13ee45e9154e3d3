import { describe, expect, test } from '@jest/globals'
import { placedLines } from './select'
import { smallSong } from './song.test-kit'
import { beatsRound, placeWords } from './words'

const song = smallSong()

describe('one word of a line', () => {
  const line = placedLines({
    ...smallSong(),
    sections: smallSong().sections.map(section => ({ ...section, lines: section.lines.map(entry => ({ ...entry, words: 'slow ferry carry the lights' })) })),
  })[0]
  test('lies in its order inside the line, and is sung again over whole beats, a second at least', () => {
    const words = placeWords(line)
    expect(words.map(({ word }) => word).join(' ')).toBe(line.line.words)
    expect(words.every((word, i) => word.startFrame >= (words[i - 1]?.endFrame ?? line.startFrame) && word.endFrame <= line.endFrame)).toBe(true)
    for (const word of words) {
      const { startFrame, endFrame } = beatsRound(word, line, song.beat.grid)
      expect(startFrame).toBeLessThanOrEqual(word.startFrame)
      expect(endFrame).toBeGreaterThanOrEqual(word.endFrame)
      expect([startFrame % 24_000, endFrame % 24_000]).toEqual([0, 0])
      expect(endFrame - startFrame).toBeGreaterThanOrEqual(48_000)
      expect(endFrame).toBeLessThanOrEqual(line.endFrame)
    }
  })
})

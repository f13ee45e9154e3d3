import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { parseLyrics } from './lyrics'
import { layLyrics } from './lay-lyrics'
import { SongSchema } from './schema'
import { makeId, smallSong } from './song.test-kit'

describe('timed lyrics', () => {
  test('are read as their words, by line and by word; what is said about the file is no line', () => {
    const text =
      '[ti:Slow Ferry]\n[ar: The Quay]\n[00:12.30]Harbour <00:12.80>radio <00:13>hums\n[00:15.1][01:15.1] in the rain\n[00:20.00]\n[00:22.00]last boat'
    expect(parseLyrics(text)).toEqual([
      { name: 'Verse 1', lines: ['Harbour radio hums', 'in the rain'], bar: null, bars: null },
      { name: 'Verse 2', lines: ['last boat'], bar: null, bars: null },
    ])
  })

  test('leave headings, bars and words with signs as they were', () => {
    expect(parseLyrics('[Hook | bar 17 | 8 bars]\nat 12:30 <we> go [home]')).toEqual([{ name: 'Hook', lines: ['at 12:30 <we> go [home]'], bar: 17, bars: 8 }])
  })

  test('and anything else that is pasted make a sheet that can be kept, or none', () => {
    const piece = fc.oneof(
      fc.constantFrom('[', ']', '<', '>', '00:12.3', '|', 'bar 999999', '\n', '\r', '…', '[00:01.00]', '[ti:', '\u202e'),
      fc.string({ maxLength: 8 }),
    )
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 40 }), pieces => {
        const song = layLyrics(smallSong(), { lyrics: parseLyrics(pieces.join('')), firstBar: 1, makeId })
        expect(SongSchema.safeParse(song).error).toBeUndefined()
      }),
      { numRuns: 300 },
    )
  })
})

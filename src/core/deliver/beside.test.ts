import { describe, expect, test } from '@jest/globals'
import { sung } from '../mix/mix.test-kit'
import { heardAt } from '../mix/throws.test-kit'
import { setLineWords } from '../song/lines'
import { placedLines } from '../song/select'
import { lineRange, smallSong } from '../song/song.test-kit'
import { lrcText, lyricsText, markersCsv } from './beside'

test('lyrics as text are the sheet, section by section', () => {
  expect(lyricsText(smallSong())).toBe('Test\n\n[Verse]\none\ntwo\nthree\nfour\n\n[Hook]\nfive\nsix\n')
})

describe('timed lyrics', () => {
  const FIRST = lineRange(0).startFrame
  const song = (() => {
    const base = sung()
    const worded = setLineWords(base, { lineId: placedLines(base)[0].line.id, words: 'carry [the] <lights> home' })
    return heardAt(worded, [{ take: 0, phrase: [FIRST + 14_400, FIRST + 132_000], onsets: [0, 1, 1.5, 2].map(seconds => FIRST + 14_400 + seconds * 48_000) }])
  })()

  test('have a line where it is sung and each word at its own time, in hundredths; brackets of words do not break them', () => {
    const lrc = lrcText(song, song.layers[0], { artist: 'The Quay' }).split('\n')
    expect(lrc.slice(0, 3)).toEqual(['[ti:Test]', '[ar:The Quay]', '[length:00:20]'])
    // The line begins at 8 s, it is sung 0.3 s later.
    expect(lrc[3]).toBe('[00:08.30]<00:08.30>carry <00:09.30>the <00:09.80>lights <00:10.30>home')
    for (const line of lrc.slice(3, -1)) expect(line).toMatch(/^\[\d\d:\d\d\.\d\d\](<\d\d:\d\d\.\d\d>[^<>[\]]+)+$/)
  })

  test('of a song that nobody sings lie on its lines, in order', () => {
    const times = lrcText(smallSong(), null)
      .split('\n')
      .flatMap(line => /^\[(\d\d):(\d\d\.\d\d)\]/.exec(line)?.slice(1) ?? [])
    expect(times.slice(0, 4)).toEqual(['00', '08.00', '00', '12.00'])
  })
})

test('places are a table that names with commas, quotes and formulas do not break', () => {
  const base = smallSong()
  const odd = setLineWords(base, { lineId: placedLines(base)[0].line.id, words: '=1+1, "so"' })
  const rows = markersCsv(odd).trim().split('\r\n')
  expect(rows[0]).toBe('kind,name,bar,seconds,bpm')
  expect(rows[1]).toBe('tempo,mean,,,120.00')
  expect(rows).toContain('section,Verse,5,8.000,120.00')
  expect(rows).toContain('line,"\'=1+1, ""so""",5,8.000,120.00')
})

/** The song's MIDI file, read by another program. */
import { expect, test } from '@jest/globals'
import { hasDecoders, midiByMidicsv } from '../files/other-decoders.test-kit'
import { sung } from '../mix/mix.test-kit'
import { heardAt } from '../mix/throws.test-kit'
import { setPart } from '../parts/commands'
import { setLineWords } from '../song/lines'
import { setGrid } from '../song/sections'
import { placedLines, requireLayer } from '../song/select'
import { layerOf, lineRange, makeId } from '../song/song.test-kit'
import { sessionSheet } from './session-sheet'
import { songMidi } from './song-notes'

const tested = hasDecoders ? test : test.skip

tested('tempo, bars, sections, the lead’s notes with their words and the parts of layers stand where they sound', () => {
  const base = sung()
  const FIRST = lineRange(0).startFrame
  const worded = setLineWords(base, { lineId: placedLines(base)[0].line.id, words: 'carry thé lights home' })
  const heard = heardAt(worded, [{ take: 0, phrase: [FIRST, FIRST + 117_600], onsets: [0, 1, 1.5, 2].map(seconds => FIRST + seconds * 48_000) }])
  const high = layerOf(heard, 'High 1')
  const song = setPart(heard, {
    layerId: high,
    range: lineRange(1),
    notes: [{ startFrame: lineRange(1).startFrame, endFrame: lineRange(1).startFrame + 24_000, midi: 67 }],
  })
  const rows = midiByMidicsv(songMidi(song, requireLayer(song, layerOf(song, 'Lead'))))
  const of = (kind: string) => rows.filter(row => row[2] === kind)
  expect(of('Header')[0].slice(3)).toEqual(['1', '3', '960'])
  expect(of('Title_t').map(row => row[3])).toEqual(['"Test"', '"Lead"', '"High 1 part"'])
  expect(of('Tempo')).toEqual([['1', '0', 'Tempo', '500000']])
  expect(of('Time_signature')[0].slice(3, 5)).toEqual(['4', '2'])
  // Bar 5 begins with beat 16.
  expect(of('Marker_t')[1].slice(1)).toEqual([String(16 * 960), 'Marker_t', '"Verse"'])
  expect(of('Lyric_t').map(row => row.slice(1))).toEqual([
    [String(16 * 960), 'Lyric_t', '"carry"'],
    [String(18 * 960), 'Lyric_t', '"thé"'],
    [String(19 * 960), 'Lyric_t', '"lights"'],
    [String(20 * 960), 'Lyric_t', '"home"'],
  ])
  expect(
    of('Note_on_c')
      .filter(row => row[0] === '3')
      .map(row => [row[1], row[4]]),
  ).toEqual([[String((lineRange(1).startFrame / 24_000) * 960), '67']])
})

tested('a song that begins before its first bar keeps its notes in time', () => {
  const base = sung()
  const song = setGrid(base, { grid: { ...base.beat.grid, tempoBpm: 96, barOneFrame: 13_000 }, makeId })
  const rows = midiByMidicsv(songMidi(song, null))
  const marker = rows.find(row => row[3] === '"Verse"')!
  const seconds = (Number(marker[1]) / 960) * (60 / 96)
  const { startBar } = song.sections.find(({ name }) => name === 'Verse')!
  expect(Math.abs(seconds - (13_000 / 48_000 + (startBar - 1) * 4 * (60 / 96)))).toBeLessThan(0.001)
})

test('the session sheet says what there is; words that look like a page are words', () => {
  const base = sung()
  const song = { ...setLineWords(base, { lineId: placedLines(base)[0].line.id, words: '<script>alert(1)</script> & "so"' }), title: '<b>' }
  const page = sessionSheet(song, { artist: 'The <Quay>', date: '2026-11-30' })
  expect(page).not.toMatch(/<script|<b>|<Quay>/)
  expect(page).toContain('&lt;script&gt;alert(1)&lt;/script&gt; &amp; &quot;so&quot;')
  expect(page).toContain('<td>2 takes, 2 lines picked</td>')
  expect(page).toContain('120 bpm, 4/4')
})

import { describe, expect, test } from '@jest/globals'
import { frameOfBar } from '../beat/grid'
import { spansOfBeat } from '../mix/beat-spans'
import {
  addTreatment,
  areBarsMuted,
  barsFallenSilent,
  dropBars,
  isRearranged,
  muteBars,
  removeTreatments,
  repeatBars,
  replaceBeatFile,
  shiftPieces,
  sourceRanges,
  swapBars,
  treatmentsOver,
} from './arrangement'
import { setChord } from './beat-facts'
import type { AssetId, Song, Treatment } from './schema'
import { smallSong } from './song.test-kit'

let made = 0
const makeId = () => `made-${++made}`
const song = setChord(smallSong(), { startBeat: 16, beatCount: 4, chord: { root: 5, quality: 'minor' } })
const { grid, frames } = song.beat
const BAR = frameOfBar(grid, 2) - frameOfBar(grid, 1)

/** The file's frame that is heard at a frame of the song, or null. */
function sourceAt(current: Song, frame: number): number | null {
  const span = spansOfBeat(current.beat).find(entry => frame >= entry.startFrame + entry.fadeInFrames && frame < entry.endFrame - entry.fadeOutFrames)
  return span ? frame - span.originFrame : null
}

/** Pieces follow each other without gaps from 0 to the beat's length. */
function expectWhole(current: Song): void {
  let at = 0
  for (const piece of current.beat.pieces) {
    expect(piece.startFrame).toBe(at)
    at += piece.frames
  }
  expect(at).toBe(current.beat.frames)
}

describe('arranging the beat', () => {
  test('repeated bars sound again, all after them comes later, sections and chords with it', () => {
    const section = song.sections[1]!
    const again = repeatBars(song, { startBar: section.startBar, barCount: section.barCount, makeId })
    expectWhole(again)
    expect(again.beat.frames).toBe(frames + section.barCount * BAR)
    const inSection = frameOfBar(grid, section.startBar) + BAR / 2
    expect(sourceAt(again, inSection + section.barCount * BAR)).toBe(inSection)
    const last = song.sections.at(-1)!
    expect(sourceAt(again, frameOfBar(grid, last.startBar + section.barCount) + 1_000)).toBe(frameOfBar(grid, last.startBar) + 1_000)
    expect(again.sections.map(entry => entry.startBar)).toEqual([
      ...song.sections.slice(0, 2).map(entry => entry.startBar),
      section.startBar + section.barCount,
      ...song.sections.slice(2).map(entry => entry.startBar + section.barCount),
    ])
    expect(new Set(again.sections.flatMap(entry => entry.lines.map(line => line.id))).size).toBe(again.sections.flatMap(entry => entry.lines).length)
    expect(again.beat.chords.map(chord => chord.startBeat)).toEqual([16, 16 + section.barCount * 4])
  })

  test('leaving out what was repeated gives the same sound as before; swapping twice as well', () => {
    const { startBar, barCount } = song.sections[1]!
    const back = dropBars(repeatBars(song, { startBar, barCount, makeId }), { startBar: startBar + barCount, barCount, makeId })
    expect(back.beat.pieces).toEqual(song.beat.pieces)
    expect(isRearranged(back)).toBe(false)
    const next = song.sections[2]!
    const swapped = swapBars(song, { startBar, barCount, nextBarCount: next.barCount, makeId })
    expectWhole(swapped)
    expect(swapped.sections[1]!.id).toBe(next.id)
    expect(swapBars(swapped, { startBar, barCount: next.barCount, nextBarCount: barCount, makeId }).beat.pieces).toEqual(song.beat.pieces)
    expect(() => dropBars(song, { startBar: 1, barCount: 500, makeId })).toThrow(RangeError)
  })

  test('bars inside a section that come again, go or change places leave it one section, its lines with their bars', () => {
    const { id, startBar, barCount, lines } = song.sections[1]!
    const inside = { startBar: startBar + 1, barCount: 2 }
    const sectionsOf = (current: Song) => current.sections.map(section => [section.id, section.barCount])
    const linesOf = (current: Song) => current.sections.find(section => section.id === id)!.lines
    const longer = repeatBars(song, { ...inside, makeId })
    expectWhole(longer)
    expect(sectionsOf(longer)).toEqual(song.sections.map(section => [section.id, section.barCount + (section.id === id ? 2 : 0)]))
    const repeated = lines.filter(line => line.startBeat >= 4 && line.startBeat < 12)
    expect(linesOf(longer).map(line => line.startBeat)).toEqual([
      ...lines.filter(line => line.startBeat < 12).map(line => line.startBeat),
      ...repeated.map(line => line.startBeat + 8),
      ...lines.filter(line => line.startBeat >= 12).map(line => line.startBeat + 8),
    ])
    expect(new Set(linesOf(longer).map(line => line.id)).size).toBe(linesOf(longer).length)
    const shorter = dropBars(song, { ...inside, makeId })
    expect(sectionsOf(shorter)).toEqual(song.sections.map(section => [section.id, section.barCount - (section.id === id ? 2 : 0)]))
    expect(linesOf(shorter).map(line => line.id)).toEqual(lines.filter(line => line.startBeat < 4 || line.startBeat >= 12).map(line => line.id))
    const swapped = swapBars(song, { startBar: startBar + 1, barCount: 1, nextBarCount: 1, makeId })
    expect(sectionsOf(swapped)).toEqual(sectionsOf(song))
    expect(
      linesOf(swapped)
        .map(line => line.id)
        .sort(),
    ).toEqual(lines.map(line => line.id).sort())
    expect(barCount).toBeGreaterThan(3)
  })

  test('silent bars are silent and nothing else is; letting them sound makes the beat whole', () => {
    const silent = muteBars(song, { startBar: 3, barCount: 2, muted: true })
    expect(areBarsMuted(silent, { startBar: 3, barCount: 2 })).toBe(true)
    expect(sourceAt(silent, frameOfBar(grid, 3) + 5_000)).toBeNull()
    expect(sourceAt(silent, frameOfBar(grid, 5) + 5_000)).toBe(frameOfBar(grid, 5) + 5_000)
    expect(muteBars(silent, { startBar: 3, barCount: 2, muted: false }).beat.pieces).toEqual(song.beat.pieces)
  })

  test('pieces that meet with a cut cross over 10 ms on both sides of the bar line; those that run on do not', () => {
    const swapped = swapBars(song, { startBar: 2, barCount: 1, nextBarCount: 1, makeId })
    const [, second] = spansOfBeat(swapped.beat)
    expect([second!.startFrame, second!.fadeInFrames, second!.alikeIn]).toEqual([frameOfBar(grid, 2) - 240, 480, true])
    expect(spansOfBeat(song.beat)).toEqual([expect.objectContaining({ startFrame: 0, endFrame: frames, fadeInFrames: 0, fadeOutFrames: 0 })])
    expect(shiftPieces(swapped, { shifts: [0, 12, 0, 0] }).beat.pieces[1]!.sourceFrame).toBe(swapped.beat.pieces[1]!.sourceFrame + 12)
  })

  test('a treated stretch stands in for its part of the file wherever that sounds', () => {
    const range = { startBar: 2, barCount: 1 }
    const [stretch] = sourceRanges(song, range)
    const treatment: Treatment = { id: 't', kind: 'far away', amount: 0.5, fadeFrames: 9, ...stretch!, assetId: 'treated' as AssetId }
    const coloured = addTreatment(repeatBars(song, { ...range, makeId }), { treatment })
    const treated = spansOfBeat(coloured.beat).filter(span => span.assetId === 'treated')
    expect(treated.map(span => span.startFrame - span.originFrame)).toEqual([0, expect.any(Number)])
    expect(treatmentsOver(coloured, { startBar: 3, barCount: 1 })).toHaveLength(1)
    expect(treatmentsOver(coloured, { startBar: 5, barCount: 1 })).toHaveLength(0)
    const plain = removeTreatments(coloured, { ids: ['t'] })
    expect(spansOfBeat(plain.beat).every(span => span.assetId === song.beat.assetId)).toBe(true)
  })

  test('a newer file is laid where the old one was, and a longer one sounds to its end', () => {
    const newer = replaceBeatFile(song, { assetId: 'new' as AssetId, fileName: 'better.wav', sourceFrames: frames + 96_000, offsetFrames: 480 })
    expect(sourceAt(newer, 48_000)).toBe(48_480)
    expect(newer.beat).toMatchObject({ assetId: 'new', fileName: 'better.wav', frames: frames + 95_520 })
    expect(newer.takes).toBe(song.takes)
    expect(barsFallenSilent(song, newer)).toEqual([])
    const cutShort: Song = { ...song, beat: { ...song.beat, frames: frames - 70_000, pieces: [{ ...song.beat.pieces[0], frames: frames - 70_000 }] } }
    expect(barsFallenSilent(cutShort, cutShort)).toEqual([])
  })

  test('a shorter one leaves its last bars silent, wherever they sound, and they are named', () => {
    const half = { assetId: 'new' as AssetId, fileName: 'half.wav', sourceFrames: frames / 2, offsetFrames: 0 }
    expect(barsFallenSilent(song, replaceBeatFile(song, half))).toEqual([{ startBar: 17, barCount: 16 }])
    // Bars 29 and 30 of the file now sound at its start too, and bar 3 was silent before.
    const arranged = muteBars(swapBars(song, { startBar: 1, barCount: 28, nextBarCount: 2, makeId }), { startBar: 3, barCount: 1, muted: true })
    expect(barsFallenSilent(arranged, replaceBeatFile(arranged, half))).toEqual([
      { startBar: 1, barCount: 2 },
      { startBar: 19, barCount: 14 },
    ])
  })
})

import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { frameOfBeat, withDoubledTempo } from '../beat/grid'
import { checkPick, pickTake } from '../comp/picks'
import { parseLyrics } from '../files/lyrics'
import { addLayer, describeLayer, layTemplate, moveLayer, removeLayer } from '../layers/template'
import { setBeatMix, setLayerMix, setSpace, setVocalBus } from '../mix/commands'
import { amend, beginHistory, record, redo, undo, type History } from './history'
import { layLyrics, layTappedLines, layWordlessLines } from './lay-lyrics'
import { openSong } from './open'
import { cutPasses, flawsOfPass } from './recording'
import type { BeatAnalysis } from '../beat/analyse'
import { dropBars, muteBars, repeatBars } from './arrangement'
import { applyAnalysis, layFoundChords, layFoundSections, setKey, setChord } from './beat-facts'
import { defaultSections, joinSectionWithNext, moveSectionStart, renameSection, setGrid, splitSection } from './sections'
import { SONG_VERSION, type SectionId, type Song, type TakeId } from './schema'
import { binnedTakes, lineState, placedLines, requireLayer } from './select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from './song.test-kit'
import { placeOfTake } from './take-place'
import { setTitle } from './title'
import { beatsRound, placeWords } from './words'
import { addTakes, binTake, describeTake, restoreTake, usesOfTake, placeAgain } from './takes'

const song = withTakes(smallSong(), 'Lead', 3)
const lead = layerOf(song, 'Lead')

/** Every command with arguments that fit the test song. */
const COMMANDS: [string, (song: Song) => Song][] = [
  ['set the grid', s => setGrid(s, { grid: { ...s.beat.grid, tempoBpm: 121 }, makeId })],
  ['halve the tempo', s => setGrid(s, { grid: { ...s.beat.grid, tempoBpm: 60 }, makeId })],
  ['set the key', s => setKey(s, { key: { tonic: 'F', mode: 'minor' } })],
  ['rename a section', s => renameSection(s, { sectionId: s.sections[0].id, name: 'Opening' })],
  ['split', s => (s.sections.at(-1)!.barCount > 1 ? splitSection(s, { sectionId: s.sections.at(-1)!.id, bar: s.sections.at(-1)!.startBar + 1, newSectionId: makeId() as SectionId }) : s)],
  ['join', s => joinSectionWithNext(s, { sectionId: s.sections[0].id })],
  ['lay words', s => layLyrics(s, { lyrics: parseLyrics('a\nb\n\nc'), firstBar: 3, makeId })],
  ['lay lines', s => layWordlessLines(s, { sectionIds: s.sections.map(section => section.id), makeId })],
  ['template', s => layTemplate(s, { makeId })],
  ['add a layer', s => addLayer(s, { name: 'Whisper', role: 'double', makeId })],
  ['rename a layer', s => describeLayer(s, { layerId: s.layers[0].id, name: 'Main', tint: 'ad-lib' })],
  ['move a layer', s => moveLayer(s, { layerId: s.layers[0].id, by: 2 })],
  ['remove a layer', s => (s.layers.length > 1 ? removeLayer(s, { layerId: s.layers[0].id }) : s)],
  ['star', s => describeTake(s, { takeId: s.takes[0].id, starred: true })],
  ['bin', s => binTake(s, { takeId: s.takes[1].id })],
  ['restore', s => restoreTake(s, { takeId: s.takes[1].id, layerId: s.layers[0].id })],
  ['level', s => setLayerMix(s, { layerId: s.layers[0].id, gainDecibels: -3, muted: true })],
  ['beat level', s => setBeatMix(s, { gainDecibels: -6 })],
  ['vocal bus', s => setVocalBus(s, { gainDecibels: -2 })],
  ['space', s => setSpace(s, { decaySeconds: 3 })],
  ['repeat bars', s => repeatBars(s, { startBar: 3, barCount: 2, makeId })],
  ['leave bars out', s => dropBars(s, { startBar: 2, barCount: 1, makeId })],
  ['silence bars', s => muteBars(s, { startBar: 2, barCount: 2, muted: true })],
  ['set a chord', s => setChord(s, { startBeat: 6, beatCount: 3, chord: { root: 2, quality: 'seventh' } })],
  ['drift', s => setGrid(s, { grid: { ...s.beat.grid, map: { firstBeat: 0, frames: [0, 24_000, 49_000, 75_000] } }, makeId })],
  ['pick', s => (!checkPick(s, { layerId: s.layers[0].id, takeId: s.takes[0].id, ...lineRange(0) }).ok ? s : pickTake(s, { layerId: s.layers[0].id, takeId: s.takes[0].id, ...lineRange(0), makeId }))],
]

describe('history', () => {
  const steps = fc.array(fc.constantFrom(...COMMANDS), { minLength: 1, maxLength: 12 })

  test('after any commands undo gives every earlier song back, and redo every later one', () => {
    fc.assert(
      fc.property(steps, commands => {
        const histories: History[] = [beginHistory(song)]
        for (const [label, command] of commands) histories.push(record(histories.at(-1)!, label, command(histories.at(-1)!.song)))
        const distinct = histories.filter((history, i) => i === 0 || history.song !== histories[i - 1].song)
        let current = distinct.at(-1)!
        for (let i = distinct.length - 2; i >= 0; i--) expect((current = undo(current)).song).toBe(distinct[i].song)
        for (let i = 1; i < distinct.length; i++) expect((current = redo(current)).song).toBe(distinct[i].song)
      }),
      { numRuns: 60 },
    )
  })

  test('no command leaves a song that its own schema refuses', () => {
    fc.assert(
      fc.property(steps, commands => {
        const after = commands.reduce((current, [, command]) => command(current), song)
        expect(openSong(JSON.parse(JSON.stringify(after)))).toMatchObject({ kind: 'current' })
      }),
      { numRuns: 60 },
    )
  })

  test('a take recorded after a step stays when the step is undone, even when its layer goes', () => {
    const bare = smallSong()
    let history = record(beginHistory(bare), 'add a layer', addLayer(bare, { name: 'Late', role: 'double', makeId }))
    const layerId = history.song.layers.at(-1)!.id
    const take = { ...song.takes[0], id: 'sung-later' as TakeId, layerId }
    history = undo(amend(history, addTakes(history.song, { takes: [take] })))
    expect(history.song.takes).toContainEqual(take)
    expect(binnedTakes(history.song)).toContainEqual(take)
    expect(openSong(history.song).kind).toBe('current')
    expect(redo(history).song.layers.some(layer => layer.id === layerId)).toBe(true)
  })
})

describe('opening a stored document', () => {
  test('the current version comes back as it was', () => {
    expect(openSong(JSON.parse(JSON.stringify(song)))).toEqual({ kind: 'current', song })
  })
  test('an older version is migrated', () => {
    const old = { ...song, version: 0, sectionsAreDefault: undefined }
    expect(openSong(JSON.parse(JSON.stringify(old)))).toMatchObject({ kind: 'current', song: { version: SONG_VERSION, sectionsAreDefault: false } })
  })
  test('a newer version is shown but marked', () => {
    expect(openSong({ ...song, version: 7 })).toMatchObject({ kind: 'newer', version: 7 })
  })
  test.each([
    ['a pick of a take that is not there', (s: Song) => ({ ...s, takes: [], layers: [{ ...s.layers[0], comps: [{ ...s.layers[0].comps[0], picks: [{ id: 'p', takeId: 'gone', startFrame: 0, endFrame: 9, gainDecibels: 0, levelMatched: false, nudgeFrames: 0, seam: null, split: false }] }] }] })],
    ['a level that is not a number', (s: Song) => ({ ...s, vocalBus: { ...s.vocalBus, gainDecibels: Number.NaN } })],
    ['an unknown field', (s: Song) => ({ ...s, script: 'x' })],
    ['overlapping sections', (s: Song) => ({ ...s, sections: [s.sections[0], s.sections[0]] })],
  ])('%s is refused with its place', (_, damage) => {
    const opened = openSong(damage(song))
    expect(opened.kind).toBe('damaged')
    expect(opened.kind === 'damaged' && opened.problems[0].path.length).toBeGreaterThan(0)
  })
})

describe('sheet and grid', () => {
  test('lyrics become sections and lines of two bars each, with intro and outro round them', () => {
    expect(song.sections.map(section => [section.name, section.startBar, section.barCount])).toEqual([['Intro', 1, 4], ['Verse', 5, 8], ['Hook', 13, 4], ['Outro', 17, 16]])
    expect(placedLines(song).map(({ startFrame, endFrame }) => ({ startFrame, endFrame }))).toEqual([0, 1, 2, 3, 4, 5].map(lineRange))
  })
  test('a small correction of the tempo takes the lines along; halving it keeps them where they were in time', () => {
    const corrected = setGrid(song, { grid: { ...song.beat.grid, tempoBpm: 121 }, makeId })
    expect(corrected.sections.map(section => section.startBar)).toEqual([1, 5, 13, 17])
    const halved = setGrid(song, { grid: { ...song.beat.grid, tempoBpm: 60 }, makeId })
    expect(placedLines(halved).map(line => line.startFrame)).toEqual(placedLines(song).map(line => line.startFrame))
  })
  test('moving a section’s start takes from its neighbour; splitting and joining again gives the same bars', () => {
    const hook = song.sections[2]
    expect(moveSectionStart(song, { sectionId: hook.id, startBar: 11 }).sections.map(section => section.barCount)).toEqual([4, 6, 6, 16])
    const split = splitSection(song, { sectionId: song.sections[1].id, bar: 9, newSectionId: 'new' as SectionId })
    expect(placedLines(split).map(line => line.startFrame)).toEqual(placedLines(song).map(line => line.startFrame))
    expect(joinSectionWithNext(split, { sectionId: song.sections[1].id }).sections.map(section => section.barCount)).toEqual([4, 8, 4, 16])
    expect(() => moveSectionStart(song, { sectionId: hook.id, startBar: 5 })).toThrow(RangeError)
  })
})

describe('lines', () => {
  const section = song.sections[1]
  const sectionBeat = (section.startBar - 1) * 4
  test('tapped lines begin at the nearest beats, keep the words that are there, and last until the next', () => {
    const taps = [0.2, 7.9, 12.1].map(beat => frameOfBeat(song.beat.grid, sectionBeat) + Math.round(beat * 24_000))
    const lines = layTappedLines(song, { sectionId: section.id, frames: [...taps, -1], makeId }).sections[1].lines
    expect(lines.slice(0, 3).map(line => [line.startBeat, line.beatCount])).toEqual([[0, 8], [8, 4], [12, 4]])
    expect(lines.slice(0, section.lines.length).map(line => line.words)).toEqual(section.lines.map(line => line.words))
  })
  test('words are laid over one, two or four bars; a heading that names a part of the beat goes there', () => {
    const laid = layLyrics(song, { lyrics: parseLyrics(`[${song.sections[2].name}]\na\nb`), firstBar: 1, barsALine: 1, makeId })
    const found = laid.sections.find(entry => entry.name === song.sections[2].name)!
    expect([found.startBar, found.barCount]).toEqual([song.sections[2].startBar, song.sections[2].barCount])
    expect(found.lines.map(line => line.startBeat)).toEqual([0, 4])
  })
})

describe('what was heard in the beat', () => {
  const analysis: BeatAnalysis = {
    tempo: { readings: [{ tempoBpm: 92.59981, meter: [4, 4], beatsPerBar: 4, barOnes: [{ seconds: 0.373, confidence: 0.9 }], confidence: 0.9, meterConfidence: 1, swing: null, beats: null }] },
    key: { readings: [{ key: { tonic: 'F', mode: 'minor' }, colour: null, confidence: 0.7 }], tuningCents: 4, chroma: [] },
    chords: [],
    sections: [],
    level: { integratedLufs: -14, samplePeakDbfs: -1, truePeakDbtp: -0.8, clipped: [], channels: 'stereo', proposedGainDecibels: -4 },
  }
  const fresh: Song = { ...song, sections: defaultSections(song.beat.grid, song.beat.frames, makeId), sectionsAreDefault: true, beat: { ...song.beat, gridSource: 'unknown', keySource: 'unknown', key: null } }
  test('is taken while nothing is known, and default blocks of eight bars are laid over it', () => {
    const { beat, sections } = applyAnalysis(fresh, { analysis, makeId })
    expect(beat).toMatchObject({ grid: { tempoBpm: 92.6, barOneFrame: 17_904 }, gridSource: 'found', key: { tonic: 'F', mode: 'minor' }, tuningCents: 4 })
    expect(sections.slice(0, -1).every(section => section.barCount === 8)).toBe(true)
  })
  test('stays where it is in time when the other reading of the tempo is meant, and can be laid again by that', () => {
    const chord = { root: 5, quality: 'minor' } as const
    const heard: BeatAnalysis = {
      ...analysis,
      chords: [{ startBeat: 0, beatCount: 8, chord, confidence: 1 }, { startBeat: 8, beatCount: 8, chord: null, confidence: 1 }],
      sections: [{ startBar: 1, barCount: 4, letter: 'A', name: 'Intro' }, { startBar: 5, barCount: 12, letter: 'B', name: 'Verse 1' }],
    }
    const taken = applyAnalysis(fresh, { analysis: heard, makeId })
    expect(taken.sections.map(({ name, startBar, barCount }) => [name, startBar, barCount])).toEqual([['Intro', 1, 4], ['Verse 1', 5, 12]])
    const doubled = setGrid(taken, { grid: withDoubledTempo(taken.beat.grid), makeId })
    const shape = (s: Song) => [s.sections.map(({ name, startBar, barCount }) => [name, startBar, barCount]), s.beat.chords]
    expect(shape(doubled)).toEqual([[['Intro', 1, 8], ['Verse 1', 9, 24]], [{ startBeat: 0, beatCount: 16, ...chord }]])
    const spoiled = setChord(renameSection(doubled, { sectionId: doubled.sections[0].id, name: 'Start' }), { startBeat: 0, beatCount: 4, chord: null })
    expect(shape(layFoundChords(layFoundSections(spoiled, { heard, makeId }), { heard }))).toEqual(shape(doubled))
  })
  test('never overrides what was typed, and nothing heard changes nothing', () => {
    const typed = setKey(setGrid(fresh, { grid: { ...fresh.beat.grid, tempoBpm: 93 }, makeId }), { key: { tonic: 'G', mode: 'major' } })
    expect(applyAnalysis(typed, { analysis, makeId })).toBe(typed)
    const silence = { ...analysis, tempo: { readings: [] }, key: { readings: [], tuningCents: 0, chroma: [] } }
    expect(applyAnalysis(fresh, { analysis: silence, makeId })).toBe(fresh)
    const sections = [{ startBar: 1, barCount: 4, letter: 'A', name: 'Intro' }, { startBar: 5, barCount: 12, letter: 'B', name: 'Verse 1' }]
    const inParts = [{ tempo: analysis.tempo }, { ...analysis, sections }].reduce((taken: Song, found) => applyAnalysis(taken, { analysis: found, makeId }), fresh)
    expect(inParts.sections.map(({ name }) => name)).toEqual(['Intro', 'Verse 1'])
    expect(applyAnalysis(inParts, { analysis: { ...analysis, sections }, makeId })).toBe(inParts)
  })
})

test('a name is kept without the space round it; an empty one, or the same, changes nothing', () => {
  expect(setTitle(song, '  Last boat home ').title).toBe('Last boat home')
  expect(setTitle(song, '   ')).toBe(song)
  expect(setTitle(song, song.title)).toBe(song)
})

test('a line is missing, then sung, then picked; binning the take takes the pick with it and says where it was used', () => {
  const layer = (s: Song) => requireLayer(s, lead)
  expect(lineState(smallSong(), smallSong().layers[0], lineRange(0))).toBe('missing')
  expect(lineState(song, layer(song), lineRange(0))).toBe('sung')
  const picked = pickTake(song, { layerId: lead, takeId: song.takes[0].id, ...lineRange(0), makeId })
  expect(lineState(picked, layer(picked), lineRange(0))).toBe('picked')
  expect(usesOfTake(picked, song.takes[0].id)).toMatchObject([{ layerId: lead, ...lineRange(0) }])
  const binned = binTake(picked, { takeId: song.takes[0].id })
  expect(lineState(binned, layer(binned), lineRange(0))).toBe('sung')
  expect(binnedTakes(binned)).toHaveLength(1)
})

describe('one word of a line', () => {
  const line = placedLines({ ...smallSong(), sections: smallSong().sections.map(section => ({ ...section, lines: section.lines.map(entry => ({ ...entry, words: 'slow ferry carry the lights' })) })) })[0]
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

describe('from a capture to takes', () => {
  const range = { startFrame: 480_000, endFrame: 672_000 }
  const placement = { captureContextFrame: 1_000, anchorContextFrame: 5_000, anchorSongFrame: 384_000, range, looping: false, roundTripFrames: 1_105 }
  test('a captured frame lies where it was sung: the round trip earlier', () => {
    const [take] = cutPasses(400_000, placement)
    // Song frame 480 000 sounded at context frame 101 000; what was sung to it arrived 1 105 later.
    expect(480_000 - take.originFrame).toBe(101_000 + 1_105 - 1_000)
    expect([take.startFrame, take.endFrame]).toEqual([480_000 - 48_000, 720_000])
  })
  test('a loop gives a take a pass, each with its handles, all of one capture', () => {
    const passes = cutPasses(100_000 + 3 * 192_000 + 40_000, { ...placement, looping: true })
    expect(passes).toHaveLength(4)
    expect(passes.map(pass => pass.originFrame - passes[0].originFrame)).toEqual([0, -192_000, -384_000, -576_000])
    for (const pass of passes.slice(0, 3)) expect(pass.endFrame).toBeGreaterThanOrEqual(range.endFrame)
  })
  test('with bars before it, each turn of the loop is longer by them, and more of what was sung before is kept', () => {
    const passes = cutPasses(2 * 288_000, { ...placement, looping: true, preRollFrame: range.startFrame - 96_000 })
    expect(passes.map(pass => pass.originFrame - passes[0].originFrame)).toEqual([0, -288_000])
    expect(passes[1].startFrame).toBe(range.startFrame - 96_000)
  })
  test('a flaw of the capture lies in the pass that it fell into, in song frames', () => {
    const [first, second] = cutPasses(700_000, { ...placement, looping: true })
    const flaw = { atFrame: 480_000 + 200_000 - first.originFrame, frames: 128, kind: 'missing' as const }
    expect(flawsOfPass([flaw], first)).toEqual([{ startFrame: 680_000, endFrame: 680_128, kind: 'missing' }])
    expect(flawsOfPass([flaw], second)).toEqual([{ startFrame: 488_000, endFrame: 488_128, kind: 'missing' }])
  })
  test('placing a take again moves all of it by the difference, and nothing else', () => {
    const [take] = song.takes
    const moved = placeAgain(song, { takeIds: [take.id], roundTripFrames: take.roundTripFrames + 480, source: 'measured', measuredAt: '2026-01-02T20:00:00.000Z' })
    expect(moved.takes[0]).toMatchObject({ originFrame: take.originFrame - 480, startFrame: take.startFrame - 480, endFrame: take.endFrame - 480, roundTripSource: 'measured' })
    expect(moved.takes.slice(1)).toEqual(song.takes.slice(1))
    expect(moved.layers).toBe(song.layers)
  })
  test('next to nothing inside the range is no take', () => {
    expect(cutPasses(100_000, placement)).toEqual([])
  })
})

test('a take is named by what it covers in the sheet: a line, lines, sections, or bars where there is none', () => {
  const cover = (from: number, to: number) => placeOfTake(song, { startFrame: lineRange(from).startFrame - 24_000, endFrame: lineRange(to).endFrame + 24_000 })
  expect(cover(0, 0)).toBe('Verse, line 1')
  expect(cover(1, 3)).toBe('Verse, lines 2 to 4')
  expect(cover(2, 4)).toBe('Verse to Hook')
  expect(placeOfTake(song, { startFrame: 0, endFrame: 192_000 })).toBe('bars 1 to 2')
})

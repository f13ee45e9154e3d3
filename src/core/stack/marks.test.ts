import { describe, expect, test } from '@jest/globals'
import { setTogether } from '../align/led-paths'
import { pickTake } from '../comp/picks'
import { nudgePick } from '../comp/seams'
import { setTune } from '../edits/policies'
import { setPart } from '../parts/commands'
import { currentComp, requireLayer } from '../song/select'
import { layerOf, makeId } from '../song/song.test-kit'
import { layerTune, TUNE_STEPS } from '../tune/tune-settings'
import { checkPart, partAsSung } from './check-part'
import { basisOfLine, besideTheLead, comparableLines, marksOf } from './marks'
import { hookLines, picked, sheet, Studio } from './stack.test-kit'

const [lead, left, high] = ['Lead', 'Double left', 'High 1'].map(name => layerOf(sheet, name))
const line = hookLines(1)[0]
const lineId = line.line.id
const studio = new Studio()
const withLead = picked(studio.sing(sheet, lead, [line], { firstTake: 1 }), lead, 'take-1' as never, line)
const doubled = studio.sing(withLead, left, [line], { firstTake: 2 })
const both = picked(doubled, left, doubled.takes[1].id, line)
const layerIn = (song = both, id = left) => requireLayer(song, id)
const beside = async (song = both, id = left) => (await besideTheLead(song, id, [lineId], studio.sounds))[0]

describe('a line beside the lead', () => {
  test('sung together it gets no mark; moved 80 ms later by hand it is late by that', async () => {
    const together = await beside()
    expect(marksOf(both, layerIn(), line, together).filter(mark => mark.kind === 'late' || mark.kind === 'early')).toEqual([])
    const [{ id: pickId }] = currentComp(layerIn()).picks
    const later = nudgePick(both, { layerId: left, pickId, nudgeFrames: 3_840 })
    const found = await beside(later)
    expect(found.lateMilliseconds! - together.lateMilliseconds!).toBeCloseTo(80, -1)
    expect(basisOfLine(later, layerIn(later), line)).not.toBe(basisOfLine(both, layerIn(), line))
    const led = setTogether(later, { layerIds: [left], together: { tightness: 1, apart: [], endsTogether: false } })
    expect(marksOf(led, layerIn(led), line, found)).toEqual([])
    const apart = setTogether(later, { layerIds: [left], together: { tightness: 1, apart: [lineId], endsTogether: false } })
    expect(marksOf(apart, layerIn(apart), line, found)).toEqual([{ kind: 'late', milliseconds: Math.abs(found.lateMilliseconds!) }])
  })

  test('sixty cents flat is said, until the layer is tuned', () => {
    const flat = { lineId, lateMilliseconds: 0, offMilliseconds: 0, centsOff: -60, isCopy: false }
    expect(marksOf(both, layerIn(), line, flat)).toEqual([{ kind: 'flat', cents: 60 }])
    const tuned = setTune(both, { layerIds: [left], tune: layerTune(TUNE_STEPS.gently) })
    expect(marksOf(tuned, layerIn(tuned), line, flat)).toEqual([])
  })

  test('the lead’s own sound once more is a copy; the lead’s own take is used twice even before it is listened to', async () => {
    const copied = studio.sing(withLead, left, [line], { sound: studio.soundOf(withLead, withLead.takes[0].id).map(value => 0.5 * value) })
    const song = picked(copied, left, copied.takes[1].id, line)
    expect(marksOf(song, layerIn(song), line, await beside(song))).toEqual([{ kind: 'copy' }])
    const twice = pickTake(withLead, {
      layerId: left,
      takeId: withLead.takes[0].id,
      startFrame: line.startFrame,
      endFrame: line.endFrame,
      insist: true,
      makeId,
    })
    expect(marksOf(twice, layerIn(twice), line, null)).toEqual([{ kind: 'twice', layerId: lead }])
  })

  test('lines in which either plays too little are not compared', () => {
    expect(comparableLines(both, layerIn(), hookLines(1)).map(placed => placed.line.id)).toEqual([lineId])
    expect(comparableLines(both, layerIn(both, lead), hookLines(1))).toEqual([])
  })
})

describe('a pass against its part', () => {
  const third = studio.sing(both, high, [line], { firstTake: 4, degreeShift: 2 })
  const song = studio.heard(third)
  const take = song.takes.at(-1)!
  const asSung = partAsSung(line, take.heard!, take.originFrame, 0)

  test('what was sung, taken as the part, is a third above the lead note for note, and checks as sung on every note', () => {
    const leadTake = song.takes[0]
    const leadNotes = partAsSung(line, leadTake.heard!, leadTake.originFrame, 0)
    const above = asSung.map(note => {
      const under = leadNotes.find(other => Math.abs(other.startFrame - note.startFrame) < 9_600)
      return under ? note.midi - under.midi : null
    })
    expect(above.filter(steps => steps !== null).length).toBeGreaterThan(4)
    for (const steps of above) expect([3, 4, null]).toContain(steps)
    const check = checkPart(asSung, line, take.heard!, take.originFrame, 0)
    expect(check.notes.every(({ centsOff }) => centsOff !== null && Math.abs(centsOff) <= 50)).toBe(true)
    expect(Math.abs(check.medianCents!)).toBeLessThan(30)
    expect(setPart(song, { layerId: high, range: line, notes: asSung }).layers.find(({ id }) => id === high)!.part).toHaveLength(asSung.length)
  })

  test('a note written two steps higher was sung otherwise, one where nobody sang was not sung', () => {
    const written = asSung.map((note, i) => (i === 1 ? { ...note, midi: note.midi + 2 } : note))
    const check = checkPart(
      [...written, { startFrame: line.endFrame - 14_000, endFrame: line.endFrame - 10_000, midi: 60 }],
      line,
      take.heard!,
      take.originFrame,
      0,
    )
    expect(check.notes[1].centsOff).toBeLessThan(-150)
    expect(check.notes.at(-1)!.centsOff).toBeNull()
    expect(checkPart([], line, take.heard!, take.originFrame, 0)).toEqual({ notes: [], medianCents: null })
  })
})

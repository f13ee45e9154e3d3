import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { makeRandom } from '../audio/random'
import { makeDemoSheet } from '../rehearsal/demo-song'
import { syllablesOf } from '../rehearsal/phonemes'
import { scoreOfSheet } from '../rehearsal/score'
import { NO_FAULTS, sing } from '../rehearsal/sing'
import { amend, beginHistory, record, undo } from '../song/history'
import type { AssetId, Song, Take, TakeId } from '../song/schema'
import { currentComp, placedLines, requireLayer } from '../song/select'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { placeWords } from '../song/words'
import { analyseVoice } from '../voice/analyse-voice'
import { beginBlind, knockOut, ranking, takeBack, winnerOf } from './blind'
import { candidatesOfLine } from './candidates'
import { checkCopy, copyFromComp, describeComp, differingLines, removeComp, saveComp, switchComp } from './comps'
import { checkPick, clearPicks, pickTake, usesElsewhere } from './picks'
import { addBounce } from './bounces'
import { proposeComp, USUAL_WEIGHTS, type CandidateFacts } from './propose-comp'

const RATE = 48_000
const song = withTakes(smallSong(), 'Lead', 4)
const lead = layerOf(song, 'Lead')
const left = layerOf(song, 'Double left')
const [one, two, three] = song.takes
const lines = placedLines(song)

describe('a first comp', () => {
  const good: CandidateFacts = {
    takeId: one.id,
    silent: false,
    centsOff: 3,
    centsFromOthers: 2,
    waverCents: 12,
    lateMilliseconds: 4,
    lateFromOthersMilliseconds: 3,
    levelFromOthers: 0,
    aboveNoiseDecibels: 50,
    clips: 0,
  }
  const line = (i: number, takes: CandidateFacts[]) => ({
    lineId: lines[i].line.id,
    startFrame: lines[i].startFrame,
    endFrame: lines[i].endFrame,
    seamCost: 0,
    takes,
  })
  const propose = (s: Song, rows: ReturnType<typeof line>[], weights = USUAL_WEIGHTS) => proposeComp(s, { layerId: lead, lines: rows, weights })

  test.each([
    ['flat', { centsOff: -45, centsFromOthers: -40 }, 'in-tune'],
    ['late', { lateMilliseconds: 110, lateFromOthersMilliseconds: 100 }, 'together'],
    ['noisy', { aboveNoiseDecibels: 12 }, 'quiet-room'],
    ['clipped', { clips: 3 }, 'unclipped'],
  ])('the good take is proposed over a %s one, and that is the reason given', (_, fault, reason) => {
    for (const order of [
      [one, two],
      [two, one],
    ]) {
      const takes = order.map(take => ({ ...good, ...(take === one ? {} : fault), takeId: take.id }))
      const [proposal] = propose(song, [line(0, takes)])
      expect(proposal.takeId).toBe(one.id)
      expect(proposal.reasons[0].kind).toBe(reason)
      expect(proposal.confidence).toBeGreaterThan(0.4)
    }
  })

  test('of time one thing is said: how late against the other takes, as the take’s strip has it', () => {
    const late = { ...good, lateMilliseconds: 0, lateFromOthersMilliseconds: 85 }
    const later = (takeId: TakeId) => ({ ...good, takeId, lateMilliseconds: 90, lateFromOthersMilliseconds: 140 })
    const kinds = (takes: CandidateFacts[]) => propose(song, [line(0, takes)])[0].reasons.map(reason => reason.kind)
    expect(kinds([late, later(two.id), later(three.id)])).toEqual(['together'])
    const alone = { ...late, lateFromOthersMilliseconds: null }
    expect(kinds([alone, { ...later(two.id), lateFromOthersMilliseconds: null }])).toEqual(['in-time'])
  })

  test('a take a little behind in one line is kept for the sake of the lines round it; one far behind is not', () => {
    const rows = (centsOff: number) =>
      [0, 1, 2].map(i =>
        line(i, [
          { ...good, ...(i === 1 ? { centsOff } : {}) },
          { ...good, takeId: two.id, centsOff: i === 1 ? 2 : 30 },
        ]),
      )
    expect(propose(song, rows(8)).map(proposal => proposal.takeId)).toEqual([one.id, one.id, one.id])
    expect(propose(song, rows(60)).map(proposal => proposal.takeId)).toEqual([one.id, two.id, one.id])
  })

  test('the weights decide between a take out of tune and one out of time', () => {
    const rows = [
      line(0, [
        { ...good, centsOff: 40 },
        { ...good, takeId: two.id, lateMilliseconds: 60, lateFromOthersMilliseconds: 60 },
      ]),
    ]
    expect(propose(song, rows, { tune: 2, time: 0.2, clean: 1 })[0].takeId).toBe(two.id)
    expect(propose(song, rows, { tune: 0.2, time: 2, clean: 1 })[0].takeId).toBe(one.id)
  })

  test('what another layer plays is never proposed', () => {
    const used = pickTake(song, { layerId: left, takeId: one.id, ...lineRange(0), makeId })
    expect(propose(used, [line(0, [good, { ...good, takeId: two.id, centsOff: 60, clips: 2 }])])[0].takeId).toBe(two.id)
    expect(propose(used, [line(0, [good])])).toEqual([])
  })

  test('from sound: of seven passes of the practice singer the ones with a planted fault are left out', () => {
    const sheet = makeDemoSheet(106 * RATE)
    const [first] = scoreOfSheet(sheet)
    const placed = placedLines(sheet)[0]
    const originFrame = placed.startFrame - RATE
    const shifted = {
      startSeconds: first.startSeconds - originFrame / RATE,
      notes: first.notes.map(note => ({ ...note, startSeconds: note.startSeconds - originFrame / RATE, endSeconds: note.endSeconds - originFrame / RATE })),
    }
    const pass = (change: (score: typeof shifted) => typeof shifted, { gain = 1, noiseDbfs = -66 } = {}) => {
      const sound = sing({
        score: [change(shifted)],
        frames: placed.endFrame - originFrame + RATE,
        seed: 5,
        take: 1,
        faults: { ...NO_FAULTS, vibratoCents: 20, noiseDbfs },
      })
      return sound.map(sample => Math.max(-1, Math.min(1, sample * gain)))
    }
    const move = (cents: number, seconds: number) => (score: typeof shifted) => ({
      startSeconds: score.startSeconds + seconds,
      notes: score.notes.map(note => ({
        ...note,
        midi: note.midi + cents / 100,
        startSeconds: note.startSeconds + seconds,
        endSeconds: note.endSeconds + seconds,
      })),
    })
    const sounds = {
      good: pass(move(0, 0)),
      other: pass(move(4, 0.01)),
      far: pass(move(-58, 0)),
      flat: pass(move(-45, 0)),
      late: pass(move(0, 0.12)),
      noisy: pass(move(0, 0), { noiseDbfs: -28 }),
      clipped: pass(move(0, 0), { gain: 9 }),
    }
    const takes = Object.entries(sounds).map(([name, sound]) => ({
      take: { ...one, id: name as TakeId, originFrame, startFrame: originFrame, endFrame: originFrame + sound.length } as Take,
      analysis: analyseVoice(sound),
    }))
    const facts = candidatesOfLine(sheet, placed, takes)
    const of = (name: string) => facts.find(entry => entry.takeId === name)!
    expect(of('flat').centsFromOthers).toBeCloseTo(-45, -1)
    // Nearer to the note below than to its own, and still flat.
    expect(of('far').centsOff).toBeLessThan(-45)
    expect(of('late').lateFromOthersMilliseconds).toBeCloseTo(120, -1.3)
    const sung = { ...sheet, takes: takes.map(({ take }) => ({ ...take, layerId: layerOf(sheet, 'Lead') })) }
    const [proposal] = proposeComp(sung, {
      layerId: layerOf(sheet, 'Lead'),
      lines: [{ lineId: placed.line.id, startFrame: placed.startFrame, endFrame: placed.endFrame, seamCost: 0, takes: facts }],
      weights: USUAL_WEIGHTS,
    })
    expect(['good', 'other']).toContain(proposal.takeId)
  }, 60_000)
})

test('of many takes each is measured against some, and says the same when only a few are asked for', () => {
  const hops = 800
  const makeTake = (i: number, cents: number, lateSeconds: number) => ({
    take: { ...one, id: `take ${i}` as TakeId, originFrame: 0, startFrame: 0, endFrame: 4 * RATE } as Take,
    analysis: {
      hopSeconds: 0.005,
      f0Hz: new Float32Array(hops).fill(220 * 2 ** (cents / 1_200)),
      clarity: new Float32Array(hops).fill(0.9),
      power: new Float32Array(hops).fill(0.01),
      weightedPower: new Float32Array(hops).fill(0.01),
      noiseFloorDbfs: -60,
      clipped: [],
      breaths: [],
      esses: [],
      pops: [],
      clicks: [],
      noises: [],
      finals: [],
      phrases: [{ startSeconds: 0, endSeconds: 4 }],
      onsetSeconds: [0.5, 1, 1.5, 2, 2.5, 3].map(seconds => seconds + lateSeconds),
    },
  })
  const takes = Array.from({ length: 40 }, (_, i) => (i === 25 ? makeTake(i, -35, 0.09) : makeTake(i, (i % 5) - 2, ((i % 3) - 1) * 0.004)))
  const line = { startFrame: 0, endFrame: 4 * RATE }
  const facts = candidatesOfLine(song, line, takes)
  expect(facts.map(entry => entry.takeId)).toEqual(takes.map(({ take }) => take.id))
  expect(facts[25].centsFromOthers).toBeCloseTo(-35, -1)
  expect(facts[25].lateFromOthersMilliseconds).toBeCloseTo(90, -1)
  for (const entry of facts) if (entry !== facts[25]) expect(Math.abs(entry.centsFromOthers!)).toBeLessThan(6)
  const [alone] = candidatesOfLine(song, line, takes, [takes[25]])
  expect(alone.centsFromOthers).toBe(facts[25].centsFromOthers)
  expect(alone.lateFromOthersMilliseconds).toBe(facts[25].lateFromOthersMilliseconds)
})

describe('blind listening', () => {
  const ids = song.takes.map(take => take.id)
  test('the order holds every take once, and each take comes first about as often', () => {
    const random = makeRandom(1)
    const first = new Map<TakeId, number>()
    for (let i = 0; i < 4_000; i++) {
      const { order } = beginBlind(ids, random)
      expect([...order].sort()).toEqual([...ids].sort())
      first.set(order[0], (first.get(order[0]) ?? 0) + 1)
    }
    for (const id of ids) expect(first.get(id)! / 4_000).toBeCloseTo(0.25, 1)
  })
  test('knocked out one by one, the last is the winner and the ranking runs backwards from it', () => {
    fc.assert(
      fc.property(fc.shuffledSubarray([...ids], { minLength: 4 }), outOrder => {
        let round = beginBlind(ids, makeRandom(3))
        for (const id of outOrder) round = knockOut(round, id)
        expect(winnerOf(round)).toBe(outOrder[3])
        expect(ranking(round)).toEqual([...outOrder].reverse())
        expect(winnerOf(takeBack(round))).toBeNull()
      }),
    )
  })
})

describe('named comps', () => {
  const comped = [0, 1, 2].reduce((s, i) => pickTake(s, { layerId: lead, takeId: song.takes[i].id, ...lineRange(i), makeId }), song)
  const saved = saveComp(comped, { layerId: lead, name: 'first evening', makeId })
  const [current, first] = requireLayer(saved, lead).comps
  const changed = pickTake(saved, { layerId: lead, takeId: three.id, ...lineRange(0), makeId })

  test('a saved comp stays while the current one changes; the lines that differ are named; one is copied back, and they are alike again', () => {
    expect(differingLines(saved, { layerId: lead, compIds: [current.id, first.id] })).toEqual([])
    expect(differingLines(changed, { layerId: lead, compIds: [current.id, first.id] })).toEqual([lines[0].line.id])
    const copied = copyFromComp(changed, { layerId: lead, fromCompId: first.id, ...lineRange(0), makeId })
    expect(differingLines(copied, { layerId: lead, compIds: [current.id, first.id] })).toEqual([])
    const back = switchComp(changed, { layerId: lead, compId: first.id })
    expect(currentComp(requireLayer(back, lead)).picks.map(pick => pick.takeId)).toEqual([one.id, two.id, three.id])
  })

  test('copying a line that begins in silence leaves nothing of what played there', () => {
    const quiet = clearPicks(saved, { layerId: lead, startFrame: lineRange(1).startFrame, endFrame: lineRange(1).startFrame + 19_200, makeId })
    const other = saveComp(quiet, { layerId: lead, name: 'other', makeId })
    const kept = requireLayer(other, lead).comps.find(comp => comp.name === 'other')!
    const filled = pickTake(other, { layerId: lead, takeId: three.id, ...lineRange(1), makeId })
    const copied = copyFromComp(filled, { layerId: lead, fromCompId: kept.id, ...lineRange(1), makeId })
    const { picks } = currentComp(requireLayer(copied, lead))
    const sounding = picks.filter(pick => pick.startFrame < lineRange(1).endFrame && pick.endFrame > lineRange(1).startFrame)
    expect(sounding.map(pick => [pick.takeId, pick.startFrame])).toEqual([[two.id, lineRange(1).startFrame + 19_200]])
  })

  test('undo takes a bounce away again, and leaves a take that was sung meanwhile', () => {
    const place = {
      layerId: lead,
      replaces: null,
      takeId: 'bounce' as TakeId,
      assetId: 'bounced' as AssetId,
      extent: lineRange(0),
      picks: current.picks,
      edits: [],
      tidy: null,
      tune: null,
      bouncedAt: '2026-01-01T20:00:00.000Z',
    }
    const bounced = record(beginHistory(saved), 'bounce', addBounce(saved, place))
    expect(bounced.song.takes.at(-1)).toMatchObject({ id: 'bounce', bounceOf: { compId: current.id } })
    const sung = amend(bounced, withTakes(bounced.song, 'Lead', 1))
    expect(undo(sung).song.takes.map(take => take.id)).toEqual([...saved.takes.map(take => take.id), sung.song.takes.at(-1)!.id])
  })

  test('a locked comp is not changed, cleared or let go', () => {
    const locked = describeComp(saved, { layerId: lead, compId: current.id, locked: true })
    expect(checkPick(locked, { layerId: lead, takeId: two.id, ...lineRange(0) })).toEqual({ ok: false, reason: 'locked' })
    expect(() => clearPicks(locked, { layerId: lead, ...lineRange(0), makeId })).toThrow(/locked/)
    expect(checkCopy(locked, { layerId: lead, fromCompId: first.id, ...lineRange(0) })).toEqual({ ok: false, reason: 'locked' })
    expect(() => removeComp(locked, { layerId: lead, compId: current.id })).toThrow(/locked/)
  })

  test('a line cannot be copied back once another layer has taken its take', () => {
    const taken = pickTake(changed, { layerId: left, takeId: one.id, ...lineRange(0), makeId })
    expect(checkCopy(taken, { layerId: lead, fromCompId: first.id, ...lineRange(0) })).toMatchObject({ ok: false, reason: 'used-elsewhere' })
  })

  test('a bounce counts as the takes it was bounced from: another layer that plays one of them is found', () => {
    const bounced = withTakes(saved, 'Lead', 1, { bounceOf: { compId: current.id, picks: current.picks, edits: [], tidy: null, tune: null } })
    const take = bounced.takes.at(-1)!
    expect(usesElsewhere(bounced, { layerId: left, takeId: take.id, ...lineRange(1) }).map(use => use.layerId)).toEqual([lead])
    expect(usesElsewhere(bounced, { layerId: lead, takeId: take.id, ...lineRange(1) })).toEqual([])
    const doubled = pickTake(bounced, { layerId: left, takeId: take.id, ...lineRange(1), insist: true, makeId })
    expect(usesElsewhere(doubled, { layerId: lead, takeId: two.id, ...lineRange(1) })).toMatchObject([{ layerId: left, shiftFrames: 0 }])
  })
})

test('words go where they are sung: within 50 ms of the practice singer’s score, nine in ten of them', () => {
  const sheet = makeDemoSheet(106 * RATE)
  const misses: number[] = []
  for (const index of [0, 4]) {
    const placed = placedLines(sheet)[index]
    const score = scoreOfSheet(sheet)[index]
    const originFrame = placed.startFrame - RATE
    const local = {
      startSeconds: score.startSeconds - originFrame / RATE,
      notes: score.notes.map(note => ({ ...note, startSeconds: note.startSeconds - originFrame / RATE, endSeconds: note.endSeconds - originFrame / RATE })),
    }
    const { phrases, onsetSeconds } = analyseVoice(
      sing({ score: [local], frames: placed.endFrame - originFrame + RATE, seed: 5, take: 2, faults: { ...NO_FAULTS, noiseDbfs: -70 } }),
    )
    const frame = (seconds: number) => Math.round(seconds * RATE + originFrame)
    const words = placeWords(placed, {
      phrases: phrases.map(phrase => ({ startFrame: frame(phrase.startSeconds), endFrame: frame(phrase.endSeconds) })),
      onsetFrames: onsetSeconds.map(frame),
    })
    expect(words.map(word => word.word).join(' ')).toBe(placed.line.words)
    let syllable = 0
    for (const word of words) {
      misses.push(Math.abs(word.startFrame / RATE - score.notes[syllable].startSeconds))
      syllable += syllablesOf(word.word).length
    }
  }
  misses.sort((a, b) => a - b)
  expect(misses[Math.floor(0.85 * misses.length)]).toBeLessThan(0.05)
})

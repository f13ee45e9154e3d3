import { beforeAll, describe, expect, test } from '@jest/globals'
import { treat } from '../beat/treatments'
import type { Mono, Planar } from '../audio/frames'
import { setNoteEdit, setTimeEdit } from '../edits/commands'
import { pickTake } from '../comp/picks'
import { bare } from '../mix/mix.test-kit'
import { joinPlanes, renderOffline, type AssetStore } from '../mix/render-offline'
import { cutIntoChunks } from '../mix/chunk-window'
import { planMix } from '../mix/plan'
import { setBeatMix } from '../mix/commands'
import { addTreatment, repeatBars } from '../song/arrangement'
import type { EditId } from '../song/edit-schema'
import type { AssetId, Song, Treatment } from '../song/schema'
import { layerOf, lineRange, makeId, smallSong, withTakes } from '../song/song.test-kit'
import { buzz } from '../voice/voice.test-kit'
import { trackPitch } from '../voice/pitch'
import { keyOfJob, printIdOf, type PrintJob, type PrintTable } from './jobs'
import { makePrint, type PrintSource } from './make-print'
import { missingPrints, planPrints } from './plan-prints'

/** Sung from 0.5 s to 3.5 s; four seconds of it again and again. */
const voice = buzz(() => 200).sound
const beat = buzz(() => 90).sound
const sounds: Record<string, Planar> = { 'asset-1': [voice], beat: [beat, beat.map(sample => -sample)] }
const source: PrintSource = {
  read: (assetId, from, to) => Promise.resolve(sounds[assetId].map(plane => Float32Array.from({ length: to - from }, (_, i) => plane[from + i] ?? 0))),
  pitchOf: assetId => Promise.resolve(trackPitch(sounds[assetId][0])),
}
const treatment: Treatment = { id: 't', kind: 'worn tape', amount: 0.6, fadeFrames: 4_800, sourceStartFrame: 24_000, sourceEndFrame: 96_000, assetId: null }
const edit = { id: 'n' as EditId, startFrame: 48_000, endFrame: 72_000, shiftCents: 300, rungCents: null }

/** One take on the lead, from song frame 0 on, picked for the first line; its first note is moved. */
const base = withTakes({ ...smallSong() }, 'Lead', 1)
const lead = layerOf(base, 'Lead')
const placed: Song = {
  ...base,
  beat: { ...base.beat, sourceFrames: beat.length },
  takes: base.takes.map(take => ({ ...take, originFrame: lineRange(0).startFrame, startFrame: lineRange(0).startFrame, endFrame: lineRange(0).endFrame })),
}
const picked = setBeatMix(bare(pickTake(placed, { layerId: lead, takeId: placed.takes[0].id, ...lineRange(0), makeId })), { muted: true })
const takeId = picked.takes[0].id
const tuned = setNoteEdit(picked, { takeId, edit })

const firstDifference = (a: Mono, b: Mono) => a.findIndex((sample, i) => sample !== b[i])

/** All prints made, under their keys, and the sounds with them. */
async function made(song: Song) {
  const prints = new Map<string, AssetId>()
  const all: Record<string, Planar> = { ...sounds }
  for (const job of planPrints(song)) {
    const assetId = `print-${prints.size}` as AssetId
    all[assetId] = await makePrint(job, source)
    prints.set(keyOfJob(job), assetId)
  }
  return { prints, all }
}

async function play(song: Song, prints: PrintTable, all: Record<string, Planar>): Promise<Mono> {
  const store: AssetStore = {
    framesOf: id => Promise.resolve(all[id][0].length),
    readChunks: (id, indices) => Promise.resolve(indices.map(index => [...cutIntoChunks(all[id])][index])),
  }
  const pieces: Planar[] = []
  await renderOffline({ plan: planMix(song, { kind: 'song' }, prints), store, sink: planes => void pieces.push(planes), range: lineRange(0) })
  return joinPlanes(pieces)[0]
}

describe('a job', () => {
  const [job] = planPrints(tuned)

  test('that is the same has the same name and the same bits; of another sound, setting or stretch, another name', async () => {
    const again = planPrints(setNoteEdit(picked, { takeId, edit: { ...edit, id: 'other' as EditId } }))[0]
    expect(keyOfJob(again)).toBe(keyOfJob(job))
    expect(await printIdOf(again, 'abc')).toBe(await printIdOf(job, 'abc'))
    expect(await makePrint(again, source)).toEqual(await makePrint(job, source))
    const others: [PrintJob, string][] = [
      [job, 'abd'],
      [planPrints(setNoteEdit(picked, { takeId, edit: { ...edit, shiftCents: 301 } }))[0], 'abc'],
      [planPrints(setNoteEdit(picked, { takeId, edit: { ...edit, endFrame: 72_001 } }))[0], 'abc'],
    ]
    for (const [other, hash] of others) expect(await printIdOf(other, hash)).not.toBe(await printIdOf(job, 'abc'))
    expect(await printIdOf(job, 'abc')).toMatch(/^print-[0-9a-f]{16}$/)
  })

  test('makes as much sound as its stretch holds, at both ends the take to the bit', async () => {
    const [print] = await makePrint(job, source)
    expect(print).toHaveLength(job.endFrame - job.startFrame)
    const plain = (await source.read(job.assetId, job.startFrame, job.endFrame))[0]
    expect(print.subarray(0, 480)).toEqual(plain.subarray(0, 480))
    expect(print.subarray(-480)).toEqual(plain.subarray(-480))
    expect(firstDifference(print, plain)).toBeGreaterThan(0)
  })

  test('that stretches nothing but begins at an odd frame sees the pitch where it is', async () => {
    const moved = setTimeEdit(setNoteEdit(picked, { takeId, edit: { ...edit, startFrame: 48_017 } }), {
      takeId,
      edit: { id: 'time' as EditId, frame: 47_900, laterFrames: 0 },
    })
    const [print] = await makePrint(planPrints(moved)[0], source)
    const { f0Hz } = trackPitch(print)
    const hop = Math.round((60_000 - planPrints(moved)[0].startFrame) / 240)
    expect(1_200 * Math.log2(f0Hz[hop] / 200)).toBeCloseTo(300, -1)
  })
})

describe('what a song plays', () => {
  test('is the take until the print is there, then the print; with the table emptied the take again', async () => {
    const { prints, all } = await made(tuned)
    expect(prints.size).toBe(1)
    const plain = await play(picked, new Map(), all)
    expect(await play(tuned, new Map(), all)).toEqual(plain)
    const heard = await play(tuned, prints, all)
    const { f0Hz } = trackPitch(heard)
    expect(1_200 * Math.log2(f0Hz[60_000 / 240] / 200)).toBeCloseTo(300, -1)
    expect(firstDifference(heard, plain)).toBeGreaterThan(edit.startFrame - 2_400)
    // Made again after that, it is the same to the bit.
    const again = await made(tuned)
    expect(await play(tuned, again.prints, again.all)).toEqual(heard)
  })

  test('a pick that is as sung needs no print, and two picks of one stretch need one', () => {
    const twice = pickTake(tuned, { layerId: layerOf(tuned, 'Double left'), takeId, ...lineRange(0), insist: true, makeId })
    expect(planPrints(twice)).toHaveLength(1)
    const asSung = {
      ...tuned,
      layers: tuned.layers.map(layer => ({
        ...layer,
        comps: layer.comps.map(comp => ({ ...comp, picks: comp.picks.map(pick => ({ ...pick, asSung: true })) })),
      })),
    }
    expect(planPrints(asSung)).toEqual([])
  })

  test('notes far apart are two prints, near ones one; what lies nearest to the playhead comes first', () => {
    const far = setNoteEdit(tuned, { takeId, edit: { ...edit, id: 'far' as EditId, startFrame: 150_000, endFrame: 160_000 } })
    const near = setNoteEdit(tuned, { takeId, edit: { ...edit, id: 'near' as EditId, startFrame: 80_000, endFrame: 90_000 } })
    expect(planPrints(near)).toHaveLength(1)
    const [first, second] = planPrints(far, lineRange(0).startFrame)
    expect(first.startFrame).toBeLessThan(second.startFrame)
    expect(planPrints(far, lineRange(0).startFrame + 155_000)).toEqual([second, first])
    expect(missingPrints(far, new Map([[keyOfJob(first), 'print-0' as AssetId]]))).toEqual([second])
  })
})

describe('a coloured stretch of the beat', () => {
  const coloured = addTreatment(placed, { treatment })
  let print: Planar
  beforeAll(async () => {
    print = await makePrint(planPrints(coloured)[0], source)
  })

  test('is a print that is made of the file, once, wherever it sounds', async () => {
    const repeated = repeatBars(coloured, { startBar: 1, barCount: 1, makeId })
    const jobs = planPrints(repeated)
    expect(jobs).toHaveLength(1)
    const { sourceStartFrame, sourceEndFrame, ...options } = treatment
    expect(print).toEqual(treat(await source.read('beat' as AssetId, sourceStartFrame, sourceEndFrame), options))
  })

  test('of a song that was coloured before prints were keeps what was rendered then', () => {
    const old = addTreatment(placed, { treatment: { ...treatment, assetId: 'rendered' as AssetId } })
    expect(planPrints(old)).toEqual([])
    const sounding = planMix(old).channels.find(channel => channel.id === 'beat')!.spans
    expect(sounding.some(span => span.assetId === 'rendered')).toBe(true)
  })
})

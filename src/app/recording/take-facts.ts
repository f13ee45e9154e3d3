/** Listening to takes after they were sung: a take's level is stored with it, pitch and timing are read when they are shown. */
import { median } from '../../core/audio/statistics'
import { create } from 'zustand'
import { factsOfLine, remarksOn, type Remark } from '../../core/voice/line-facts'
import type { Song, Take, TakeId, TakeLevel } from '../../core/song/schema'
import { overlapFrames, placedLines, type PlacedLine } from '../../core/song/select'
import { noteLevels } from '../../core/song/takes'
import { runJob } from '../../workers/run-job'
import { queryClient } from '../query-client'
import { currentSong, editBesideHistory, useSongStore } from '../song/song-store'
import { useVoices, voiceQuery } from '../song/voices'

/** Notes how loud takes were sung, all of one asset listened to once. */
export async function listenToTakes(takeIds: readonly TakeId[]): Promise<void> {
  const song = useSongStore.getState().history?.song
  if (!song) return
  const { id: songId } = song
  const takes = song.takes.filter(take => takeIds.includes(take.id))
  const levels = new Map<TakeId, TakeLevel>()
  for (const assetId of new Set(takes.map(take => take.assetId))) {
    await queryClient.fetchQuery(voiceQuery(assetId))
    const stretches = takes
      .filter(take => take.assetId === assetId)
      .map(take => ({ takeId: take.id, startFrame: take.startFrame - take.originFrame, endFrame: take.endFrame - take.originFrame }))
    const result = await runJob('readLevels', { assetId, stretches })
    if (result.kind === 'done') for (const { takeId, level } of result.value) levels.set(takeId, level)
  }
  // The song may have been left meanwhile: its takes are then listened to when they are shown.
  if (useSongStore.getState().history?.song.id !== songId) return
  editBesideHistory(song => noteLevels(song, { levels }))
  await readLeaks(currentSong(), takes)
}

/** What the beat that leaked into a take says of its round trip, whatever the take was moved by. */
export interface LeakWitness {
  roundTripFrames: number
  /** 0..1 */
  confidence: number
}

/** By take; of this session. */
export const useLeaks = create<{ witnesses: ReadonlyMap<TakeId, LeakWitness> }>(() => ({ witnesses: new Map() }))

/** Passes of one loop share their place: a few tell of all. */
const MOST_LEAKS = 3

/** The beat in the takes is listened for: it confirms their place, or shows that it is wrong even where it was measured before. */
async function readLeaks(song: Song, takes: readonly Take[]): Promise<void> {
  for (const take of takes.slice(-MOST_LEAKS)) {
    if (take.roundTripSource === 'matched' || take.roundTripSource === 'none') continue
    const result = await runJob('readLeak', { song, takeId: take.id })
    if (result.kind !== 'done' || !result.value) continue
    const { offFrames, confidence } = result.value
    useLeaks.setState(({ witnesses }) => ({
      witnesses: new Map(witnesses).set(take.id, { roundTripFrames: Math.max(0, take.roundTripFrames + Math.round(offFrames)), confidence }),
    }))
  }
}

export interface LineRemarks {
  line: PlacedLine
  remarks: Remark[]
}

/** What is worth hearing again in takes, line by line; empty until they were listened to. */
export function useRemarks(song: Song, takes: readonly Take[]): Map<TakeId, LineRemarks[]> {
  const analyses = useVoices(takes)
  const found = new Map<TakeId, LineRemarks[]>()
  const { beat } = song
  const facts = takes.flatMap(take => {
    const analysis = analyses.get(take.assetId)
    if (!analysis) return []
    return placedLines(song)
      .filter(line => overlapFrames(line, take) > 0.6 * (line.endFrame - line.startFrame))
      .map(line => ({ take, line, facts: factsOfLine(analysis, take.originFrame, line, beat) }))
  })
  const lates = facts.flatMap(entry => entry.facts.lateMilliseconds ?? [])
  const habit = lates.length >= 4 ? median(lates) : 0
  for (const { take, line, facts: lineFacts } of facts) {
    const remarks = remarksOn(lineFacts, habit)
    if (remarks.length > 0) found.set(take.id, [...(found.get(take.id) ?? []), { line, remarks }])
  }
  return found
}

/** @param leaks Whether the beat was heard in the take: then that is what the voice stands above. */
export function remarkText({ kind, amount }: Remark, leaks = false): string {
  switch (kind) {
    case 'clipped':
      return amount === 1 ? 'clipped once' : `clipped in ${amount} places`
    case 'quiet':
      return `quiet (${amount.toFixed(0)} dBFS)`
    case 'noisy':
      return `only ${amount.toFixed(0)} dB above ${leaks ? 'the beat that leaks in: turn the headphones down, or wear closed ones' : 'the room'}`
    case 'late':
    case 'early':
      return `${Math.round(amount)} ms ${kind}`
    case 'flat':
    case 'sharp':
      return `${Math.round(amount)} cents ${kind}`
  }
}

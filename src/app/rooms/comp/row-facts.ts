/** What is said of a take beside its ribbon: where it is used, and what is worth hearing again. */
import { useMemo } from 'react'
import { candidatesOfLine } from '../../../core/comp/candidates'
import type { CandidateFacts } from '../../../core/comp/propose-comp'
import type { Use } from '../../../core/comp/picks'
import type { AssetId, Beat, Song, Take, TakeId } from '../../../core/song/schema'
import { requireLayer, type FrameRange } from '../../../core/song/select'
import { placeOfTake } from '../../../core/song/take-place'
import type { VoiceAnalysis } from '../../../core/voice/analyse-voice'
import { currentSong } from '../../song/song-store'

/** Facts of takes over a stretch, each against the others; only of those that were listened to. They change with the beat's facts, not with what is picked. */
export function useRowFacts(beat: Beat, takes: readonly Take[], stretch: FrameRange, voices: ReadonlyMap<AssetId, VoiceAnalysis>): ReadonlyMap<TakeId, CandidateFacts> {
  const { startFrame, endFrame } = stretch
  const names = takes.map(take => take.id).join(' ')
  return useMemo(() => {
    const ids = names.split(' ')
    const heard = currentSong().takes.filter(take => ids.includes(take.id)).flatMap(take => {
      const analysis = voices.get(take.assetId)
      return analysis ? [{ take, analysis }] : []
    })
    return new Map(candidatesOfLine({ beat }, { startFrame, endFrame }, heard).map(facts => [facts.takeId, facts]))
  }, [beat, names, startFrame, endFrame, voices])
}

const FLAT_CENTS = 20
const LATE_MILLISECONDS = 28
const NOISY_DECIBELS = 24

/** "18 cents flat · 31 ms late"; "steady" if nothing is worth a word. */
export function factsText(facts: CandidateFacts): string {
  if (facts.silent) return 'silent here'
  const words: string[] = []
  if (facts.clips > 0) words.push(facts.clips === 1 ? 'clipped once' : `clipped in ${facts.clips} places`)
  const cents = facts.centsOff ?? facts.centsFromOthers
  if (cents !== null && Math.abs(cents) >= FLAT_CENTS) words.push(`${Math.round(Math.abs(cents))} cents ${cents < 0 ? 'flat' : 'sharp'}`)
  const late = facts.lateFromOthersMilliseconds ?? facts.lateMilliseconds
  if (late !== null && Math.abs(late) >= LATE_MILLISECONDS) words.push(`${Math.round(Math.abs(late))} ms ${late > 0 ? 'late' : 'early'}`)
  if (facts.aboveNoiseDecibels < NOISY_DECIBELS) words.push('noisy')
  return words.length > 0 ? words.join(' · ') : 'steady'
}

/** "Double left, Hook 1, line 3" */
export function textOfUse(song: Song, use: Use): string {
  return `${requireLayer(song, use.layerId).name}, ${placeOfTake(song, use)}`
}

/** What is heard when one sound plays in two layers. */
export function copyText(song: Song, uses: readonly Use[], take: Take): string {
  const shifted = uses.find(use => Math.abs(use.shiftFrames) >= 24)
  const where = [...new Set(uses.map(use => requireLayer(song, use.layerId).name))].join(' and ')
  return shifted
    ? `${take.name} plays in ${where} as well, ${(Math.abs(shifted.shiftFrames) / 48).toFixed(1)} ms apart: the two will sound hollow together.`
    : `${take.name} plays in ${where} as well: the same sound twice is only louder, up to 6 dB, and no wider.`
}

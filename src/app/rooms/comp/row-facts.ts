/** Remarks beside a take's ribbon: where the take is used, and what is worth listening to again. */
import { WORTH_A_WORD } from '../../../core/voice/line-facts'
import { useMemo, useState } from 'react'
import { candidatesOfLine } from '../../../core/comp/candidates'
import type { CandidateFacts } from '../../../core/comp/propose-comp'
import type { Use } from '../../../core/comp/picks'
import type { AssetId, Beat, Song, Take, TakeId } from '../../../core/song/schema'
import { requireLayer, type FrameRange } from '../../../core/song/select'
import { placeOfTake } from '../../../core/song/take-place'
import type { VoiceAnalysis } from '../../../core/voice/analyse-voice'
import { currentSong } from '../../song/song-store'

type FactsByTake = ReadonlyMap<TakeId, CandidateFacts>

/**
 * Facts of the takes in view over a stretch, measured against those that were seen; only of those that were listened to. What is known of
 * a take stays known while the stretch does. They change with the beat's facts, not with what is picked.
 */
export function useRowFacts(
  beat: Beat,
  seen: readonly Take[],
  inView: readonly Take[],
  { startFrame, endFrame }: FrameRange,
  voices: ReadonlyMap<AssetId, VoiceAnalysis>,
): FactsByTake {
  const of = [beat, startFrame, endFrame]
  const names = [seen, inView].map(takes => takes.map(take => take.id).join(' ')).join('/')
  const fresh = useMemo(() => {
    const [all, wanted] = names.split('/').map(list => list.split(' '))
    const analysed = currentSong()
      .takes.filter(take => all!.includes(take.id))
      .flatMap(take => {
        const analysis = voices.get(take.assetId)
        return analysis ? [{ take, analysis }] : []
      })
    return candidatesOfLine(
      { beat },
      { startFrame, endFrame },
      analysed,
      analysed.filter(({ take }) => wanted!.includes(take.id)),
    )
  }, [beat, names, startFrame, endFrame, voices])
  const [known, setKnown] = useState<{ of: unknown[]; fresh: CandidateFacts[]; facts: FactsByTake }>({ of, fresh: [], facts: new Map() })
  if (known.fresh === fresh) return known.facts
  const before = of.every((value, i) => value === known.of[i]) ? known.facts : new Map<TakeId, CandidateFacts>()
  const facts = new Map([...before, ...fresh.map(entry => [entry.takeId, entry] as const)])
  setKnown({ of, fresh, facts })
  return facts
}

/** "18 cents flat · 31 ms late"; "steady" if nothing is worth a word. */
export function factsText(facts: CandidateFacts): string {
  if (facts.silent) return 'silent here'
  const words: string[] = []
  if (facts.clips > 0) words.push(facts.clips === 1 ? 'clipped once' : `clipped in ${facts.clips} places`)
  const cents = facts.centsOff ?? facts.centsFromOthers
  if (cents !== null && Math.abs(cents) > WORTH_A_WORD.offCents) words.push(`${Math.round(Math.abs(cents))} cents ${cents < 0 ? 'flat' : 'sharp'}`)
  const late = facts.lateFromOthersMilliseconds ?? facts.lateMilliseconds
  if (late !== null && Math.abs(late) > WORTH_A_WORD.lateMilliseconds) words.push(`${Math.round(Math.abs(late))} ms ${late > 0 ? 'late' : 'early'}`)
  if (facts.aboveNoiseDecibels < WORTH_A_WORD.belowVoiceDecibels) words.push('noisy')
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

/** Phrases brought to one level: how loud each is, and what gain is proposed for it. */
import { SAMPLE_RATE_HZ } from '../audio/frames'
import { median } from '../audio/statistics'
import { gatedLufs } from '../loudness/loudness'
import type { Layer, Pick, Song, Take } from '../song/schema'
import { currentComp, lengthOf, requireTake, type FrameRange } from '../song/select'
import type { VoiceAnalysis } from '../voice/analyse-voice'
import { gainAlong, gainPointsOf } from './gain-points'
import { originOf } from './in-asset'
import { gainOfStretch, setGainInStretch, type StretchGain } from './stretch-level'

/** In frames of the song. */
export interface PhraseLevel extends FrameRange {
  /** With the gains that are laid over it: weighted and gated as ITU-R BS.1770 has it. */
  lufs: number
}

/** A phrase may go through a seam: what begins so soon after the take before is the same one. */
const SAME_PHRASE_FRAMES = 0.12 * SAMPLE_RATE_HZ

/** The phrases that a layer plays, in order. @param analysisOf Of a take; null for one that was not listened to. */
export function phraseLevels(song: Song, layer: Layer, analysisOf: (take: Take) => VoiceAnalysis | null): PhraseLevel[] {
  const phrases: (FrameRange & { powers: number[] })[] = []
  for (const pick of currentComp(layer).picks) {
    const take = requireTake(song, pick.takeId)
    const analysis = analysisOf(take)
    if (!analysis) continue
    for (const phrase of phrasesIn(pick, take, analysis)) {
      const last = phrases.at(-1)
      if (last && phrase.startFrame - last.endFrame < SAME_PHRASE_FRAMES && last.endFrame >= pick.startFrame - SAME_PHRASE_FRAMES && phrase.isFirst) {
        last.endFrame = phrase.endFrame
        last.powers.push(...phrase.powers)
      } else phrases.push(phrase)
    }
  }
  return phrases.map(({ startFrame, endFrame, powers }) => ({ startFrame, endFrame, lufs: gatedLufs(powers) }))
}

function phrasesIn(pick: Pick, take: Take, { phrases, weightedPower, hopSeconds }: VoiceAnalysis): (FrameRange & { powers: number[]; isFirst: boolean })[] {
  const origin = originOf(pick, take)
  const hopFrames = hopSeconds * SAMPLE_RATE_HZ
  const decibelsAt = gainAlong(pick.asSung ? [] : gainPointsOf(take.edits.gains))
  return phrases
    .map(({ startSeconds, endSeconds }) => ({
      startFrame: Math.max(pick.startFrame, Math.round(startSeconds * SAMPLE_RATE_HZ) + origin),
      endFrame: Math.min(pick.endFrame, Math.round(endSeconds * SAMPLE_RATE_HZ) + origin),
    }))
    .filter(range => lengthOf(range) > 0)
    .map(({ startFrame, endFrame }, i) => {
      const powers: number[] = []
      for (let hop = Math.ceil((startFrame - origin) / hopFrames); hop * hopFrames < endFrame - origin && hop < weightedPower.length; hop++)
        powers.push(weightedPower[hop] * 10 ** ((decibelsAt(hop * hopFrames) + pick.gainDecibels) / 10))
      return { startFrame, endFrame, powers, isFirst: i === 0 }
    })
}

/** Shorter phrases, a shout or an ‘oh’, say nothing of how loud the layer is, and are left. */
const LEAST_PHRASE_FRAMES = 0.4 * SAMPLE_RATE_HZ
/** What differs by less is even: a line without any movement is dead. */
const EVEN_DECIBELS = 1
/** Nobody is asked for a gain that is smaller. */
const LEAST_GAIN_DECIBELS = 0.3

/** How loud a layer's phrases mostly are; null where none is long enough. */
export function usualLufs(levels: readonly PhraseLevel[]): number | null {
  const long = levels.filter(level => isLong(level) && Number.isFinite(level.lufs))
  return long.length > 0 ? median(long.map(({ lufs }) => lufs)) : null
}

function isLong(range: FrameRange): boolean {
  return lengthOf(range) >= LEAST_PHRASE_FRAMES
}

/** A phrase is raised or lowered with so much round it, as far as its neighbours leave it room. */
const MARGIN_FRAMES = 0.06 * SAMPLE_RATE_HZ
const FADE_FRAMES = 0.05 * SAMPLE_RATE_HZ

export interface EvenProposal {
  gains: StretchGain[]
  /** How many phrases there are in the range. */
  phrases: number
  /** How many of them would need more than the limit. */
  beyondLimit: number
  usualLufs: number | null
}

/**
 * What gain brings the phrases of a range to within 1 dB of the layer's usual level; none for those that are even.
 * @param limitDecibels No phrase is raised or lowered by more, counted from how it was sung; what the singer laid is never taken back by it.
 */
export function proposeEven(
  song: Song,
  layer: Layer,
  { levels, range, limitDecibels }: { levels: readonly PhraseLevel[]; range: FrameRange; limitDecibels: number },
): EvenProposal {
  const usual = usualLufs(levels)
  const proposal: EvenProposal = { gains: [], phrases: 0, beyondLimit: 0, usualLufs: usual }
  levels.forEach((level, i) => {
    const middle = (level.startFrame + level.endFrame) / 2
    if (middle < range.startFrame || middle >= range.endFrame) return
    proposal.phrases++
    const away = usual === null ? 0 : usual - level.lufs
    if (!isLong(level) || !(Math.abs(away) >= EVEN_DECIBELS + LEAST_GAIN_DECIBELS)) return
    const stretch = stretchOfPhrase(levels, i)
    const before = gainOfStretch(song, layer, stretch)?.gainDecibels ?? 0
    const wanted = before + away - Math.sign(away) * EVEN_DECIBELS
    const gainDecibels = Math.round(10 * Math.max(-limitDecibels, Math.min(limitDecibels, wanted))) / 10
    if (Math.abs(wanted) > limitDecibels) proposal.beyondLimit++
    if ((gainDecibels - before) * away > 0) proposal.gains.push({ layerId: layer.id, stretch, gainDecibels, fadeFrames: FADE_FRAMES })
  })
  return proposal
}

/** What is raised or lowered with one of several phrases. */
export function stretchOfPhrase(phrases: readonly FrameRange[], i: number): FrameRange {
  const { startFrame, endFrame } = phrases[i]
  const room = (frames: number | undefined) => Math.max(0, Math.min(MARGIN_FRAMES, Math.floor((frames ?? Infinity) / 2)))
  const [before, after] = [phrases[i - 1], phrases[i + 1]] as (FrameRange | undefined)[]
  return {
    startFrame: startFrame - room(before && startFrame - before.endFrame),
    endFrame: endFrame + room(after && after.startFrame - endFrame),
  }
}

/** Command: all that was proposed, as one step. */
export function layGains(song: Song, { gains, makeId }: { gains: readonly StretchGain[]; makeId: () => string }): Song {
  return gains.reduce(
    (changed, { layerId, stretch, gainDecibels, fadeFrames }) => setGainInStretch(changed, { layerId, stretch, gainDecibels, fadeFrames, makeId }),
    song,
  )
}

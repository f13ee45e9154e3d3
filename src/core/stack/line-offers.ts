/** What each take would serve with as a double in one line: free takes, and the same words sung elsewhere. */
import type { Mono } from '../audio/frames'
import { findCopy, phasesOf, type Phases } from '../align/copies'
import { soundOfLayer, type ReadSound } from '../align/layer-sound'
import { checkPick } from '../comp/picks'
import type { LayerId, LineId, Song, Take } from '../song/schema'
import { covers, currentComp, lengthOf, overlapFrames, placedLines, requireLayer, type FrameRange, type PlacedLine } from '../song/select'
import type { VoiceAnalysis } from '../voice/analyse-voice'
import { factsOfLine } from '../voice/line-facts'
import { framesOfLate, likeTheLead, lookAt, type LikeTheLead } from './like-the-lead'
import { plainWords } from './wanted'

/** Why a take was chosen; null where the lead plays nothing to compare with, or it cannot be told. */
export interface DoubleReasons extends Partial<LikeTheLead> {
  /** Of its held notes from the nearest note of the key. */
  centsOff: number | null
  clips: number
  /** The layer has it in the line before too. */
  goesOn: boolean
}

/** Sung to another line with the same words, and by so much later now. */
export interface Elsewhere {
  lineId: LineId
  byFrames: number
}

export interface DoublesWish {
  sourceLayerId: LayerId
  layerIds: readonly LayerId[]
  lineIds: readonly LineId[]
  /** Also in lines in which the layers play something. */
  replacing?: boolean
}

export interface HeardSounds {
  read: ReadSound
  /** Null for one whose sound is not there. */
  analysisOf: (take: Take) => Promise<VoiceAnalysis | null>
}

/** What a take serves with in a line. */
export interface Offered {
  take: Take
  elsewhere: Elsewhere | null
  score: number
  reasons: Omit<DoubleReasons, 'goesOn'>
  phases: Phases | null
}

/** What a line's take is worth: in time, in its syllables, in tune, clean; and what it costs that it was sung to another line. */
const WEIGHTS = { time: 0.35, syllables: 0.3, tune: 0.25, clean: 0.1 } as const
const ELSEWHERE_COST = 0.15
/** And what it costs that it is heard there too. */
const HEARD_TWICE_COST = 0.2
/** A double that is off by this much, or whose notes are, is worth nothing for it. */
const USELESS = { offMilliseconds: 120, centsOff: 60 } as const
/** Lines of the same words are sung to the same beats: their lengths differ by no more. */
const SAME_LENGTH_SHARE = 0.01
/** What is later than this after it was placed by the beats is another melody, or no line of it. */
const MOST_LATE_MILLISECONDS = 200
/** Of the same words elsewhere, so many takes are listened to. */
const MOST_ELSEWHERE = 4

/** A take sung elsewhere is another one in every place that it is put to. */
export function nameOf({ take, elsewhere }: Pick<Offered, 'take' | 'elsewhere'>): string {
  return elsewhere ? `${take.id} ${elsewhere.lineId}` : take.id
}

export function isLocked(song: Song, layerId: LayerId): boolean {
  return currentComp(requireLayer(song, layerId)).locked
}

export function playedFrames(song: Song, layerId: LayerId, range: FrameRange): number {
  return currentComp(requireLayer(song, layerId)).picks.reduce((sum, pick) => sum + overlapFrames(pick, range), 0)
}

export function mostPlayed(song: Song, layerId: LayerId, range: FrameRange) {
  const picks = currentComp(requireLayer(song, layerId)).picks.filter(pick => overlapFrames(pick, range) > 0)
  return picks.reduce<(typeof picks)[number] | null>((most, pick) => (most && overlapFrames(most, range) >= overlapFrames(pick, range) ? most : pick), null)
}

export async function offersOf(song: Song, line: PlacedLine, wish: DoublesWish, sounds: HeardSounds): Promise<{ offers: Offered[]; copied: Take[] }> {
  const range = { startFrame: Math.max(0, line.startFrame), endFrame: line.endFrame }
  const free = freeTakes(song, line, wish)
  const hasLead = playedFrames(song, wish.sourceLayerId, line) > lengthOf(line) / 2
  if (!hasLead) {
    // The lead has first choice: a line it has not picked yet keeps one of its takes for it.
    const spare = free.slice(Number(free.some(take => take.layerId === wish.sourceLayerId)))
    const offers = await Promise.all(
      spare.map(async take => {
        const judgement = await judged(song, take, 0, line, null, sounds)
        return judgement ? [{ take, elsewhere: null, phases: null, ...judgement }] : []
      }),
    )
    return { offers: offers.flat(), copied: [] }
  }
  const leadSound = await soundOfLayer(song, wish.sourceLayerId, range, sounds.read)
  const [lead, leadPhases] = [lookAt(leadSound), phasesOf(leadSound)]
  const offers: Offered[] = []
  const copied: Take[] = []
  const consider = async (take: Take, elsewhere: Elsewhere | null, cost: number) => {
    const soundAt = async (byFrames: number): Promise<Mono> => {
      const from = range.startFrame - take.originFrame - byFrames
      return (await sounds.read(take.assetId, from, from + lengthOf(range)))[0]
    }
    let sound = await soundAt(elsewhere?.byFrames ?? 0)
    let like = likeTheLead(lead, lookAt(sound))
    let placed = elsewhere
    if (placed && like) {
      if (Math.abs(like.lateMilliseconds) > MOST_LATE_MILLISECONDS) return
      placed = { ...placed, byFrames: placed.byFrames - framesOfLate(like) }
      sound = await soundAt(placed.byFrames)
      like = likeTheLead(lead, lookAt(sound))
    }
    const phases = phasesOf(sound)
    if (findCopy(leadPhases, phases)) return void copied.push(take)
    const judgement = await judged(song, take, placed?.byFrames ?? 0, line, like, sounds)
    if (judgement) offers.push({ take, elsewhere: placed, phases, ...judgement, score: judgement.score - cost })
  }
  for (const take of free) await consider(take, null, 0)
  if (offers.length < wish.layerIds.length)
    for (const { take, from, isPlayed } of sungElsewhere(song, line, wish.sourceLayerId))
      await consider(
        take,
        { lineId: from.line.id, byFrames: Math.round(line.startFrame - from.startFrame) },
        ELSEWHERE_COST + (isPlayed ? HEARD_TWICE_COST : 0),
      )
  return { offers, copied }
}

/** Takes of leads, doubles and spares that sing the line, and that no layer plays there. */
function freeTakes(song: Song, line: PlacedLine, { sourceLayerId, layerIds }: DoublesWish): Take[] {
  const sources = song.layers.filter(layer => layer.id === sourceLayerId || layerIds.includes(layer.id) || layer.role === 'spare' || layer.role === 'double')
  const asking = layerIds.find(id => !isLocked(song, id))
  if (asking === undefined) return []
  return song.takes.filter(take => {
    if (take.binned || take.bounceOf || !sources.some(layer => layer.id === take.layerId) || !covers(take, line)) return false
    const isOwn = checkPick(song, { layerId: asking, takeId: take.id, startFrame: line.startFrame, endFrame: line.endFrame })
    const usedByAsking = mostPlayed(song, asking, line)?.takeId === take.id
    return isOwn.ok && !usedByAsking
  })
}

/** Takes of the lead that sing the same words in another line of the same length; what the lead plays there comes last. */
function sungElsewhere(song: Song, line: PlacedLine, sourceLayerId: LayerId): { take: Take; from: PlacedLine; isPlayed: boolean }[] {
  const words = plainWords(line.line.words)
  if (words === '') return []
  const others = placedLines(song).filter(
    other =>
      other.line.id !== line.line.id &&
      plainWords(other.line.words) === words &&
      other.line.beatCount === line.line.beatCount &&
      Math.abs(lengthOf(other) - lengthOf(line)) <= SAME_LENGTH_SHARE * lengthOf(line),
  )
  const found = others.flatMap(from =>
    song.takes
      .filter(take => take.layerId === sourceLayerId && !take.binned && !take.bounceOf && covers(take, from))
      .map(take => ({ take, from, isPlayed: mostPlayed(song, sourceLayerId, from)?.takeId === take.id })),
  )
  return found.toSorted((a, b) => Number(a.isPlayed) - Number(b.isPlayed)).slice(0, MOST_ELSEWHERE)
}

/** @returns null for a take that sings nothing there, or whose sound is not there. */
async function judged(
  song: Song,
  take: Take,
  byFrames: number,
  line: FrameRange,
  like: LikeTheLead | null,
  { analysisOf }: HeardSounds,
): Promise<Pick<Offered, 'score' | 'reasons'> | null> {
  const { key, grid, tuningCents } = song.beat
  const analysis = await analysisOf(take)
  const facts = analysis && factsOfLine(analysis, take.originFrame + byFrames, line, { grid, key, tuningCents })
  if (!facts || facts.silent) return null
  const { centsOff, clips } = facts
  const share = (off: number, useless: number) => Math.max(0, 1 - off / useless)
  const score =
    WEIGHTS.time * (like ? share(like.offMilliseconds, USELESS.offMilliseconds) : 0.5) +
    WEIGHTS.syllables * (like?.likeness ?? 0.5) +
    WEIGHTS.tune * (centsOff === null ? 0.5 : share(Math.abs(centsOff), USELESS.centsOff)) +
    WEIGHTS.clean * (clips > 0 ? 0 : 1)
  return { score, reasons: { ...like, centsOff, clips } }
}

/** Pairs that are one sound. */
export function alikeIn(offers: readonly Offered[]): [string, string][] {
  return offers.flatMap((offer, i) =>
    offers.slice(i + 1).flatMap((other): [string, string][] => {
      // One capture put to one line from two is one sound; whole takes of different captures are compared.
      const isOne = offer.take.assetId === other.take.assetId && offer.take.id === other.take.id
      const isCopy = isOne || (offer.phases !== null && other.phases !== null && findCopy(offer.phases, other.phases) !== null)
      return isCopy ? [[nameOf(offer), nameOf(other)]] : []
    }),
  )
}

/** A first comp from facts: for every line the take that is most in tune, in time and clean, without changing takes more often than it is worth. */
import { median } from '../audio/statistics'
import type { LayerId, LineId, Song, TakeId } from '../song/schema'
import type { FrameRange } from '../song/select'
import { checkPick } from './picks'

/** What is known of one take's singing of one line. Null where it cannot be said. */
export interface CandidateFacts {
  takeId: TakeId
  silent: boolean
  /** Cents from the key, positive is sharp. */
  centsOff: number | null
  /** Cents from what the takes have in common. */
  centsFromOthers: number | null
  /** How far held notes waver, in cents. */
  waverCents: number | null
  /** From this singer's habit on the beat; positive is late. */
  lateMilliseconds: number | null
  /** From what the takes have in common. */
  lateFromOthersMilliseconds: number | null
  /** Decibels from the middle of the takes. */
  levelFromOthers: number
  aboveNoiseDecibels: number
  clips: number
}

export interface Weights {
  tune: number
  time: number
  clean: number
}

export const USUAL_WEIGHTS: Weights = { tune: 1, time: 1, clean: 1 }

/** What speaks for a proposal against the other takes, with its amount in cents, milliseconds, decibels or places. */
export type ReasonKind = 'in-tune' | 'like-the-others' | 'steady' | 'in-time' | 'together' | 'level' | 'quiet-room' | 'unclipped' | 'same-take' | 'only-one'
export interface Reason {
  kind: ReasonKind
  amount: number
}

export interface Proposal {
  lineId: LineId
  takeId: TakeId
  /** The two that say most. */
  reasons: Reason[]
  /** 0..1: how far ahead of the next best take it is. */
  confidence: number
}

export interface LineCandidates extends FrameRange {
  lineId: LineId
  takes: CandidateFacts[]
  /** How bad a change of takes before this line would be heard: 0 in a rest, 1 in the middle of a sound. */
  seamCost: number
}

/** A fault counts at most this many units: one line far out of tune does not decide over all the others. */
const MOST = 4
/** A change of takes must win a third of a fault; into the middle of a sound it must win more than one whole fault besides. */
const SWITCH_COST = 0.35
const SEAM_COST = 1.2
/** A fact that cannot be said counts as a small fault: less than one that is heard, more than none. */
const UNSAID = 0.4

interface Cost {
  kind: ReasonKind
  cost: number
  amount: number
}

/**
 * Faults of a take in units at which they begin to matter: about a quarter of a semitone, 35 ms (onsets further apart are heard as two), 4 dB.
 * What differs from the other takes weighs more than what differs from the grid: a singer's habit is no fault. Chosen so that a take with one
 * planted fault of the practice singer is left out in favour of one without (see choosing.test).
 */
function costsOf(facts: CandidateFacts, weights: Weights): Cost[] {
  const cost = (kind: ReasonKind, weight: number, value: number | null, unit: number): Cost => ({
    kind,
    cost: value === null ? UNSAID * weight : weight * Math.min(MOST, Math.abs(value) / unit),
    amount: value ?? 0,
  })
  return [
    cost('in-tune', weights.tune, facts.centsOff, 22),
    cost('like-the-others', 0.7 * weights.tune, facts.centsFromOthers, 25),
    cost('steady', 0.4 * weights.tune, facts.waverCents, 30),
    cost('in-time', 0.7 * weights.time, facts.lateMilliseconds, 35),
    cost('together', weights.time, facts.lateFromOthersMilliseconds, 35),
    cost('level', 0.4 * weights.clean, facts.levelFromOthers, 4),
    cost('quiet-room', 0.7 * weights.clean, Math.max(0, 34 - facts.aboveNoiseDecibels), 6),
    cost('unclipped', 1.2 * weights.clean, facts.clips, 1),
  ]
}

const sum = (costs: readonly Cost[]) => costs.reduce((total, { cost }) => total + cost, 0)

/**
 * The cheapest way through all lines (dynamic programming over takes). Lines in which nothing free was sung are left out.
 * Never a take whose sound another layer plays there.
 */
export function proposeComp(song: Song, { layerId, lines, weights }: { layerId: LayerId; lines: readonly LineCandidates[]; weights: Weights }): Proposal[] {
  const columns = lines
    .map(line => ({
      line,
      free: line.takes.filter(facts => !facts.silent && isFree(song, layerId, facts.takeId, line)).map(facts => ({ facts, costs: costsOf(facts, weights) })),
    }))
    .filter(column => column.free.length > 0)
  let paths: { total: number; choices: number[] }[] = []
  columns.forEach(({ line, free }, c) => {
    paths = free.map(({ facts, costs }, i) => {
      const own = sum(costs)
      if (c === 0) return { total: own, choices: [i] }
      const change = SWITCH_COST + SEAM_COST * line.seamCost
      const from = columns[c - 1].free.map((before, b) => paths[b].total + (before.facts.takeId === facts.takeId ? 0 : change))
      const best = from.indexOf(Math.min(...from))
      return { total: from[best] + own, choices: [...paths[best].choices, i] }
    })
  })
  const cheapest = paths.reduce<{ total: number; choices: number[] } | null>((best, path) => (best && best.total <= path.total ? best : path), null)
  if (!cheapest) return []
  return columns.map(({ line, free }, c) => {
    const chosen = free[cheapest.choices[c]]
    const others = free.filter(entry => entry !== chosen)
    const margin = others.length === 0 ? 0 : Math.min(...others.map(entry => sum(entry.costs))) - sum(chosen.costs)
    return {
      lineId: line.lineId,
      takeId: chosen.facts.takeId,
      reasons: reasonsFor(
        chosen.costs,
        others.map(entry => entry.costs),
        { keptForRest: margin < 0, isTogetherKnown: chosen.facts.lateFromOthersMilliseconds !== null },
      ),
      confidence: others.length === 0 ? 1 : Math.max(0.05, margin / (margin + 1.2)),
    }
  })
}

function isFree(song: Song, layerId: LayerId, takeId: TakeId, range: FrameRange): boolean {
  const check = checkPick(song, { layerId, takeId, startFrame: range.startFrame, endFrame: range.endFrame })
  return check.ok || check.reason === 'locked'
}

/** The two facts in which the chosen take is furthest ahead of the middle of the others. */
function reasonsFor(
  chosen: readonly Cost[],
  others: readonly (readonly Cost[])[],
  { keptForRest, isTogetherKnown }: { keptForRest: boolean; isTogetherKnown: boolean },
): Reason[] {
  if (others.length === 0) return [{ kind: 'only-one', amount: 0 }]
  // Of time one thing is said, the one that the take's strip says too: how late against the other takes, where that is known.
  const isSaid = (kind: ReasonKind) => kind !== 'in-time' || !isTogetherKnown
  const ahead = chosen.map((cost, k) => ({ ...cost, ahead: median(others.map(costs => costs[k].cost)) - cost.cost }))
  const best = ahead.filter(entry => entry.ahead > 0 && isSaid(entry.kind)).sort((a, b) => b.ahead - a.ahead)
  const reasons: Reason[] = best.slice(0, 2).map(({ kind, amount }) => ({ kind, amount }))
  return keptForRest || reasons.length === 0 ? [{ kind: 'same-take', amount: 0 } satisfies Reason, ...reasons].slice(0, 2) : reasons
}

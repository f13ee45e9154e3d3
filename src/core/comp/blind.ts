/** Blind listening: takes without names in random order, knocked out one by one until one is left. */
import type { TakeId } from '../song/schema'

export interface BlindRound {
  /** In the order in which they are heard: A, B, C … */
  order: readonly TakeId[]
  /** Knocked out, the first one first. */
  out: readonly TakeId[]
}

/** @param random Uniform in 0..1. Each order is as likely as any other (Fisher and Yates). */
export function beginBlind(takeIds: readonly TakeId[], random: () => number): BlindRound {
  const order = [...takeIds]
  for (let i = order.length - 1; i > 0; i--) {
    const j = Math.floor(random() * (i + 1))
    ;[order[i], order[j]] = [order[j], order[i]]
  }
  return { order, out: [] }
}

/** The last one left cannot be knocked out. */
export function knockOut(round: BlindRound, takeId: TakeId): BlindRound {
  if (round.out.includes(takeId) || !round.order.includes(takeId) || round.out.length >= round.order.length - 1) return round
  return { ...round, out: [...round.out, takeId] }
}

export function takeBack(round: BlindRound): BlindRound {
  return { ...round, out: round.out.slice(0, -1) }
}

export function winnerOf({ order, out }: BlindRound): TakeId | null {
  return out.length === order.length - 1 ? order.find(id => !out.includes(id))! : null
}

/** The best first: the winner, then those knocked out last. */
export function ranking(round: BlindRound): TakeId[] {
  const left = round.order.filter(id => !round.out.includes(id))
  return [...left, ...[...round.out].reverse()]
}

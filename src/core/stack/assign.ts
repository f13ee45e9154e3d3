/** Which take doubles which line in which layer: the best assignment as a whole. */

export interface Offer<T> {
  take: T
  /** 0 to 1: how well the take serves in the line. */
  score: number
}

export interface LineToFill<T> {
  /** Lines that follow each other in one section want one take through all of them. */
  section: string
  /** Each take once. */
  offers: readonly Offer<T>[]
  /** For each layer: what it plays already and keeps, or `open`. */
  held: readonly (T | null | typeof OPEN)[]
  /** Takes that would be copies of each other: never both in one line. */
  alike?: readonly (readonly [T, T])[]
}

export const OPEN = Symbol('to be filled')

/** What it is worth that a layer goes on with the take of the line before: about a tenth of the difference between a good take and none. */
export const GOING_ON = 0.12
/** Above all that scores and going on can bring: a line is filled wherever it can be. */
const FILLED = 10
/** So many ways of filling one line are compared; with two layers that is 45 takes, with four 7. Beyond that the best of them are. */
const MOST_WAYS = 2_100

/**
 * A take sounds in one layer of a line at most; as many layers are filled as there are takes for; of all such assignments the one with the
 * greatest sum of scores and of what going on is worth. By dynamic programming from line to line (Bellman), exact while no line offers more
 * than MOST_WAYS ways.
 * @param isOneVoice Whether going from one take to another is going on.
 * @returns for each line, for each layer: the take, or null where it stays empty. What is held is among it.
 */
export function assignTakes<T>(lines: readonly LineToFill<T>[], isOneVoice = (a: T, b: T) => a === b): (T | null)[][] {
  const ways = lines.map(waysOf)
  const best: Float64Array[] = []
  const from: Int32Array[] = []
  lines.forEach((line, l) => {
    const goesOn = l > 0 && lines[l - 1].section === line.section
    best.push(new Float64Array(ways[l].length))
    from.push(new Int32Array(ways[l].length).fill(-1))
    ways[l].forEach((way, w) => {
      let most = l === 0 ? 0 : -Infinity
      if (l > 0) {
        ways[l - 1].forEach((before, b) => {
          const value = best[l - 1][b] + (goesOn ? GOING_ON * goingOn(before.takes, way.takes, isOneVoice) : 0)
          if (value <= most) return
          most = value
          from[l][w] = b
        })
      }
      best[l][w] = most + way.worth
    })
  })
  const chosen: (T | null)[][] = new Array(lines.length)
  let at = lines.length > 0 ? best[lines.length - 1].reduce((most, value, w, all) => (value > all[most] ? w : most), 0) : -1
  for (let l = lines.length - 1; l >= 0; l--) {
    chosen[l] = [...ways[l][at].takes]
    at = from[l][at]
  }
  return chosen
}

interface Way<T> {
  takes: readonly (T | null)[]
  worth: number
}

/** In how many layers. */
function goingOn<T>(before: readonly (T | null)[], now: readonly (T | null)[], isOneVoice: (a: T, b: T) => boolean): number {
  let count = 0
  for (let i = 0; i < now.length; i++) {
    const [then, take] = [before[i], now[i]]
    if (then !== null && take !== null && isOneVoice(then, take)) count++
  }
  return count
}

/** All ways to fill a line's open layers with different takes. */
function waysOf<T>({ offers, held, alike = [] }: LineToFill<T>): Way<T>[] {
  const open = held.filter(entry => entry === OPEN).length
  const taken = held.filter((entry): entry is T => entry !== OPEN && entry !== null)
  const isAlike = (a: T, b: T) => alike.some(pair => (pair[0] === a && pair[1] === b) || (pair[0] === b && pair[1] === a))
  const free = offers.filter(({ take }) => !taken.some(other => other === take || isAlike(other, take)))
  const worthTrying = alike.length > 0 ? free.toSorted((a, b) => b.score - a.score) : worthTryingOf(free, open)
  for (let most = worthTrying.length; ; most--) {
    const ways = fill(held, worthTrying.slice(0, most), isAlike)
    if (ways.length <= MOST_WAYS || most <= open) return ways
  }
}

/** A take that is worse than as many others as there are layers, by more than going on can bring on both sides, is in no best assignment. */
function worthTryingOf<T>(free: readonly Offer<T>[], open: number): Offer<T>[] {
  const ranked = free.toSorted((a, b) => b.score - a.score)
  const least = ranked.length > open && open > 0 ? ranked[open - 1].score - 2 * GOING_ON : -Infinity
  return ranked.filter(({ score }) => score >= least)
}

function fill<T>(held: LineToFill<T>['held'], offers: readonly Offer<T>[], isAlike: (a: T, b: T) => boolean): Way<T>[] {
  const ways: Way<T>[] = []
  const takes: (T | null)[] = []
  const go = (worth: number) => {
    if (ways.length > MOST_WAYS) return
    const layer = takes.length
    if (layer === held.length) return void ways.push({ takes: [...takes], worth })
    const entry = held[layer]
    if (entry !== OPEN) {
      takes.push(entry)
      go(worth)
      takes.pop()
      return
    }
    for (const { take, score } of offers) {
      if (takes.some(other => other === take || (other !== null && isAlike(other, take)))) continue
      takes.push(take)
      go(worth + FILLED + score)
      takes.pop()
    }
    takes.push(null)
    go(worth)
    takes.pop()
  }
  go(0)
  return ways
}

/** The notes of a sung line: where each begins and ends, the pitch it is meant at, what of it is held, its vibrato. */
import { smoothed } from '../audio/smoothed'
import { median } from '../audio/statistics'
import { HOP_SECONDS } from './hop'
import { runsOf, type Run } from './runs'

export interface SungNote {
  startSeconds: number
  endSeconds: number
  /** 100 times the MIDI number: 6900 is 440 Hz. */
  cents: number
  /** What is held, without the glides into it and out of it; all of it where nothing is. */
  heldFromSeconds: number
  heldToSeconds: number
  /** Half the way from its lowest to its highest, 0 where it does not swing; and how fast. */
  vibratoCents: number
  vibratoHz: number
}

/** A pitch that is lost for no longer than this, and comes back where it was, was there. */
const LOST_HOPS = 6
const LOST_CENTS = 120
/** Shorter voice is no note. */
const LEAST_HOPS = 8
/** Shorter pieces between two notes are the way from one to the other. */
const LEAST_HELD_HOPS = 12
/** What leaves the held pitch by more than this, at an end of the note, is a glide. */
const GLIDE_CENTS = 40
/** A scoop into a first note is no longer than this, and no deeper. */
const SCOOP_HOPS = 26
const SCOOP_CENTS = 250
/** What a new note must explain of the squared cents, over hops; more where the voice swings. */
const SPLIT_COST = 45_000
const STEADY_VIBRATO_CENTS = 35
/** Notes are cut to within this. */
const STEP_HOPS = 2
/** Without a cut; longer notes are cut where it costs least. */
const MOST_HOPS = 2_000

/** Cents of a pitch, as `SungNote` counts them; NaN for none. */
export function centsOf(hz: number): number {
  return hz > 0 ? 6_900 + 1_200 * Math.log2(hz / 440) : NaN
}

/** @param f0Hz Pitch by hop, 0 for none. @param power By hop: a dip between two vowels parts notes of one pitch. @returns in order. */
export function readNotes({ f0Hz, power }: { f0Hz: Float32Array; power: Float32Array }): SungNote[] {
  const cents = bridged(Float32Array.from(f0Hz, centsOf))
  return runsOf(cents.length, hop => cents[hop] === cents[hop])
    .filter(({ from, to }) => to - from >= LEAST_HOPS)
    .flatMap(run => notesOfRun(cents, power, run))
}

function bridged(cents: Float32Array): Float32Array {
  const joined = cents.slice()
  let last = -1
  for (let hop = 0; hop < cents.length; hop++) {
    if (!(cents[hop] === cents[hop])) continue
    const gap = hop - last - 1
    if (last >= 0 && gap > 0 && gap <= LOST_HOPS && Math.abs(cents[hop] - cents[last]) < LOST_CENTS)
      for (let k = 1; k <= gap; k++) joined[last + k] = cents[last] + ((cents[hop] - cents[last]) * k) / (gap + 1)
    last = hop
  }
  return joined
}

function notesOfRun(cents: Float32Array, power: Float32Array, run: Run): SungNote[] {
  const pieces = piecesOf(cents, run).flatMap(piece => partedByDips(piece, power))
  // A piece too short to be held belongs to what it leads to, or at the end of all to what it comes from.
  const notes: Run[] = []
  let from = run.from
  for (const [i, piece] of pieces.entries()) {
    if (piece.to - piece.from < LEAST_HELD_HOPS || isWay(cents, piece)) continue
    if (i === 0 && pieces[1] && isScoop(cents, piece, pieces[1])) continue
    notes.push({ from, to: piece.to })
    from = piece.to
  }
  if (notes.length === 0) notes.push({ ...run })
  else notes[notes.length - 1].to = run.to
  return notes.map(note => describe(cents, note))
}

/** A short piece that hardly stays anywhere. */
function isWay(cents: Float32Array, piece: Run): boolean {
  const length = piece.to - piece.from
  if (length >= 2 * LEAST_HELD_HOPS) return false
  const centre = middle(cents, piece)
  return cents.subarray(piece.from, piece.to).filter(value => Math.abs(value - centre) <= GLIDE_CENTS).length < length / 2
}

/** Voice that begins below its note, shortly, and goes up into it. */
function isScoop(cents: Float32Array, piece: Run, next: Run): boolean {
  const length = piece.to - piece.from
  const up = middle(cents, next) - middle(cents, piece)
  return length <= SCOOP_HOPS && next.to - next.from >= 2 * length && up > 0 && up <= SCOOP_CENTS
}

const middle = (cents: Float32Array, { from, to }: Run) => median(cents.subarray(from, to))

/**
 * The run in pieces of one pitch each: those that leave the least squared distance, where each further piece must earn its cost.
 * @see B. Jackson et al., An algorithm for optimal partitioning of data on an interval, IEEE Signal Process. Lett. 12 (2005).
 */
function piecesOf(cents: Float32Array, { from, to }: Run): Run[] {
  const steps = Math.ceil((to - from) / STEP_HOPS)
  const sums = new Float64Array(steps + 1)
  const squares = new Float64Array(steps + 1)
  const origin = cents[from]
  for (let step = 0; step < steps; step++) {
    let sum = 0
    let square = 0
    for (let hop = from + step * STEP_HOPS; hop < Math.min(to, from + (step + 1) * STEP_HOPS); hop++) {
      const value = cents[hop] - origin
      sum += value
      square += value * value
    }
    sums[step + 1] = sums[step] + sum
    squares[step + 1] = squares[step] + square
  }
  const hopsTo = (step: number) => Math.min(to - from, step * STEP_HOPS)
  const cost = SPLIT_COST * Math.max(1, (vibratoOf(cents.subarray(from, to)).cents / STEADY_VIBRATO_CENTS) ** 2)
  const best = new Float64Array(steps + 1)
  const cut = new Int32Array(steps + 1)
  for (let end = 1; end <= steps; end++) {
    best[end] = Infinity
    for (let start = Math.max(0, end - MOST_HOPS / STEP_HOPS); start < end; start++) {
      const sum = sums[end] - sums[start]
      const left = squares[end] - squares[start] - (sum * sum) / (hopsTo(end) - hopsTo(start))
      const total = best[start] + left + cost
      if (total < best[end]) {
        best[end] = total
        cut[end] = start
      }
    }
  }
  const pieces: Run[] = []
  for (let end = steps; end > 0; end = cut[end]) pieces.push({ from: from + cut[end] * STEP_HOPS, to: Math.min(to, from + end * STEP_HOPS) })
  return pieces.reverse()
}

/** About a turn of vibrato. */
const TURN_HOPS = 36

const DIP = 10 ** 0.6
const DIP_REACH_HOPS = 14

/** Cut where the level dips between two vowels: an m, an l, an r. */
function partedByDips(piece: Run, power: Float32Array): Run[] {
  const parts: Run[] = []
  let from = piece.from
  for (let hop = piece.from + LEAST_HELD_HOPS; hop < piece.to - LEAST_HELD_HOPS; hop++) {
    if (hop - from < LEAST_HELD_HOPS || !isLowest(power, hop)) continue
    const before = highest(power, Math.max(from, hop - DIP_REACH_HOPS), hop)
    const after = highest(power, hop + 1, Math.min(piece.to, hop + 1 + DIP_REACH_HOPS))
    if (Math.min(before, after) < DIP * power[hop]) continue
    parts.push({ from, to: hop })
    from = hop
  }
  return [...parts, { from, to: piece.to }]
}

function isLowest(power: Float32Array, hop: number): boolean {
  for (let k = 1; k <= 4; k++) if (power[hop - k] < power[hop] || power[hop + k] <= power[hop]) return false
  return true
}

function highest(power: Float32Array, from: number, to: number): number {
  let most = 0
  for (let hop = from; hop < to; hop++) most = Math.max(most, power[hop])
  return most
}

function describe(cents: Float32Array, { from, to }: Run): SungNote {
  const length = to - from
  // Where scoops and falls are least: what is meant is there.
  const inner = cents.subarray(from + Math.min(24, Math.floor(0.3 * length)), to - Math.min(8, Math.floor(0.15 * length)))
  const meant = median(inner)
  const vibrato = vibratoOf(inner)
  const near = (hop: number) => Math.abs(cents[hop] - meant) <= Math.max(GLIDE_CENTS, 1.3 * vibrato.cents)
  let heldFrom = from
  let heldTo = to
  while (heldFrom < to && !near(heldFrom)) heldFrom++
  while (heldTo > heldFrom && !near(heldTo - 1)) heldTo--
  const isHeld = heldTo - heldFrom >= Math.min(LEAST_HOPS, length / 2)
  return {
    startSeconds: from * HOP_SECONDS,
    endSeconds: to * HOP_SECONDS,
    cents: meant,
    heldFromSeconds: (isHeld ? heldFrom : from) * HOP_SECONDS,
    heldToSeconds: (isHeld ? heldTo : to) * HOP_SECONDS,
    vibratoCents: vibrato.cents,
    vibratoHz: vibrato.hz,
  }
}

const VIBRATO_HZ = { min: 3.5, max: 9 }
const LEAST_VIBRATO_CENTS = 8

/** From the turns of the pitch about its own slow course; nothing where there are fewer than three. */
function vibratoOf(cents: Float32Array): { cents: number; hz: number } {
  const none = { cents: 0, hz: 0 }
  if (cents.length < TURN_HOPS) return none
  const slow = smoothed(cents, TURN_HOPS)
  const crossings: number[] = []
  let most = 0
  const tops: number[] = []
  for (let i = 1; i < cents.length; i++) {
    const [before, now] = [cents[i - 1] - slow[i - 1], cents[i] - slow[i]]
    most = Math.max(most, Math.abs(before))
    if (before * now < 0) {
      crossings.push(i)
      tops.push(most)
      most = 0
    }
  }
  if (crossings.length < 4) return none
  const hz = (crossings.length - 1) / (2 * HOP_SECONDS * (crossings[crossings.length - 1] - crossings[0]))
  const depth = median(tops.slice(1))
  return hz >= VIBRATO_HZ.min && hz <= VIBRATO_HZ.max && depth >= LEAST_VIBRATO_CENTS ? { cents: depth, hz } : none
}

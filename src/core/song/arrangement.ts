/** Commands that rearrange the beat by bars. The file is never changed: only which stretch of it sounds where. Takes stay at their frames. */
import { produce } from 'immer'
import { barCountUntil, frameOfBar, frameOfBeat, type Grid } from '../beat/grid'
import type { Beat, BeatPiece, LineId, Section, SectionId, Song, Treatment } from './schema'

export interface BarRange {
  startBar: number
  barCount: number
}

/** @throws RangeError if it is no stretch of whole bars that can be counted. */
function requireBars({ startBar, barCount }: BarRange): void {
  if (!Number.isInteger(startBar) || Math.abs(startBar) > MOST_BARS) throw new RangeError(`startBar must be a whole number up to ${MOST_BARS}, got ${startBar}`)
  if (!Number.isInteger(barCount) || barCount < 1 || barCount > MOST_BARS)
    throw new RangeError(`barCount must be a whole number from 1 to ${MOST_BARS}, got ${barCount}`)
}

const MOST_BARS = 5_000

/** Command: repeats bars directly after themselves. A section inside these bars is repeated with its lines; a section that reaches beyond them grows. */
export function repeatBars(song: Song, { startBar, barCount, makeId }: BarRange & { makeId: () => string }): Song {
  requireBars({ startBar, barCount })
  const end = startBar + barCount
  return reorder(song, [{ startBar: 1, barCount: end - 1 }, { startBar, barCount, again: true }, barsFrom(song, end)], makeId)
}

/** Command: bars are left out. At least one bar stays. */
export function dropBars(song: Song, { startBar, barCount, makeId }: BarRange & { makeId: () => string }): Song {
  requireBars({ startBar, barCount })
  return reorder(song, [{ startBar: 1, barCount: startBar - 1 }, barsFrom(song, startBar + barCount)], makeId)
}

/** Command: bars change places with those that follow them. */
export function swapBars(song: Song, { startBar, barCount, nextBarCount, makeId }: BarRange & { nextBarCount: number; makeId: () => string }): Song {
  requireBars({ startBar, barCount })
  requireBars({ startBar, barCount: nextBarCount })
  const next = startBar + barCount
  return reorder(
    song,
    [{ startBar: 1, barCount: startBar - 1 }, { startBar: next, barCount: nextBarCount }, { startBar, barCount }, barsFrom(song, next + nextBarCount)],
    makeId,
  )
}

/** Command: pieces begin a little later or earlier in the file (see `bestJoinShift`). */
export function shiftPieces(song: Song, { shifts }: { shifts: number[] }): Song {
  if (shifts.every(shift => shift === 0)) return song
  return produce(song, draft => draft.beat.pieces.forEach((piece, i) => void (piece.sourceFrame += shifts[i] ?? 0)))
}

/** Command: the beat is silent over some bars, or sounds again. */
export function muteBars(song: Song, { startBar, barCount, muted }: BarRange & { muted: boolean }): Song {
  requireBars({ startBar, barCount })
  const from = frameOfBar(song.beat.grid, startBar)
  const to = Math.min(song.beat.frames, frameOfBar(song.beat.grid, startBar + barCount))
  if (to <= from) return song
  return produce(song, draft => {
    draft.beat.pieces = joinRunning(
      song.beat.pieces.flatMap(piece => cut(piece, from, to).map(part => (part.startFrame >= from && part.startFrame < to ? { ...part, muted } : part))),
    )
  })
}

/** Whether the beat is silent over all of some bars. */
export function areBarsMuted({ beat }: Song, { startBar, barCount }: BarRange): boolean {
  const from = frameOfBar(beat.grid, startBar)
  const to = Math.min(beat.frames, frameOfBar(beat.grid, startBar + barCount))
  return beat.pieces.every(piece => piece.muted || piece.startFrame >= to || piece.startFrame + piece.frames <= from)
}

/** The stretches of the file that sound over some bars. */
export function sourceRanges({ beat }: Song, { startBar, barCount }: BarRange): { sourceStartFrame: number; sourceEndFrame: number }[] {
  const from = Math.max(0, frameOfBar(beat.grid, startBar))
  const to = Math.min(beat.frames, frameOfBar(beat.grid, startBar + barCount))
  return beat.pieces
    .flatMap(piece => cut(piece, from, to))
    .filter(piece => piece.startFrame >= from && piece.startFrame < to)
    .map(piece => ({ sourceStartFrame: piece.sourceFrame, sourceEndFrame: piece.sourceFrame + piece.frames }))
}

/** Command: a rendered treatment stands in for its stretch of the file, wherever that sounds; older ones it touches go. */
export function addTreatment(song: Song, { treatment }: { treatment: Treatment }): Song {
  return produce(song, draft => {
    const apart = song.beat.treatments.filter(other => other.sourceEndFrame <= treatment.sourceStartFrame || other.sourceStartFrame >= treatment.sourceEndFrame)
    draft.beat.treatments = [...apart, treatment].sort((a, b) => a.sourceStartFrame - b.sourceStartFrame)
  })
}

/** Command: the plain file again where a treatment was. */
export function removeTreatments(song: Song, { ids }: { ids: string[] }): Song {
  return produce(song, draft => {
    draft.beat.treatments = song.beat.treatments.filter(treatment => !ids.includes(treatment.id))
  })
}

/** Treatments that are heard over some bars. */
export function treatmentsOver(song: Song, range: BarRange): Treatment[] {
  const ranges = sourceRanges(song, range)
  return song.beat.treatments.filter(treatment =>
    ranges.some(part => treatment.sourceStartFrame < part.sourceEndFrame && treatment.sourceEndFrame > part.sourceStartFrame),
  )
}

/** Whether anything but the file as it came sounds. */
export function isRearranged({ beat }: Song): boolean {
  const [first] = beat.pieces
  return beat.pieces.length > 1 || first.muted || first.sourceFrame !== 0 || first.frames !== beat.sourceFrames
}

/**
 * Command: a better file of the same beat in place of the old one; what sounds where stays.
 * @param offsetFrames Where the old file's frame 0 lies in the new one. Treatments go: they were made from the old file.
 */
export function replaceBeatFile(
  song: Song,
  { assetId, fileName, sourceFrames, offsetFrames }: { assetId: Beat['assetId']; fileName: string; sourceFrames: number; offsetFrames: number },
): Song {
  const plain = !isRearranged(song)
  return produce(song, draft => {
    Object.assign(draft.beat, { assetId, fileName: fileName.slice(0, 255), sourceFrames, treatments: [] })
    draft.beat.pieces = song.beat.pieces.map(piece => ({ ...piece, sourceFrame: piece.sourceFrame + offsetFrames }))
    if (plain) {
      // A longer edit sounds to its end.
      draft.beat.frames = Math.max(1, sourceFrames - offsetFrames)
      draft.beat.pieces = [{ startFrame: 0, sourceFrame: offsetFrames, frames: draft.beat.frames, muted: false }]
    }
  })
}

/** Bars over which the first song's beat sounds and the second's does not, the bars of the first; in order. */
export function barsFallenSilent(before: Song, after: Song): BarRange[] {
  const { grid, frames } = before.beat
  const silent: BarRange[] = []
  for (let bar = 1; bar <= barCountUntil(grid, frames); bar++) {
    // Of a last bar that is cut short, the part that is there.
    const middle = (frameOfBar(grid, bar) + Math.min(frames, frameOfBar(grid, bar + 1))) / 2
    if (!soundsAt(before.beat, middle) || soundsAt(after.beat, middle)) continue
    const last = silent.at(-1)
    if (last && last.startBar + last.barCount === bar) last.barCount++
    else silent.push({ startBar: bar, barCount: 1 })
  }
  return silent
}

/** Whether a frame of the song has sound of the file under it. */
function soundsAt({ pieces, sourceFrames }: Beat, frame: number): boolean {
  const piece = pieces.find(({ startFrame, frames }) => frame >= startFrame && frame < startFrame + frames)
  if (!piece || piece.muted) return false
  const source = frame - piece.startFrame + piece.sourceFrame
  return source >= 0 && source < sourceFrames
}

interface OrderedBars extends BarRange {
  /** Their sections are already there once: these are copies. */
  again?: boolean
}

function barsFrom(song: Song, startBar: number): OrderedBars {
  return { startBar, barCount: Math.max(0, barCountUntil(song.beat.grid, song.beat.frames) - startBar + 1) }
}

/** The song with its bars in another order. What comes before bar one stays before it; what rings on after the last bar stays with that bar. */
function reorder(song: Song, wanted: OrderedBars[], makeId: () => string): Song {
  const { beat } = song
  const { grid } = beat
  const lastBar = barCountUntil(grid, beat.frames)
  const order = wanted.filter(({ barCount }) => barCount > 0)
  if (order.length === 0) throw new RangeError('at least one bar must stay')
  const pieces: BeatPiece[] = []
  const mapFrames: number[] = []
  const sections: Section[] = []
  const chords: Beat['chords'] = []
  const head = Math.max(0, grid.barOneFrame)
  const add = (from: number, to: number, at: number) => {
    for (const piece of beat.pieces.flatMap(entry => cut(entry, from, to)).filter(part => part.startFrame >= from && part.startFrame < to))
      pieces.push({ ...piece, startFrame: piece.startFrame - from + at })
  }
  if (head > 0) add(0, head, 0)
  let bar = 1
  let beatsDone = 0
  for (const part of order) {
    const ends = part.startBar + part.barCount
    const from = Math.max(0, frameOfBar(grid, part.startBar))
    const to = ends > lastBar ? beat.frames : frameOfBar(grid, ends)
    const at = grid.map ? from - Math.max(0, frameOfBar(grid, part.startBar)) + (mapFrames.at(-1) ?? head) : Math.max(0, frameOfBar(grid, bar))
    fillGap(pieces, at)
    add(from, to, at)
    if (grid.map) appendBeats(mapFrames, grid, part, at)
    for (const section of song.sections) {
      const first = Math.max(section.startBar, part.startBar)
      const last = Math.min(section.startBar + section.barCount, ends)
      if (last <= first) continue
      const moved = movedSection(section, {
        startBar: bar + first - part.startBar,
        barCount: last - first,
        skippedBeats: (first - section.startBar) * grid.beatsPerBar,
        beats: (last - first) * grid.beatsPerBar,
        again: part.again === true,
        makeId,
      })
      const before = sections.at(-1)
      if (before?.id === section.id && moved.barCount < section.barCount && before.startBar + before.barCount === moved.startBar)
        sections[sections.length - 1] = asOne(before, moved, grid.beatsPerBar)
      else
        sections.push(
          part.again || sections.some(other => other.id === section.id)
            ? { ...moved, id: makeId() as SectionId, name: `${section.name} again`.slice(0, 120) }
            : moved,
        )
    }
    const partBeat = (part.startBar - 1) * grid.beatsPerBar
    for (const chord of beat.chords) {
      const first = Math.max(chord.startBeat, part.startBar === 1 && beatsDone === 0 ? -Infinity : partBeat)
      const last = Math.min(chord.startBeat + chord.beatCount, partBeat + part.barCount * grid.beatsPerBar)
      if (last > first) chords.push({ ...chord, startBeat: first - partBeat + beatsDone, beatCount: last - first })
    }
    bar += part.barCount
    beatsDone += part.barCount * grid.beatsPerBar
  }
  const end = pieces.at(-1)!
  return produce(song, draft => {
    draft.beat.pieces = joinRunning(pieces)
    draft.beat.frames = end.startFrame + end.frames
    draft.beat.chords = chords
    draft.sections = sections
    draft.sectionsAreDefault = false
    if (grid.map && mapFrames.length > 1) draft.beat.grid.map = { firstBeat: 0, frames: mapFrames }
  })
}

/** The bars of a section that are wanted, with the lines in them; lines that come again are lines of their own. */
function movedSection(
  section: Section,
  {
    startBar,
    barCount,
    skippedBeats,
    beats,
    again,
    makeId,
  }: { startBar: number; barCount: number; skippedBeats: number; beats: number; again: boolean; makeId: () => string },
): Section {
  const isFirst = skippedBeats === 0
  const lines = section.lines
    .filter(line => (isFirst || line.startBeat >= skippedBeats) && line.startBeat < skippedBeats + beats)
    .map(line => ({ ...line, id: again ? (makeId() as LineId) : line.id, startBeat: line.startBeat - skippedBeats }))
  return { id: section.id, name: section.name, startBar, barCount, lines }
}

/** Two stretches of one section that lie next to each other. */
function asOne(before: Section, after: Section, beatsPerBar: number): Section {
  return {
    ...before,
    barCount: before.barCount + after.barCount,
    lines: [...before.lines, ...after.lines.map(line => ({ ...line, startBeat: line.startBeat + before.barCount * beatsPerBar }))],
  }
}

function appendBeats(frames: number[], grid: Grid, { startBar, barCount }: BarRange, at: number): void {
  const firstBeat = (startBar - 1) * grid.beatsPerBar
  const shift = at - frameOfBeat(grid, firstBeat)
  if (frames.length === 0) frames.push(at)
  for (let beat = 1; beat <= barCount * grid.beatsPerBar; beat++) frames.push(frameOfBeat(grid, firstBeat + beat) + shift)
}

/** A last bar that was cut short is filled up with silence where it moves inwards, and a frame of rounding is taken from what comes before. */
function fillGap(pieces: BeatPiece[], at: number): void {
  const last = pieces.at(-1)
  if (!last) {
    if (at > 0) pieces.push({ startFrame: 0, sourceFrame: -at, frames: at, muted: true })
    return
  }
  const end = last.startFrame + last.frames
  if (at > end) pieces.push({ startFrame: end, sourceFrame: last.sourceFrame + last.frames, frames: at - end, muted: at - end > 2 })
  while (pieces.length > 0 && pieces.at(-1)!.startFrame + pieces.at(-1)!.frames > at) {
    const over = pieces.at(-1)!
    over.frames = at - over.startFrame
    if (over.frames <= 0) pieces.pop()
  }
}

/** A piece in up to three parts, cut at two frames of the song. */
function cut(piece: BeatPiece, from: number, to: number): BeatPiece[] {
  const end = piece.startFrame + piece.frames
  const edges = [piece.startFrame, ...[from, to].filter(frame => frame > piece.startFrame && frame < end), end]
  return edges
    .slice(1)
    .map((edge, i) => ({ ...piece, startFrame: edges[i], sourceFrame: piece.sourceFrame + edges[i] - piece.startFrame, frames: edge - edges[i] }))
}

/** Neighbours that run on in the file become one again. */
function joinRunning(pieces: BeatPiece[]): BeatPiece[] {
  const joined: BeatPiece[] = []
  for (const piece of pieces) {
    const last = joined.at(-1)
    if (last && last.muted === piece.muted && last.sourceFrame + last.frames === piece.sourceFrame) last.frames += piece.frames
    else joined.push({ ...piece })
  }
  return joined
}

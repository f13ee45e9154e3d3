/** The plan of a stack: which layer is to sing which lines, what is usual, and what of it is still to be sung. */
import { produce } from 'immer'
import { frameOfBeat } from '../beat/grid'
import { madePhrases } from '../prints/made-voices'
import type { Layer, LayerId, LineId, Role, Song } from '../song/schema'
import { currentComp, lineState, placedLines, requireLayer, requireTake, type PlacedLine } from '../song/select'

export type Wanted = ReadonlyMap<LayerId, readonly LineId[]>

/** Whether what a line asks of a layer is there: takes, or a voice that is made. */
export function isFilled(song: Song, layer: Layer, line: PlacedLine): boolean {
  return lineState(song, layer, line) !== 'missing' || isMadeIn(song, layer, line)
}

/** A phrase begins before its line and ends after it: its middle says whose it is. */
export function isMadeIn(song: Song, layer: Layer, line: PlacedLine): boolean {
  return madePhrases(song, layer).some(phrase => {
    const middle = (phrase.startFrame + phrase.endFrame) / 2
    return middle >= line.startFrame && middle < line.endFrame
  })
}

/** A hook by its name; where none is named so, the words that come back are one. */
const HOOK_NAMES = /hook|chorus|refrain/i
const STACKED: readonly Role[] = ['double', 'high-harmony', 'low-harmony']
/** An answer needs so much room after a line, in beats. */
const ANSWER_BEATS = 1

/**
 * What a stack usually has: the lead everywhere; doubles, and two of each harmony, in the hooks; an octave in the last of them; ad-libs where
 * a line leaves room for an answer, in turn if there are several.
 */
export function usualPlan(song: Song): Wanted {
  const lines = placedLines(song)
  const hooks = hooksOf(lines)
  const hookLines = lines.filter(line => hooks.has(line.section.id)).map(idOf)
  const lastHook = lines.findLast(line => hooks.has(line.section.id))?.section.id
  const answered = linesWithRoom(song, lines).map(idOf)
  const adLibs = song.layers.filter(layer => layer.role === 'ad-lib')
  return new Map(
    song.layers.map(layer => {
      if (layer.role === 'lead') return [layer.id, lines.map(idOf)]
      if (layer.role === 'octave') return [layer.id, lines.filter(line => line.section.id === lastHook).map(idOf)]
      if (layer.role === 'ad-lib') return [layer.id, answered.filter((_, i) => i % adLibs.length === adLibs.indexOf(layer))]
      return [layer.id, STACKED.includes(layer.role) ? hookLines : []]
    }),
  )
}

function idOf({ line }: PlacedLine): LineId {
  return line.id
}

function hooksOf(lines: readonly PlacedLine[]): Set<string> {
  const named = lines.filter(({ section }) => HOOK_NAMES.test(section.name))
  if (named.length > 0) return new Set(named.map(({ section }) => section.id))
  const wordsOf = ({ line }: PlacedLine) => plainWords(line.words)
  const sections = [...new Set(lines.map(({ section }) => section))]
  const first = (section: PlacedLine['section']) =>
    lines
      .filter(line => line.section === section)
      .map(wordsOf)
      .join('\n')
  const texts = sections.map(first)
  return new Set(sections.filter((_, i) => texts[i].trim() !== '' && texts.indexOf(texts[i]) !== texts.lastIndexOf(texts[i])).map(({ id }) => id))
}

/** Letters and digits alone, so that commas and capitals do not tell lines apart. */
export function plainWords(words: string): string {
  return words
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim()
}

/** Lines after whose end a beat or more is free: by where the lead's last phrase in it ends if that is known, by the sheet otherwise. */
function linesWithRoom(song: Song, lines: readonly PlacedLine[]): PlacedLine[] {
  const { grid } = song.beat
  const beatFrames = frameOfBeat(grid, 1) - frameOfBeat(grid, 0)
  const ends = leadPhraseEnds(song)
  return lines.filter((line, i) => {
    const next = lines[i + 1]
    const nextStart = next?.startFrame ?? line.endFrame + ANSWER_BEATS * beatFrames
    const sungTo = ends.filter(end => end > line.startFrame && end < nextStart).at(-1)
    const isLastOfSection = next?.section !== line.section
    if (sungTo === undefined) return isLastOfSection || nextStart - line.endFrame >= ANSWER_BEATS * beatFrames
    return nextStart - sungTo >= ANSWER_BEATS * beatFrames
  })
}

function leadPhraseEnds(song: Song): number[] {
  const lead = song.layers.find(layer => layer.role === 'lead')
  if (!lead) return []
  return currentComp(lead)
    .picks.flatMap(pick => {
      const take = requireTake(song, pick.takeId)
      const ends = (take.heard?.phrases ?? []).map(([, end]) => take.originFrame + pick.nudgeFrames + end)
      return ends.filter(end => end > pick.startFrame && end <= pick.endFrame)
    })
    .sort((a, b) => a - b)
}

/** Command: what every layer is to sing; of layers that are not named, nothing, and nothing of lines that come later. */
export function takePlan(song: Song, { wanted }: { wanted: Wanted }): Song {
  return produce(song, draft => {
    for (const layer of draft.layers) {
      const lineIds = wanted.get(layer.id) ?? []
      if (lineIds.join() !== layer.wanted.join()) layer.wanted = [...lineIds]
      if (lineIds.length === 0 && layer.sings?.length !== 0) layer.sings = []
    }
  })
}

/** Command: whether a layer is to sing these lines. */
export function setWanted(song: Song, { layerId, lineIds, wanted }: { layerId: LayerId; lineIds: readonly LineId[]; wanted: boolean }): Song {
  const others = requireLayer(song, layerId).wanted.filter(id => !lineIds.includes(id))
  return produce(song, draft => {
    requireLayer(draft, layerId).wanted = wanted ? [...others, ...lineIds] : others
  })
}

/** What is sung in one go. */
export interface Missing {
  layerId: LayerId
  /** In the order of the sheet, one after the other in one section. */
  lines: PlacedLine[]
}

/**
 * What of the plan is neither sung nor made: layer by layer, as a voice stays warm and a double keeps its character.
 * @param by Line by line, or as many lines of a section as follow each other.
 */
export function missingOf(song: Song, by: 'line' | 'section'): Missing[] {
  const lines = placedLines(song)
  return song.layers.flatMap(layer => {
    const bare = lines.filter(line => layer.wanted.includes(line.line.id) && !isFilled(song, layer, line))
    const runs: PlacedLine[][] = []
    for (const line of bare) {
      const run = runs.at(-1)
      const last = run?.at(-1)
      const follows = last && last.section === line.section && last.number + 1 === line.number
      if (run && follows && by === 'section') run.push(line)
      else runs.push([line])
    }
    return runs.map(run => ({ layerId: layer.id, lines: run }))
  })
}

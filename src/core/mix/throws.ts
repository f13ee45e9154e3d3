/** Throws: words that go into a space as they are sung. Where they lie, and the commands on them. */
import { produce } from 'immer'
import { anchorTo, resolveAnchor, type WordRange } from '../song/anchor'
import { clampGain } from '../song/levels'
import type { SpaceId, Throw, ThrowId, ThrowTail } from '../song/mix-schema'
import type { Layer, LayerId, LineId, Song } from '../song/schema'
import { placedLines, requireLayer, requirePlacedLine, type FrameRange, type PlacedLine } from '../song/select'
import { sungIn, wordsSung } from './words-sung'

/** In decibels over what the layer plays: the word goes in as loud as it is sung. */
export const USUAL_THROW_DECIBELS = 0

/** A stretch of words where the layer sings it. */
export interface WordsSung extends FrameRange {
  placed: PlacedLine
  /** Null: the whole line. */
  words: WordRange | null
  /** Nothing of the line follows them. */
  endsPhrase: boolean
}

/** Where words are sung; null if their line, or they, are gone. @param lines All of the song. */
export function rangeOfWords(song: Song, layer: Layer, on: Throw['on'], lines: readonly PlacedLine[]): WordsSung | null {
  const found = resolveAnchor(on, lines)
  if (!found) return null
  const { placed, words } = found
  const sung = wordsSung(song, layer, placed)
  if (words && sung[words.to]) {
    const [first, last] = [sung[words.from], sung[words.to]]
    const next = sung[words.to + 1]
    return { placed, words, startFrame: first.startFrame, endFrame: last.endFrame, endsPhrase: !next || next.startFrame > last.endFrame }
  }
  const phrases = sungIn(song, layer, placed)?.phrases.filter(phrase => phrase.startFrame < placed.endFrame && phrase.endFrame > placed.startFrame) ?? []
  const range = phrases.length > 0 ? { startFrame: phrases[0].startFrame, endFrame: phrases.at(-1)!.endFrame } : placed
  return { placed, words, startFrame: range.startFrame, endFrame: range.endFrame, endsPhrase: true }
}

/** The line that the layer sings next, where it sings it; null: none. */
export function nextLineSung(song: Song, layer: Layer, after: PlacedLine, lines: readonly PlacedLine[]): FrameRange | null {
  for (const line of lines.slice(lines.indexOf(after) + 1)) {
    const phrases = sungIn(song, layer, line)?.phrases.filter(phrase => phrase.endFrame > after.endFrame && phrase.startFrame < line.endFrame) ?? []
    if (phrases.length > 0) return { startFrame: phrases[0].startFrame, endFrame: phrases.at(-1)!.endFrame }
  }
  return null
}

/** Command: words go into a space. Words that go there already stay as they are. @throws RangeError if there are no such words or no such space. */
export function addThrow(
  song: Song,
  {
    layerId,
    lineId,
    words,
    spaceId,
    gainDecibels = USUAL_THROW_DECIBELS,
    tail = 'rings',
    makeId,
  }: {
    layerId: LayerId
    lineId: LineId
    words: WordRange | null
    spaceId: SpaceId
    gainDecibels?: number
    tail?: ThrowTail
    makeId: () => string
  },
): Song {
  requireSpace(song, spaceId)
  const on = anchorTo(requirePlacedLine(song, lineId).line, words)
  const isThere = requireLayer(song, layerId).throws.some(thrown => thrown.spaceId === spaceId && isSameWords(thrown.on, on))
  if (isThere) return song
  return produce(song, draft => {
    requireLayer(draft, layerId).throws.push({ id: makeId() as ThrowId, on, spaceId, gainDecibels: clampGain(gainDecibels), tail })
  })
}

function isSameWords(a: Throw['on'], b: Throw['on']): boolean {
  return a.lineId === b.lineId && a.words?.from === b.words?.from && a.words?.to === b.words?.to
}

/** Command: how loud words go in, where, and what becomes of the answer. @throws RangeError if there is no such throw or space. */
export function setThrow(
  song: Song,
  { layerId, throwId, gainDecibels, spaceId, tail }: { layerId: LayerId; throwId: ThrowId; gainDecibels?: number; spaceId?: SpaceId; tail?: ThrowTail },
): Song {
  if (spaceId !== undefined) requireSpace(song, spaceId)
  return produce(song, draft => {
    const thrown = requireLayer(draft, layerId).throws.find(entry => entry.id === throwId)
    if (!thrown) throw new RangeError(`no throw ${throwId} in this layer`)
    if (gainDecibels !== undefined) thrown.gainDecibels = clampGain(gainDecibels)
    if (spaceId !== undefined) thrown.spaceId = spaceId
    if (tail !== undefined) thrown.tail = tail
  })
}

/** Command: throws go. */
export function removeThrows(song: Song, { layerId, throwIds }: { layerId: LayerId; throwIds: readonly ThrowId[] }): Song {
  if (!requireLayer(song, layerId).throws.some(({ id }) => throwIds.includes(id))) return song
  return produce(song, draft => {
    const layer = requireLayer(draft, layerId)
    layer.throws = layer.throws.filter(({ id }) => !throwIds.includes(id))
  })
}

function requireSpace(song: Song, spaceId: SpaceId): void {
  if (!song.spaces.some(space => space.id === spaceId)) throw new RangeError(`no space ${spaceId} in this song`)
}

/** All throws of a layer that are still sung, where they are sung, in order. */
export function throwsSung(song: Song, layer: Layer): { thrown: Throw; at: WordsSung }[] {
  if (layer.throws.length === 0) return []
  const lines = placedLines(song)
  return layer.throws
    .flatMap(thrown => {
      const at = rangeOfWords(song, layer, thrown.on, lines)
      return at ? [{ thrown, at }] : []
    })
    .sort((a, b) => a.at.startFrame - b.at.startFrame)
}

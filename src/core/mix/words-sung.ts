/** Where a layer sings its lines and their words: by what was heard in the takes it plays, as they sound with what is laid over them. */
import { originOf } from '../edits/in-asset'
import { laidOver } from '../prints/laid-over'
import type { Layer, Pick, Song } from '../song/schema'
import { currentComp, overlapFrames, requireTake, type FrameRange, type PlacedLine } from '../song/select'
import { placeWords, type PlacedWord, type Sung } from '../song/words'
import { soundingAt, timeMapOf } from '../tune/time-map'

/** A line is begun at most this much before its first bar; words are looked for from there. */
const EARLY_FRAMES = 24_000

/** Null where nothing that was listened to is played, and no made voice sings. */
export function sungIn(song: Song, layer: Layer, line: FrameRange): Sung | null {
  const round = { startFrame: line.startFrame - EARLY_FRAMES, endFrame: line.endFrame }
  const heard = currentComp(layer)
    .picks.filter(pick => overlapFrames(pick, round) > 0)
    .flatMap(pick => heardOfPick(song, layer, pick) ?? [])
  const made = layer.made ? layer.part.filter(note => overlapFrames(note, line) > 0 && heard.every(sung => overlapFrames(sung.pick, note) === 0)) : []
  const phrases = [...heard.flatMap(sung => sung.phrases), ...joined(made)].sort((a, b) => a.startFrame - b.startFrame)
  if (phrases.length === 0) return null
  return { phrases, onsetFrames: [...heard.flatMap(sung => sung.onsetFrames), ...made.map(note => note.startFrame)] }
}

/** Of a line without words none; the words of a line that the layer does not sing are spread over it. */
export function wordsSung(song: Song, layer: Layer, line: PlacedLine): PlacedWord[] {
  return placeWords(line, sungIn(song, layer, line))
}

function heardOfPick(song: Song, layer: Layer, pick: Pick): (Sung & { pick: Pick }) | null {
  const take = requireTake(song, pick.takeId)
  if (!take.heard) return null
  const times = timeMapOf(pick.asSung ? [] : laidOver(song, layer, take).times)
  const origin = originOf(pick, take)
  const sounds = (frame: number) => Math.round(origin + soundingAt(times, frame))
  const phrases = take.heard.phrases
    .map(([start, end]) => ({ startFrame: Math.max(pick.startFrame, sounds(start)), endFrame: Math.min(pick.endFrame, sounds(end)) }))
    .filter(({ startFrame, endFrame }) => endFrame > startFrame)
  const onsetFrames = take.heard.notes.map(([start]) => sounds(start)).filter(frame => frame >= pick.startFrame && frame < pick.endFrame)
  return { pick, phrases, onsetFrames }
}

/** Notes that follow each other at once are one phrase. */
function joined(notes: readonly FrameRange[]): FrameRange[] {
  return notes.reduce<FrameRange[]>((phrases, { startFrame, endFrame }) => {
    const last = phrases.at(-1)
    if (last && startFrame - last.endFrame < 9_600) last.endFrame = Math.max(last.endFrame, endFrame)
    else phrases.push({ startFrame, endFrame })
    return phrases
  }, [])
}

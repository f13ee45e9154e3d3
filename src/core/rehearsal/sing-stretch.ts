/** What the practice singer sings over a stretch of a song. */
import { framesToSeconds, type Mono } from '../audio/frames'
import type { Song } from '../song/schema'
import { lengthOf, type FrameRange } from '../song/select'
import { scoreOfSheet } from './score'
import { sing } from './sing'

const SINGER = 7

/** @param degreeShift As in `scoreOfSheet`. @returns passes one after the other, each as long as the range and each sung a little otherwise. */
export function singStretch(
  song: Song,
  range: FrameRange,
  { passes, firstTake, degreeShift }: { passes: number; firstTake: number; degreeShift: number },
  onProgress: (fraction: number) => void,
): Mono {
  const frames = lengthOf(range)
  const [startSeconds, endSeconds] = [framesToSeconds(range.startFrame), framesToSeconds(range.endFrame)]
  const score = scoreOfSheet(song, degreeShift)
    .filter(line => line.startSeconds < endSeconds && line.notes[line.notes.length - 1].endSeconds > startSeconds)
    .map(line => ({
      startSeconds: line.startSeconds - startSeconds,
      notes: line.notes.map(note => ({ ...note, startSeconds: note.startSeconds - startSeconds, endSeconds: note.endSeconds - startSeconds })),
    }))
  const voice = new Float32Array(frames * passes)
  for (let pass = 0; pass < passes; pass++)
    voice.set(sing({ score, frames, seed: SINGER, take: firstTake + pass, onProgress: fraction => onProgress((pass + fraction) / passes) }), pass * frames)
  return voice
}

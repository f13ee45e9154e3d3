/** `plush seams`: where one take may end and another go on, for every pair of takes of one line. */
import { basename } from 'node:path'
import { mixToMono, SAMPLE_RATE_HZ } from '../src/core/audio/frames'
import { findQuietPlaces, type AnalysedTake } from '../src/core/comp/quiet-places'
import { analyseVoice } from '../src/core/voice/analyse-voice'
import { fail } from './failure'
import { loadSound } from './file-source'

/** Prints {seams: [{a, tA, b, tB, reason}]}: times in seconds; takes lie where they were sung, so both times are the same. */
export async function findSeams(files: string[]): Promise<void> {
  const takes: (AnalysedTake & { file: string; frames: number })[] = []
  for (const file of files) {
    const loaded = await loadSound(file)
    if (!loaded.ok) return fail(loaded.error)
    const voice = mixToMono(loaded.planes)
    takes.push({ file: basename(file), frames: voice.length, analysis: analyseVoice(voice), originFrame: 0 })
  }
  const seams = takes.flatMap((a, i) =>
    takes.slice(i + 1).flatMap(b =>
      findQuietPlaces([a, b], { startFrame: 0, endFrame: Math.min(a.frames, b.frames) }).map(({ frame, reason }) => ({
        a: a.file,
        tA: frame / SAMPLE_RATE_HZ,
        b: b.file,
        tB: frame / SAMPLE_RATE_HZ,
        reason,
      })),
    ),
  )
  console.log(JSON.stringify({ seams }))
}

/** `plush sing`: one pass of the practice singer over the demo song. */
import { makeDemoSheet } from '../src/core/rehearsal/demo-song'
import { DEMO_BARS, DEMO_GRID } from '../src/core/rehearsal/demo-beat'
import { frameOfBar } from '../src/core/beat/grid'
import { scoreOfSheet } from '../src/core/rehearsal/score'
import { NO_FAULTS, sing, USUAL_FAULTS } from '../src/core/rehearsal/sing'
import { writeWav } from './decode'

export async function singTake(out: string, { seed, take, faults }: { seed: number; take: number; faults: boolean }): Promise<void> {
  const frames = frameOfBar(DEMO_GRID, DEMO_BARS + 1)
  const score = scoreOfSheet(makeDemoSheet(frames))
  await writeWav(out, [sing({ score, frames, seed, take, faults: faults ? USUAL_FAULTS : NO_FAULTS })], 'pcm16')
}

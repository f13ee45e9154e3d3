/** Something could not be done: what, why, and that the song is as it was. */
import { Flex } from '@chakra-ui/react'
import type { SongProblem } from '../../core/song/check'
import { Notice, Pill } from '../shared/parts'
import { dismissRefusal, useSongStore } from '../song/song-store'

export function Refusal() {
  const refused = useSongStore(state => state.refused)
  if (!refused) return null
  return (
    <Notice tone="warn" title={`This was not done: ${refused.label}.`}>
      <Flex gap={3} align="center" justify="space-between">
        <span>{reasonOf(refused.problem)} The song is as it was.</span>
        <Pill size="xs" onClick={dismissRefusal}>
          All right
        </Pill>
      </Flex>
    </Notice>
  )
}

/** What a song can hold, by the list or number that was to go beyond it. */
const LIMITS: Record<string, (most: number) => string> = {
  layers: most => `A song holds at most ${most} layers. Remove one that is not needed first.`,
  comps: most => `A layer holds at most ${most} comps. Let one go first.`,
  picks: most => `A comp holds at most ${most} picks.`,
  lines: most => `A section holds at most ${most} lines. Put a blank line or a heading between them.`,
  sections: most => `A song holds at most ${most} sections.`,
  takes: most => `A song holds at most ${most} takes.`,
  spares: most => `At most ${most} stretches can be put aside. Let one go first.`,
  singAgain: most => `At most ${most} lines can be marked to be sung again.`,
  pieces: most => `The beat can be cut into at most ${most} pieces.`,
  treatments: most => `At most ${most} stretches of the beat can be coloured.`,
  chords: most => `A song holds at most ${most} chords.`,
  frames: () => 'A song may last an hour at most.',
  startFrame: () => 'A song may last an hour at most.',
  endFrame: () => 'A song may last an hour at most.',
  startBar: most => `The last bar that can be counted is ${most}.`,
  barCount: most => `A section may be ${most} bars long at most.`,
  beatCount: most => `A line may be ${most} beats long at most.`,
}

function reasonOf(problem: SongProblem | 'only-looking' | null): string {
  if (problem === 'only-looking') return 'Here the song is only looked at.'
  if (!problem) return 'Something went wrong in it.'
  const place = problem.path.findLast(key => typeof key === 'string')
  const limit = problem.limit?.end === 'most' && typeof place === 'string' ? LIMITS[place] : undefined
  return limit ? limit(problem.limit!.value) : `A song cannot hold that (${problem.path.join('.')}: ${problem.expected}).`
}

/** Whether the newest pass was sung into the microphone as those before it were: said before the next one. */
import { Text } from '@chakra-ui/react'
import type { Song, Take, TakeLevel } from '../../../core/song/schema'
import { overlapFrames } from '../../../core/song/select'
import { compareLevels, type LevelChange } from '../../../core/voice/take-level'
import { useSong } from '../../song/song-store'
import { useRecorder } from '../../recording/recorder-store'

const CHANGE_TEXT: Record<LevelChange['kind'], (decibels: string) => string> = {
  louder: decibels => `${decibels} dB louder than the passes before: step back or turn the input down`,
  quieter: decibels => `${decibels} dB quieter than the passes before: come closer or turn the input up`,
  noisier: decibels => `the room is ${decibels} dB noisier than before`,
  brighter: decibels => `brighter than before by ${decibels} dB: the microphone was moved`,
  duller: decibels => `duller than before by ${decibels} dB: the microphone was moved, or turned away`,
}

/** The last take against the earlier ones of its layer that cover the same stretch. */
function levelChanges(song: Song, take: Take): LevelChange[] | null {
  if (!take.level) return null
  const earlier = song.takes.filter(
    other =>
      other.layerId === take.layerId &&
      other.assetId !== take.assetId &&
      !other.binned &&
      other.recordedAt < take.recordedAt &&
      overlapFrames(other, take) > 0.5 * (take.endFrame - take.startFrame),
  )
  const levels = earlier.flatMap((other): TakeLevel[] => (other.level ? [other.level] : []))
  return levels.length === 0 ? null : compareLevels(take.level, levels)
}

export function LevelNote() {
  const song = useSong(current => current)
  const lastId = useRecorder(state => state.lastTakeIds.at(-1))
  const take = song.takes.find(entry => entry.id === lastId)
  const changes = take ? levelChanges(song, take) : null
  if (!take || !changes) return null
  if (changes.length === 0) {
    return (
      <Text color="ink.soft" fontSize="12px" role="status">
        Same level as the passes before.
      </Text>
    )
  }
  return (
    <Text color="warn" fontSize="12px" role="status">
      {take.name}: {changes.map(({ kind, decibels }) => CHANGE_TEXT[kind](decibels.toFixed(0))).join('; ')}.
    </Text>
  )
}

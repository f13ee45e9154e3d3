/** How loud the beat is, what is wrong with its level, and how much room it leaves for a voice. */
import { Flex, Text } from '@chakra-ui/react'
import { memo } from 'react'
import type { BeatAnalysis } from '../../../core/beat/analyse'
import type { BeatLevel } from '../../../core/beat/level'
import { setBeatMix } from '../../../core/mix/commands'
import { isRearranged } from '../../../core/song/arrangement'
import { layFoundChords, layFoundSections } from '../../../core/song/beat-facts'
import { makeId } from '../../../storage/database'
import { count, formatDecibels, formatLevel } from '../../shared/format'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { edit, useSong } from '../../song/song-store'

const CHANNELS = {
  mono: 'One channel.',
  stereo: null,
  'same on both sides': 'Both sides are the same: a mono beat in a stereo file.',
  'out of phase': 'The sides are out of phase: on one loudspeaker much of it would vanish.',
} as const

export const LevelCard = memo(function LevelCard({ level }: { level: BeatLevel | null }) {
  const gain = useSong(song => song.beat.gainDecibels)
  if (!level) return null
  const proposed = level.proposedGainDecibels
  const remarks = [
    level.clipped.length > 0 ? `Its tops are cut off in ${count(level.clipped.length, 'place')}; a better file would sound better.` : null,
    CHANNELS[level.channels],
  ].filter(remark => remark !== null)
  return (
    <Card>
      <Flex justify="space-between" align="baseline">
        <CardTitle>Level</CardTitle>
        <Text color="ink.soft">plays at {formatDecibels(gain)}</Text>
      </Flex>
      <Text mt={3}>
        {formatLevel(level.integratedLufs, 'LUFS')}, highest peak {formatLevel(level.truePeakDbtp, 'dBTP')}
      </Text>
      {remarks.map(remark => (
        <Text key={remark} mt={1} color="ink.soft">
          {remark}
        </Text>
      ))}
      <Flex align="center" gap={2} mt={3} wrap="wrap">
        {Math.abs(proposed - gain) > 1.5 && Number.isFinite(level.integratedLufs) ? (
          <>
            <Pill onClick={() => edit('make room for the voice', song => setBeatMix(song, { gainDecibels: proposed }))}>
              {proposed < gain ? 'Turn it down to' : 'It may come up to'} {formatDecibels(proposed)}
            </Pill>
            <Text color="ink.soft">and leave room for a voice</Text>
          </>
        ) : (
          <Text color="ink.soft">It leaves room for a voice.</Text>
        )}
      </Flex>
    </Card>
  )
})

/** What was heard of the beat's shape, to take again over what was changed by hand. */
export function HeardAgain({ analysis }: { analysis: BeatAnalysis | null }) {
  const hasLines = useSong(song => song.sections.some(section => section.lines.length > 0))
  const rearranged = useSong(isRearranged)
  // What was heard is counted along the file, not along another order of its bars.
  if (!analysis || rearranged || (analysis.sections.length === 0 && analysis.chords.length === 0)) return null
  const places = analysis.sections.map(({ letter, startBar, barCount }) => `${letter} in bars ${startBar} to ${startBar + barCount - 1}`)
  return (
    <Flex gap={2} ml="auto" align="center">
      {analysis.sections.length > 1 ? (
        <Text title={`The same letter sounds alike: ${places.join(', ')}`}>Heard as {analysis.sections.map(({ letter }) => letter).join(' ')}</Text>
      ) : null}
      {analysis.sections.length > 1 && !hasLines ? (
        <Pill onClick={() => edit('lay the sections that were heard', song => layFoundSections(song, { heard: analysis, makeId }))}>
          Lay the {analysis.sections.length} sections heard
        </Pill>
      ) : null}
      {analysis.chords.length > 0 ? (
        <Pill onClick={() => edit('lay the chords that were heard', song => layFoundChords(song, { heard: analysis }))}>Lay the chords heard</Pill>
      ) : null}
    </Flex>
  )
}

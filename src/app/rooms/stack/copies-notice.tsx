/** Layers that play one and the same sound in the selected lines: what is heard of it, and what to do. */
import { Box, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { effectOf, type CopyInLine } from '../../../core/align/copies-in-song'
import { currentComp, lineTitle, overlapFrames, requireLayer, requirePlacedLine } from '../../../core/song/select'
import type { Song } from '../../../core/song/schema'
import { runJob } from '../../../workers/run-job'
import { count } from '../../shared/format'
import { Notice } from '../../shared/parts'
import { currentSong, useSong } from '../../song/song-store'
import { selectedLines, useView } from '../../song/view-store'

/** A section at a time is looked at. */
const MOST_LINES = 12

export function CopiesNotice() {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const lines = selectedLines(song, selection).slice(0, MOST_LINES)
  const played = lines.map(line => [
    line.line.id,
    song.layers.map(layer => [
      layer.muted,
      currentComp(layer)
        .picks.filter(pick => overlapFrames(pick, line) > 0)
        .map(({ takeId, startFrame, endFrame, nudgeFrames }) => [takeId, startFrame, endFrame, nudgeFrames]),
    ]),
  ])
  const lineIds = lines.map(({ line }) => line.id)
  const copies = useQuery({
    queryKey: ['copies', JSON.stringify(played)],
    queryFn: async () => {
      const result = await runJob('findCopies', { song: currentSong(), lineIds })
      return result.kind === 'done' ? result.value : []
    },
    enabled: lineIds.length > 0 && song.layers.filter(layer => currentComp(layer).picks.length > 0).length > 1,
    staleTime: Infinity,
  }).data
  const found = byPair((copies ?? []).filter(copy => isStillThere(song, copy)))
  if (found.length === 0) return null
  return (
    <Notice tone="warn" title={found.length === 1 ? 'Two layers play one sound' : `${count(found.length, 'pair')} of layers play one sound`}>
      <Box as="ul" listStyleType="none">
        {found.map(entry => (
          <Text as="li" key={entry.map(({ lineId }) => lineId).join(' ') + entry[0]!.layerIds.join(' ')}>
            {copyWords(song, entry)}
          </Text>
        ))}
      </Box>
    </Notice>
  )
}

function isStillThere({ layers, sections }: Song, { layerIds, lineId }: CopyInLine): boolean {
  return layerIds.every(id => layers.some(layer => layer.id === id)) && sections.some(section => section.lines.some(line => line.id === lineId))
}

function byPair(copies: readonly CopyInLine[]): CopyInLine[][] {
  const pairs = new Map<string, CopyInLine[]>()
  for (const copy of copies) {
    const key = `${copy.layerIds.join(' ')} ${effectOf(copy)}`
    pairs.set(key, [...(pairs.get(key) ?? []), copy])
  }
  return [...pairs.values()]
}

function copyWords(song: Song, copies: readonly CopyInLine[]): string {
  const [first] = copies as [CopyInLine]
  const [one, other] = first.layerIds.map(id => requireLayer(song, id).name)
  const where = copies.length === 1 ? `“${lineTitle(requirePlacedLine(song, first.lineId))}”` : count(copies.length, 'line')
  const late = `${Math.round(1_000 * Math.abs(first.lagSeconds))} ms apart`
  const heard = { louder: 'it only gets louder', gone: 'they take each other away', hollow: `${late}, it sounds hollow` }[effectOf(first)]
  return `${one} and ${other} in ${where}: ${heard}. Pick another take for ${other} in Comp, or sing it once more.`
}

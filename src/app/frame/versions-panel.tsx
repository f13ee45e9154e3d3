/** Versions of the song: kept under a name with a note, heard, and gone back to. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { Trash2 } from 'lucide-react'
import { useEffect, useState } from 'react'
import { differenceOf, goBackTo } from '../../core/song/versions'
import type { Song } from '../../core/song/schema'
import { makeId } from '../../storage/database'
import { keepVersion, keptVersions, removeVersion, type KeptVersion } from '../../storage/versions'
import { count, formatMoment } from '../shared/format'
import { NameField } from '../shared/name-field'
import { Pill, SmallButton } from '../shared/parts'
import { currentSong, edit, tryOut, useSong, useSongStore } from '../song/song-store'

export function VersionsPanel({ onDone }: { onDone: () => void }) {
  const song = useSong(current => current)
  const readOnly = useSongStore(state => state.readOnly)
  const versions = useQuery({ queryKey: ['versions', song.id], queryFn: () => keptVersions(song.id), staleTime: 0 })
  const [name, setName] = useState('')
  const [note, setNote] = useState('')
  const [problem, setProblem] = useState<string | null>(null)
  const [heard, setHeard] = useState<string | null>(null)
  // What is heard in its place is heard while one looks here.
  useEffect(() => () => tryOut(null), [])
  const list = versions.data ?? []
  const called = name || `Version ${list.length + 1}`
  const attempt = async (act: () => Promise<void>) => {
    setProblem(null)
    await act().catch((error: unknown) =>
      setProblem(
        error instanceof RangeError ? 'There are as many as can be kept: remove one first.' : 'It could not be kept: free some disk space and try again.',
      ),
    )
    await versions.refetch()
  }
  const keep = () =>
    attempt(async () => {
      await keepVersion({ id: makeId(), name: called, note, keptAt: new Date().toISOString(), song: currentSong() })
      setName('')
      setNote('')
    })
  const hear = (version: KeptVersion) => {
    const isHeard = heard === version.id
    setHeard(isHeard ? null : version.id)
    tryOut(isHeard ? null : now => goBackTo(now, version.song))
  }
  const goBack = (version: KeptVersion) =>
    attempt(async () => {
      await keepVersion({ id: makeId(), name: `Before “${version.name}”`.slice(0, 120), note: '', keptAt: new Date().toISOString(), song: currentSong() })
      tryOut(null)
      if (edit(`go back to “${version.name}”`, now => goBackTo(now, version.song)).ok) onDone()
    })
  return (
    <Box>
      <Text fontWeight={600}>Versions</Text>
      <Text color="ink.soft">The song as it is, under a name. Going back keeps the present as a version too, and is one step of undo.</Text>
      <Flex gap={2} mt={2} align="center" wrap="wrap">
        <NameField label="Name of the new version" name={called} width="150px" borderColor="seamline" onKeep={setName} />
        <NameField label="Note on it" name={note} mayBeEmpty placeholder="a note" width="170px" borderColor="seamline" onKeep={setNote} />
        <Pill size="sm" onClick={() => void keep()}>
          Keep it
        </Pill>
      </Flex>
      {problem ? (
        <Text role="alert" color="warn">
          {problem}
        </Text>
      ) : null}
      <Flex as="ul" direction="column" gap={1} mt={2} listStyleType="none" aria-label="Versions">
        {list.map(version => (
          <Flex as="li" key={version.id} align="center" gap={2} aria-label={version.name}>
            <Box flex="1" minW={0}>
              <Text truncate>
                {version.name}{' '}
                <Box as="span" color="ink.soft">
                  {formatMoment(version.keptAt)}
                </Box>
              </Text>
              <Text color="ink.soft" fontSize="13px">
                {[version.note, differenceText(song, version.song)].filter(Boolean).join(' · ')}
              </Text>
            </Box>
            <Pill
              size="xs"
              px={3}
              chosen={heard === version.id}
              title="Playing, it is heard in place of the song, as long as this is open"
              onClick={() => hear(version)}
            >
              Hear it
            </Pill>
            <Pill size="xs" px={3} disabled={readOnly} onClick={() => void goBack(version)}>
              Go back to it
            </Pill>
            <SmallButton aria-label={`Remove the version ${version.name}`} onClick={() => void attempt(() => removeVersion(version.id))}>
              <Trash2 size={14} aria-hidden />
            </SmallButton>
          </Flex>
        ))}
      </Flex>
    </Box>
  )
}

function differenceText(now: Song, before: Song): string {
  const { takes, layers, lines, picks, isMixedOtherwise } = differenceOf(now, before)
  const words = (
    [
      [takes, 'take'],
      [layers, 'layer'],
      [lines, 'line'],
      [picks, 'pick'],
    ] as const
  ).flatMap(([by, what]) => (by === 0 ? [] : [`${count(Math.abs(by), what)} ${by > 0 ? 'fewer' : 'more'}`]))
  return [...words, ...(isMixedOtherwise ? ['mixed otherwise'] : [])].join(', ') || 'as it is now'
}

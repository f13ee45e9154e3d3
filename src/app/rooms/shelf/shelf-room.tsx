/** The Shelf: all songs, and the place where a dropped beat becomes one. */
import { Box, chakra, Flex, Grid, Heading, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { Music, Upload } from 'lucide-react'
import { useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { listSongs } from '../../../storage/songs'
import { ThemeButton } from '../../frame/top-bar'
import { EmptyState, Pill, PrimaryButton } from '../../shared/parts'
import { ImportCard } from './import-card'
import { SongCard } from './song-card'
import { useImports } from './use-imports'

export function ShelfRoom() {
  const songs = useQuery({ queryKey: ['songs'], queryFn: listSongs, staleTime: 0 })
  const imports = useImports()
  const navigate = useNavigate()
  const chooser = useRef<HTMLInputElement>(null)
  const [hovering, setHovering] = useState(false)
  const [binShown, setBinShown] = useState(false)
  const standing = songs.data?.filter(entry => entry.binnedAt === null) ?? []
  const binned = songs.data?.filter(entry => entry.binnedAt !== null) ?? []
  const open = (songId: string, room = 'beat') => void navigate(`/song/${songId}/${room}`)
  const take = async (files: FileList | null) => {
    const file = files?.[0]
    if (!file) return
    const songId = await imports.importFile(file)
    if (songId) open(songId)
  }
  const demo = async () => {
    const songId = await imports.importDemo()
    if (songId) open(songId, 'comp')
  }
  return (
    <Box
      as="main"
      height="100%"
      overflowY="auto"
      p="28px 48px"
      outline={hovering ? '3px dashed' : undefined}
      outlineColor="brand"
      outlineOffset="-10px"
      onDragOver={event => {
        event.preventDefault()
        setHovering(true)
      }}
      onDragLeave={() => setHovering(false)}
      onDrop={event => {
        event.preventDefault()
        setHovering(false)
        void take(event.dataTransfer.files)
      }}
    >
      <Flex align="center" gap={3} mb={6}>
        <img src="/ribbons.svg" alt="" width={36} height={36} />
        <Heading as="h1" fontFamily="heading" fontSize="28px" fontWeight={600} flex="1">
          Plush Layer
        </Heading>
        <ThemeButton />
        {standing.length > 0 ? (
          <Pill onClick={() => void demo()} disabled={imports.busy}>
            <Music size={15} aria-hidden /> Open the demo song
          </Pill>
        ) : null}
        <PrimaryButton onClick={() => chooser.current?.click()} disabled={imports.busy}>
          <Upload size={16} aria-hidden /> New song from a beat
        </PrimaryButton>
        <chakra.input ref={chooser} type="file" aria-label="Choose a beat or a song file" display="none" accept=".wav,.mp3,.flac,.ogg,.oga,.zip,audio/*" onChange={event => void take(event.target.files).finally(() => (chooser.current!.value = ''))} />
      </Flex>
      <ImportCard imports={imports} onOpen={songId => open(songId)} />
      {songs.data && standing.length === 0 ? (
        <EmptyState text="Drop a beat anywhere here: WAV, MP3, FLAC or Ogg Vorbis. It stays on this machine. Or look around in a song that is already there.">
          <Pill onClick={() => void demo()} disabled={imports.busy}>
            <Music size={15} aria-hidden /> Open the demo song
          </Pill>
        </EmptyState>
      ) : (
        <Grid templateColumns="repeat(auto-fill, minmax(280px, 1fr))" gap={4}>
          {standing.map(entry => (
            <SongCard key={entry.id} entry={entry} onOpen={() => open(entry.id)} />
          ))}
        </Grid>
      )}
      {standing.length > 0 ? (
        <Text color="ink.soft" mt={5}>
          Drop a beat or a song file anywhere on this page to begin another.
        </Text>
      ) : null}
      {binned.length > 0 ? (
        <Box mt={6}>
          <Pill chosen={binShown} onClick={() => setBinShown(!binShown)}>
            Bin ({binned.length})
          </Pill>
          {binShown ? (
            <Grid templateColumns="repeat(auto-fill, minmax(280px, 1fr))" gap={4} mt={3}>
              {binned.map(entry => (
                <SongCard key={entry.id} entry={entry} onOpen={() => open(entry.id)} />
              ))}
            </Grid>
          ) : null}
        </Box>
      ) : null}
    </Box>
  )
}

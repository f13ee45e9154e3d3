/** The Shelf: all songs, and the place where a dropped beat becomes one. */
import { Box, chakra, Flex, Grid, Heading, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { Music, Upload } from 'lucide-react'
import { lazy, Suspense, useEffect, useEffectEvent, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import type { PlainBeat } from '../../../core/beat/plain-beat'
import { listSongs } from '../../../storage/songs'
import { storageUse } from '../../../storage/usage'
import { runJob } from '../../../workers/run-job'
import { HelpButton } from '../../help/help-button'
import { ThemeButton } from '../../theme/theme-button'
import { Pill, PrimaryButton } from '../../shared/parts'
import { ReleaseNotice } from '../../shared/release-notice'
import { BackUp } from './back-up'
import { EmptyShelf } from './empty-shelf'
import { ImportCard } from './import-card'
import { SongCard } from './song-card'
import { StorageLine } from './storage-line'
import { FilesAlong, type Along } from './files-along'
import { useImports, type Arrival } from './use-imports'

// Few begin so: fetched when it is asked for.
const WithoutBeat = lazy(() => import('./without-beat').then(({ WithoutBeat: Card }) => ({ default: Card })))

/** @see WICG, Web App Launch Handler API; only browsers that install apps have it. */
const { launchQueue } = globalThis as { launchQueue?: { setConsumer(consumer: (launch: { files: readonly FileSystemFileHandle[] }) => void): void } }

export function ShelfRoom() {
  const songs = useQuery({ queryKey: ['songs'], queryFn: listSongs, staleTime: 0 })
  const use = useQuery({ queryKey: ['storage use', songs.dataUpdatedAt], queryFn: storageUse, staleTime: 0 })
  const imports = useImports()
  const navigate = useNavigate()
  const chooser = useRef<HTMLInputElement>(null)
  const [hovering, setHovering] = useState(false)
  const [binShown, setBinShown] = useState(false)
  const standing = songs.data?.filter(entry => entry.binnedAt === null) ?? []
  const binned = songs.data?.filter(entry => entry.binnedAt !== null) ?? []
  const [beatless, setBeatless] = useState(false)
  const [along, setAlong] = useState<Along | null>(null)
  const open = (songId: string, room = 'beat') => void navigate(`/song/${songId}/${room}`)
  const welcome = ({ songId, mixedDownFrom, silencedSamples }: Arrival) => void navigate(`/song/${songId}/beat`, { state: { mixedDownFrom, silencedSamples } })
  const take = async (files: FileList | readonly File[] | null) => {
    const [first, ...others] = files ? [...files] : []
    if (!first) return
    const arrival = await imports.importFile(first)
    if (arrival && others.length > 0) stay({ first: { name: first.name, arrival }, others })
    else if (arrival) welcome(arrival)
    // A backup brings songs and opens none.
    else void songs.refetch()
  }
  /** With the songs that have come in shown. */
  const stay = (next: Along | null) => {
    setAlong(next)
    void songs.refetch()
  }
  const begin = async (beat: PlainBeat) => {
    const arrival = await imports.beginWithout(beat)
    if (arrival) welcome(arrival)
  }
  const demo = async () => {
    const arrival = await imports.importDemo()
    if (arrival) open(arrival.songId, 'comp')
  }
  // Of the installed app: files that the system was asked to open with it.
  const takeLaunched = useEffectEvent((files: readonly File[]) => void take(files))
  useEffect(() => {
    launchQueue?.setConsumer(({ files }) => void Promise.all(files.map(file => file.getFile())).then(takeLaunched))
  }, [])
  useEffect(() => {
    const idle = requestIdleCallback(() => void runJob('getReady', {}))
    return () => cancelIdleCallback(idle)
  }, [])
  return (
    <Box
      as="main"
      tabIndex={-1}
      height="100%"
      overflowY="auto"
      p="28px 48px"
      outline={hovering ? '3px dashed' : 'none'}
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
        if (event.dataTransfer.files.length === 0) imports.refuseDrop()
        else void take(event.dataTransfer.files)
      }}
    >
      <Flex align="center" gap={3} mb={6} wrap={{ base: 'wrap', md: 'nowrap' }}>
        <img src="/ribbons.svg" alt="" width={36} height={36} />
        <Heading as="h1" fontFamily="heading" fontSize="28px" fontWeight={600} flex="1">
          Plush Layer
        </Heading>
        <HelpButton />
        <ThemeButton />
        {standing.length > 0 ? (
          <Pill onClick={() => void demo()} disabled={imports.busy}>
            <Music size={15} aria-hidden /> Open the demo song
          </Pill>
        ) : null}
        <Pill onClick={() => setBeatless(true)} disabled={imports.busy}>
          Without a beat
        </Pill>
        <PrimaryButton onClick={() => chooser.current?.click()} disabled={imports.busy}>
          <Upload size={16} aria-hidden /> New song from a beat
        </PrimaryButton>
        <chakra.input
          ref={chooser}
          type="file"
          aria-label="Choose a beat or a song file"
          display="none"
          multiple
          accept=".wav,.aif,.aiff,.mp3,.m4a,.aac,.flac,.ogg,.oga,.opus,.webm,.mp4,.mov,.zip,audio/*,video/*"
          onChange={event => void take(event.target.files).finally(() => (chooser.current!.value = ''))}
        />
      </Flex>
      <ReleaseNotice />
      {beatless ? (
        <Suspense fallback={null}>
          <WithoutBeat busy={imports.busy} onBegin={beat => void begin(beat)} onClose={() => setBeatless(false)} />
        </Suspense>
      ) : null}
      <ImportCard imports={imports} onOpen={welcome} />
      {along && !imports.busy ? <FilesAlong along={along} imports={imports} onOpen={welcome} onChange={stay} /> : null}
      {songs.data && standing.length === 0 ? (
        <EmptyShelf>
          <Text color="ink.soft" maxW="56ch">
            Drop a beat anywhere here: any common kind of sound file, or a video. It stays on this machine.
          </Text>
          <Pill onClick={() => void demo()} disabled={imports.busy}>
            <Music size={15} aria-hidden /> Open the demo song
          </Pill>
        </EmptyShelf>
      ) : (
        <Grid templateColumns="repeat(auto-fill, minmax(280px, 1fr))" gap={4}>
          {standing.map(entry => (
            <SongCard key={entry.id} entry={entry} bytes={use.data?.songs.get(entry.id)} onOpen={() => open(entry.id)} />
          ))}
        </Grid>
      )}
      {standing.length > 0 ? (
        <Text color="ink.soft" mt={5}>
          Drop a beat or a song file anywhere on this page to begin another.
        </Text>
      ) : null}
      {standing.length > 0 ? <BackUp /> : null}
      {use.data ? <StorageLine use={use.data} onChange={() => void use.refetch()} /> : null}
      {binned.length > 0 ? (
        <Box mt={6}>
          <Pill chosen={binShown} onClick={() => setBinShown(!binShown)}>
            Bin ({binned.length})
          </Pill>
          {binShown ? (
            <Grid templateColumns="repeat(auto-fill, minmax(280px, 1fr))" gap={4} mt={3}>
              {binned.map(entry => (
                <SongCard key={entry.id} entry={entry} bytes={use.data?.songs.get(entry.id)} onOpen={() => open(entry.id)} />
              ))}
            </Grid>
          ) : null}
        </Box>
      ) : null}
    </Box>
  )
}

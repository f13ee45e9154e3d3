/** The frame of a song: top bar, sheet, the room's bench, transport strip. The page itself never scrolls. */
import { Box, Flex, Link as ChakraLink } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useDeferredValue, useEffect, useRef } from 'react'
import { Link, Outlet, useLocation, useParams } from 'react-router'
import { makeLayersForTakes } from '../../core/layers/found-takes'
import { beginHistory } from '../../core/song/history'
import { SongIdSchema, type SongId } from '../../core/song/schema'
import { makeId } from '../../storage/database'
import { keepSnapshot, loadSong, readRawSong } from '../../storage/songs'
import { Notice, Pill } from '../shared/parts'
import { useRecorder } from '../recording/recorder-store'
import { ReleaseNotice } from '../shared/release-notice'
import { saveBlob } from '../shared/save-blob'
import '../song/make-prints'
import { HeardTakes } from '../song/hear-takes'
import { LedLines } from '../song/led-lines'
import { HeardFacts } from '../song/heard-facts'
import { distrustStored, keptSoFar } from '../song/keeper'
import { closeSong, editBesideHistory, openHistory, useSongStore } from '../song/song-store'
import { holdSongLock, useSongLock } from '../song/song-lock'
import { resetView, useView } from '../song/view-store'
import { BinQuestion } from './bin-question'
import { LeftRecordings } from './left-recordings'
import { LineDialog } from './line-dialog'
import { Refusal } from './refusal'
import { RescueNotice } from './rescue-notice'
import { SheetPanel } from './sheet-panel'
import { SoundTrouble } from './sound-trouble'
import { TopBar } from './top-bar'
import { TransportStrip } from './transport-strip'
import { useSongKeys } from './use-song-keys'

export function SongFrame() {
  const { songId } = useParams()
  const id = SongIdSchema.safeParse(songId)
  const loaded = useQuery({
    queryKey: ['song', songId],
    queryFn: () => (id.success ? keptSoFar().then(() => loadSong(id.data)) : Promise.resolve({ kind: 'missing' as const })),
    gcTime: 0,
    staleTime: 0,
    // Read anew it is opened anew, though nothing in it has changed: now it may be worked on.
    structuralSharing: false,
    refetchOnWindowFocus: false,
    refetchOnReconnect: false,
  })
  const openId = useSongStore(state => state.history?.song.id ?? null)
  // A song's rooms are much to draw: that gives way to whatever is more urgent.
  const shownId = useDeferredValue(openId)
  const lock = useSongLock(state => state.state)
  useEffect(() => (songId ? holdSongLock(songId) : undefined), [songId])
  const { refetch } = loaded
  const openedAs = useRef<'mine' | 'elsewhere' | null>(null)
  useEffect(() => {
    const result = loaded.data
    if (!result || lock === 'asking') return
    // The other tab has closed the song: what it kept is read anew before this one works on it.
    if (lock === 'mine' && openedAs.current === 'elsewhere') {
      openedAs.current = 'mine'
      void refetch()
      return
    }
    openedAs.current = lock
    if (result.kind === 'current') {
      openHistory(result.history, lock === 'elsewhere', result.rescue)
      resetView(result.history.song)
      if (lock === 'mine') {
        if (!result.asStored) distrustStored(result.history.song.id)
        void keepSnapshot(result.history, new Date().toISOString()).catch(() => {})
        editBesideHistory(song => makeLayersForTakes(song, makeId))
      }
    } else if (result.kind === 'newer' && result.song) {
      openHistory(beginHistory(result.song), true)
      resetView(result.song)
    }
  }, [loaded.data, lock, refetch])
  useEffect(() => closeSong, [songId])
  if (loaded.data && loaded.data.kind !== 'current' && !(loaded.data.kind === 'newer' && loaded.data.song))
    return <CannotOpen kind={loaded.data.kind} songId={id.success ? id.data : null} />
  return shownId === songId && openId === songId ? (
    <OpenSong />
  ) : (
    <Box p={8} role="status">
      Opening the song …
    </Box>
  )
}

function OpenSong() {
  const isRecording = useRecorder(state => state.phase !== 'idle' && state.phase !== 'checking')
  useSongKeys()
  const folded = useView(state => state.sheetFolded)
  const readOnly = useSongStore(state => state.readOnly)
  const elsewhere = useSongLock(state => state.state === 'elsewhere')
  // A room begins at its top.
  const { pathname } = useLocation()
  useRoomBeforeSheet()
  return (
    <Flex direction="column" height="100%">
      <HeardFacts />
      <HeardTakes />
      <LedLines />
      <TopBar />
      <Flex direction={{ base: 'column', md: 'row' }} flex="1 1 auto" minH={0}>
        <Box
          as="aside"
          aria-label="Song sheet"
          // In a window as narrow as a phone's either the sheet is in view or the room.
          display={{ base: folded ? 'none' : 'block', md: 'block' }}
          // Under the notices, which are in view with either.
          order={{ base: 1, md: 0 }}
          width={{ base: '100%', md: folded ? '64px' : '236px', xl: folded ? '64px' : '300px' }}
          flex={{ base: '1 1 auto', md: '0 0 auto' }}
          minH={0}
          borderRightWidth={{ base: 0, md: '1px' }}
          borderColor="seamline"
          overflowY="auto"
          tabIndex={-1}
          outline="none"
        >
          <SheetPanel folded={folded} />
        </Box>
        <Flex direction="column" flex={{ base: folded ? '1 1 auto' : '0 0 auto', md: '1 1 auto' }} minW={0} minH={0}>
          <Flex as="section" aria-label="Notices" direction="column" gap={2} p="12px 20px 0" _empty={{ display: 'none' }}>
            {elsewhere ? (
              <Notice tone="warn" title="This song is open in another tab.">
                Here it can be looked at and heard, and nothing in it is changed. Close it there, and this tab takes over by itself.
              </Notice>
            ) : readOnly ? (
              <Notice tone="warn" title="This song was made with a later release of Plush Layer.">
                It is shown as far as it can be, and nothing in it is changed. Update the app to work on it.
              </Notice>
            ) : null}
            <ReleaseNotice isRecording={isRecording} />
            <RescueNotice />
            <SoundTrouble />
            <Refusal />
            <LeftRecordings />
          </Flex>
          <Box
            as="main"
            key={pathname}
            display={{ base: folded ? 'block' : 'none', md: 'block' }}
            flex="1 1 auto"
            minH={0}
            overflowY="auto"
            p={{ base: '12px', md: '16px 20px' }}
            tabIndex={-1}
            outline="none"
          >
            <BinQuestion />
            <LineDialog />
            <Outlet />
          </Box>
        </Flex>
      </Flex>
      <TransportStrip />
    </Flex>
  )
}

/** As wide as the theme's `md` begins. */
const NARROW = '(max-width: 767px)'

/** Where only one of both has room, whatever leads to a room puts the sheet away. */
function useRoomBeforeSheet(): void {
  const { key } = useLocation()
  const opened = useRef(key)
  useEffect(() => {
    if (key !== opened.current && matchMedia(NARROW).matches) useView.setState({ sheetFolded: true })
  }, [key])
}

function CannotOpen({ kind, songId }: { kind: 'missing' | 'newer' | 'damaged'; songId: SongId | null }) {
  const text = {
    missing: ['There is no such song here.', 'It may have been removed for good, or kept in another browser.'],
    newer: ['This song was made with a later release of Plush Layer.', 'Its file is kept untouched. Update the app to open it.'],
    damaged: [
      'This song cannot be opened: its document is damaged.',
      'Its sounds are kept, and so is the document: save it before anything else. If you have a song file of it, drop that on the Shelf.',
    ],
  }[kind] as [string, string]
  return (
    <Box p={8} maxW="560px">
      <Notice tone="warn" title={text[0]}>
        {text[1]}
      </Notice>
      {kind !== 'missing' && songId ? (
        <Pill mt={3} onClick={() => void saveRawSong(songId)}>
          Save its document as it is
        </Pill>
      ) : null}
      <ChakraLink asChild mt={4} color="brand" display="block">
        <Link to="/">Back to the Shelf</Link>
      </ChakraLink>
    </Box>
  )
}

async function saveRawSong(songId: SongId): Promise<void> {
  saveBlob(new Blob([await readRawSong(songId)], { type: 'application/json' }), `${songId}.json`)
}

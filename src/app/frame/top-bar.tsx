/** The slim bar: song name, rooms, undo, whether all is kept, day or night, keys. */
import { Box, chakra, Flex } from '@chakra-ui/react'
import { Redo2, Undo2 } from 'lucide-react'
import { Link, NavLink, useParams } from 'react-router'
import { setTitle } from '../../core/song/title'
import { formatTime } from '../shared/format'
import { NameField } from '../shared/name-field'
import { edit, redoStep, undoStep, useSong, useSongStore } from '../song/song-store'
import { useView } from '../song/view-store'
import { BarButton, ThemeButton } from '../theme/theme-button'
import { HelpButton } from '../help/help-button'
import { KeysDialog } from './keys-dialog'
import { ROOMS } from './rooms'
import { StepsDialog } from './steps-dialog'

const BarLink = chakra(NavLink)
const HomeLink = chakra(Link)
export function TopBar() {
  const { songId } = useParams()
  return (
    <Flex
      as="header"
      height="52px"
      flexShrink={0}
      align="center"
      px={{ base: '10px', md: '18px' }}
      gap={{ base: 2, md: 4 }}
      borderBottomWidth="1px"
      borderColor="seamline"
      // What a narrow window has no room for lies to the right.
      overflowX={{ base: 'auto', md: 'visible' }}
    >
      <HomeLink to="/" aria-label="Shelf: all songs" title="Shelf: all songs" flexShrink={0}>
        <img src="/ribbons.svg" alt="" width={28} height={28} />
      </HomeLink>
      <SongTitle />
      <Flex as="nav" aria-label="Rooms" gap={1} flex={{ base: '0 0 auto', md: '1 1 auto' }}>
        <SheetButton />
        {ROOMS.map(room => (
          <BarLink
            key={room.path}
            to={`/song/${songId}/${room.path}`}
            px={3}
            py="6px"
            color="ink.soft"
            borderBottomWidth="2px"
            borderBottomStyle="dashed"
            borderColor="transparent"
            _hover={{ color: 'ink' }}
            _currentPage={{ color: 'ink', fontWeight: 600, borderColor: 'brand' }}
          >
            {room.name}
          </BarLink>
        ))}
      </Flex>
      <UndoButtons />
      <Stepped />
      <KeptState />
      <ThemeButton />
      <HelpButton />
      <KeysDialog />
    </Flex>
  )
}

/** In a narrow window the sheet takes all of it, and the rooms beside it come in its place. */
function SheetButton() {
  const folded = useView(state => state.sheetFolded)
  return (
    <BarButton
      display={{ base: 'inline-flex', md: 'none' }}
      aria-pressed={!folded}
      fontWeight={folded ? 400 : 600}
      onClick={() => useView.setState({ sheetFolded: false })}
    >
      Sheet
    </BarButton>
  )
}

function SongTitle() {
  const title = useSong(song => song.title)
  return (
    <NameField
      label="Song title"
      name={title}
      variant="flushed"
      maxW={{ base: '130px', md: '240px' }}
      flexShrink={0}
      fontFamily="heading"
      fontSize="19px"
      onKeep={next => edit('rename the song', song => setTitle(song, next))}
    />
  )
}

function UndoButtons() {
  const undoLabel = useSongStore(state => state.history?.done.at(-1)?.label ?? null)
  const redoLabel = useSongStore(state => state.history?.undone[0]?.label ?? null)
  return (
    <Flex gap={2} minW={0} flexShrink={{ base: 0, md: 1 }}>
      <BarButton onClick={undoStep} disabled={!undoLabel} title={undoLabel ? `Undo “${undoLabel}” (Ctrl Z)` : 'Nothing to undo'} maxW="230px">
        <Undo2 size={15} aria-hidden style={{ flexShrink: 0 }} />
        <Box as="span" truncate>
          {undoLabel ? `Undo “${undoLabel}”` : 'Undo'}
        </Box>
      </BarButton>
      <BarButton
        onClick={redoStep}
        disabled={!redoLabel}
        aria-label={redoLabel ? `Redo “${redoLabel}”` : 'Redo'}
        title={redoLabel ? `Redo “${redoLabel}” (Ctrl Shift Z)` : 'Nothing to redo'}
      >
        <Redo2 size={15} aria-hidden />
      </BarButton>
      <StepsDialog />
    </Flex>
  )
}

/** What was just taken back; it may lie out of sight. In the one corner where no room has a button. */
function Stepped() {
  const stepped = useSongStore(state => state.stepped)
  return (
    <Box role="status" position="fixed" bottom="92px" left="18px" zIndex="docked" pointerEvents="none">
      {stepped ? (
        <Box bg="card" color="ink" borderWidth="1px" borderColor="seamline" borderRadius="8px" boxShadow="card" px={3} py="6px" maxW="420px">
          {stepped.how}: {stepped.label}
          {stepped.place ? (
            <Box as="span" color="ink.soft">
              {' '}
              · {stepped.place}
            </Box>
          ) : null}
        </Box>
      ) : null}
    </Box>
  )
}

function KeptState() {
  const readOnly = useSongStore(state => state.readOnly)
  return readOnly ? (
    <Box role="status" color="warn" fontWeight={600} whiteSpace="nowrap">
      Only looking
    </Box>
  ) : (
    <Keeping />
  )
}

function Keeping() {
  const keeping = useSongStore(state => state.keeping)
  const text =
    keeping.kind === 'keeping'
      ? 'Keeping …'
      : keeping.kind === 'failed'
        ? 'Not kept: storage failed'
        : keeping.at
          ? `All kept ${formatTime(keeping.at)}`
          : 'All kept'
  return (
    <Box
      role="status"
      color={keeping.kind === 'failed' ? 'warn' : 'ink.soft'}
      whiteSpace="nowrap"
      title={keeping.kind === 'failed' ? `${keeping.detail} Free some disk space, then change anything to try again.` : undefined}
    >
      {text}
    </Box>
  )
}

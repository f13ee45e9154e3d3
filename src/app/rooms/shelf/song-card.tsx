/** A song on the Shelf. */
import { Box, chakra, Flex, Input } from '@chakra-ui/react'
import { Copy, Pencil, RotateCcw, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { destroySong, duplicateSong, renameSong, setBinned, type ShelfEntry } from '../../../storage/songs'
import { queryClient } from '../../query-client'
import { count, formatBytes, formatKey, formatMinutes, formatMoment, formatTempo } from '../../shared/format'
import { Card, Pill } from '../../shared/parts'
import { whileClosed } from '../../song/song-lock'

const IconButton = chakra('button', { base: { color: 'ink.soft', p: '6px', borderRadius: '8px', cursor: 'pointer', _hover: { bg: 'sunken', color: 'ink' } } })
const TitleButton = chakra('button', {
  base: { fontFamily: 'heading', fontSize: '19px', fontWeight: 600, textAlign: 'left', cursor: 'pointer', borderRadius: '6px' },
})

/** @param bytes What its sounds take; undefined while it is not known. */
export function SongCard({ entry, bytes, onOpen }: { entry: ShelfEntry; bytes: number | undefined; onOpen: () => void }) {
  const [title, setTitle] = useState<string | null>(null)
  const [asking, setAsking] = useState(false)
  const [openElsewhere, setOpenElsewhere] = useState(false)
  /** What changes a song waits until no other tab works on it. */
  const act = async (action: () => Promise<unknown>) => {
    setOpenElsewhere(!(await whileClosed(entry.id, action)))
    await queryClient.invalidateQueries({ queryKey: ['songs'] })
  }
  const rename = () => {
    const next = title?.trim()
    setTitle(null)
    if (next && next !== entry.title) void act(() => renameSong(entry.id, next.slice(0, 120)))
  }
  const now = () => new Date().toISOString()
  return (
    <Card as="article" aria-label={entry.title} display="flex" flexDirection="column" gap={2}>
      {title === null ? (
        <TitleButton onClick={onOpen}>{entry.title}</TitleButton>
      ) : (
        <Input
          autoFocus
          aria-label="Song title"
          size="sm"
          value={title}
          onChange={event => setTitle(event.target.value)}
          onBlur={rename}
          onKeyDown={event => (event.key === 'Enter' ? rename() : event.key === 'Escape' && setTitle(null))}
        />
      )}
      {entry.ill ? (
        <Box role="alert" color="warn">
          This song cannot be read as it is. Open it: the last state that was sound comes back, if there is one, and its document can be saved.
        </Box>
      ) : null}
      <Box color="ink.soft" hidden={entry.ill}>
        {formatMinutes(entry.frames)} ·{' '}
        {entry.tempoBpm === null
          ? entry.isListened
            ? 'no tempo found'
            : 'not listened to yet'
          : `${formatTempo(entry.tempoBpm)} bpm · ${formatKey(entry.key)}`}
        <br />
        {count(entry.takeCount, 'take')} {bytes === undefined ? '' : `· ${formatBytes(bytes)} `}· touched {formatMoment(entry.touchedAt)}
      </Box>
      {openElsewhere ? (
        <Box role="alert" color="warn">
          Open in another tab. Close it there first; nothing was changed.
        </Box>
      ) : null}
      <Flex gap={1} mt="auto" wrap="wrap" onKeyDown={event => event.key === 'Escape' && setAsking(false)}>
        {entry.binnedAt === null ? (
          <>
            <IconButton aria-label={`Rename ${entry.title}`} title="Rename" onClick={() => setTitle(entry.title)}>
              <Pencil size={16} aria-hidden />
            </IconButton>
            <IconButton
              aria-label={`Duplicate ${entry.title}`}
              title="Duplicate"
              onClick={() => void act(() => duplicateSong(entry.id, `${entry.title} copy`.slice(0, 120), now()))}
            >
              <Copy size={16} aria-hidden />
            </IconButton>
            <IconButton aria-label={`Put ${entry.title} in the bin`} title="Put in the bin" onClick={() => void act(() => setBinned(entry.id, now()))}>
              <Trash2 size={16} aria-hidden />
            </IconButton>
          </>
        ) : (
          <>
            <Pill onClick={() => void act(() => setBinned(entry.id, null))}>
              <RotateCcw size={14} aria-hidden /> Put back
            </Pill>
            {asking ? (
              <>
                <Pill autoFocus onClick={() => setAsking(false)}>
                  Keep it
                </Pill>
                <Pill color="warn" onClick={() => void act(() => destroySong(entry.id))}>
                  Remove {entry.takeCount > 0 ? `it and its ${count(entry.takeCount, 'take')}` : 'it'} for good
                </Pill>
              </>
            ) : (
              <Pill onClick={() => setAsking(true)}>Remove for good …</Pill>
            )}
          </>
        )}
      </Flex>
    </Card>
  )
}

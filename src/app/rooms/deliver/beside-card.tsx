/** Beside the sound: the words, timed lyrics, the places of the song. */
import { Flex, Text } from '@chakra-ui/react'
import { Download } from 'lucide-react'
import { useMemo } from 'react'
import { lrcText, lyricsText, markersCsv } from '../../../core/deliver/beside'
import { sessionSheet } from '../../../core/deliver/session-sheet'
import { songMidi } from '../../../core/deliver/song-notes'
import type { Song } from '../../../core/song/schema'
import { currentComp } from '../../../core/song/select'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { saveBlob } from '../../shared/save-blob'
import { heardIn } from '../../song/hear-takes'
import { useSong } from '../../song/song-store'
import { useVoices } from '../../song/voices'

interface BesideCardProps {
  artist: string
  /** A file's name by what it holds and its ending. */
  nameOf: (what: string, ending: string) => string
}

export function BesideCard({ artist, nameOf }: BesideCardProps) {
  const song = useSong(current => current)
  const lead = song.layers.find(layer => layer.role === 'lead') ?? null
  const played = useMemo(() => new Set(lead ? currentComp(lead).picks.map(pick => pick.takeId) : []), [lead])
  const unheard = useMemo(() => song.takes.filter(take => played.has(take.id) && !take.heard), [song.takes, played])
  const voices = useVoices(unheard)
  const isListening = unheard.some(take => !voices.has(take.assetId))
  /** With what was heard in the lead, whether the song keeps it or not. */
  const heard = (): Song => ({
    ...song,
    takes: song.takes.map(take => {
      const analysis = take.heard || !played.has(take.id) ? undefined : voices.get(take.assetId)
      return analysis ? { ...take, heard: heardIn(take, analysis) } : take
    }),
  })
  const save = (content: string | Uint8Array<ArrayBuffer>, what: string, ending: string, type: string) =>
    saveBlob(new Blob([content], { type: typeof content === 'string' ? `${type};charset=utf-8` : type }), nameOf(what, ending))
  const hasWords = song.sections.some(section => section.lines.some(({ words }) => words.trim()))
  return (
    <Card>
      <CardTitle>Beside the sound</CardTitle>
      <Flex direction="column" gap={2} mt={3}>
        <File name="Lyrics" says="the sheet as text" disabled={!hasWords} onSave={() => save(lyricsText(song), 'lyrics', 'txt', 'text/plain')} />
        <File
          name="Timed lyrics"
          says={isListening ? 'listening to where the lead sings them …' : 'LRC, each word where the lead sings it'}
          disabled={!hasWords || isListening}
          onSave={() => save(lrcText(heard(), lead, { artist }), 'lyrics', 'lrc', 'text/plain')}
        />
        <File
          name="Notes"
          says={isListening ? 'listening to what the lead sings …' : 'MIDI: tempo, sections, the lead’s notes with words, parts'}
          disabled={isListening}
          onSave={() => {
            const sung = heard()
            save(songMidi(sung, sung.layers.find(({ id }) => id === lead?.id) ?? null), 'notes', 'mid', 'audio/midi')
          }}
        />
        <File
          name="Session sheet"
          says="one page to print: what was sung, layers, settings, words"
          onSave={() => save(sessionSheet(song, { artist, date: new Date().toISOString().slice(0, 10) }), 'session', 'html', 'text/html')}
        />
        <File
          name="Places"
          says="sections and lines with bars, seconds and tempo, as a table"
          onSave={() => save(markersCsv(song), 'places', 'csv', 'text/csv')}
        />
      </Flex>
    </Card>
  )
}

function File({ name, says, disabled = false, onSave }: { name: string; says: string; disabled?: boolean; onSave: () => void }) {
  return (
    <Flex align="center" gap={3}>
      <Pill size="xs" minW="118px" disabled={disabled} onClick={onSave}>
        <Download size={14} aria-hidden /> {name}
      </Pill>
      <Text color="ink.soft">{says}</Text>
    </Flex>
  )
}

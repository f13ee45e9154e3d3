/** Deliver: what do I send? */
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { Download } from 'lucide-react'
import { useMemo, useState } from 'react'
import { plainLyrics } from '../../../core/deliver/beside'
import { endingOf } from '../../../core/deliver/encoders'
import { nameOfPart, planStems, type Part } from '../../../core/deliver/parts'
import { setBeatMix, setLayerMix } from '../../../core/mix/commands'
import { nameByPattern, type NamePieces } from '../../../core/files/names'
import type { Song } from '../../../core/song/schema'
import { lineTitle } from '../../../core/song/select'
import { formatKey, formatTempo } from '../../shared/format'
import { Card, CardTitle, Notice, Pill, PrimaryButton, RoomHeading } from '../../shared/parts'
import { edit, useSong } from '../../song/song-store'
import { rangeOf, selectedLines, useView, type Selection } from '../../song/view-store'
import { BesideCard } from './beside-card'
import { useDeliverSettings, type DeliverSettings } from './deliver-settings'
import { DeliveryRow } from './delivery-row'
import { FormatCard } from './format-card'
import { cancelDeliveries, exportSongFile, renderParts, useDeliveries } from './deliveries'

interface Choice {
  name: string
  says: string
  parts: readonly Part[]
}

/** What can be asked for; stems only of what is heard. */
function choicesOf(song: Song): Choice[] {
  const namesOf = (parts: readonly Part[]) => shortList(parts.map(part => nameOfPart(song, part))) || 'no layer is heard yet: pick takes in Comp'
  const [roles, layers] = [planStems(song, 'role'), planStems(song, 'layer')]
  return [
    { name: 'Final mix', says: 'voices and beat, as heard', parts: [{ kind: 'mix' }] },
    { name: 'Vocals alone', says: 'with their recipes and spaces', parts: [{ kind: 'vocals' }] },
    { name: 'Vocals dry', says: 'picked, tidied and tuned, without recipes and spaces', parts: [{ kind: 'vocals', dry: true }] },
    { name: 'Beat alone', says: 'at its level in the mix', parts: [{ kind: 'beat' }] },
    { name: 'Each role', says: namesOf(roles), parts: roles },
    { name: 'Each layer', says: namesOf(layers), parts: layers },
    { name: 'Each layer dry', says: 'for a mixing friend', parts: layers.length > 0 ? planStems(song, 'layer', { dry: true }) : [] },
  ]
}

const MOST_NAMES = 6

function shortList(names: readonly string[]): string {
  const shown = names.slice(0, MOST_NAMES).join(', ')
  return names.length > MOST_NAMES ? `${shown} and ${names.length - MOST_NAMES} more` : shown
}

export function DeliverRoom() {
  const song = useSong(current => current)
  const { title } = song
  // A render tells its progress many times a second; what can be asked for changes with the song alone.
  const choices = useMemo(() => choicesOf(song), [song])
  const [chosen, setChosen] = useState<string[]>(['Final mix', 'Vocals alone', 'Beat alone'])
  const settings = useDeliverSettings()
  const selection = useView(state => state.selection)
  const [onlySelected, setOnlySelected] = useState(false)
  const selected = selectedName(song, selection)
  const items = useDeliveries(state => state.items)
  const busy = useDeliveries(state => state.pending > 0)
  const toggle = (name: string) => setChosen(chosen.includes(name) ? chosen.filter(entry => entry !== name) : [...chosen, name])
  const wanted = choices.filter(({ name }) => chosen.includes(name))
  const parts = wanted.flatMap(choice => choice.parts)
  const nameOf = (part: Part) => fileNameOf(song, nameOfPart(song, part), endingOf(settings.format), settings)
  const render = () => {
    const { format, aim, artist, album } = settings
    const range = onlySelected && selected !== null ? rangeOf(song, selection) : null
    renderParts(parts, { format, aim, range, tags: { title, artist, album, lyrics: plainLyrics(song) } }, nameOf)
  }
  return (
    <>
      <RoomHeading above={`${title} · rendered by the same engine that plays`} title="What do you send?">
        <PrimaryButton disabled={parts.length === 0 || busy} onClick={render}>
          Render {wanted.length === 1 ? wanted[0]!.name.toLowerCase() : `${parts.length} files`}
        </PrimaryButton>
      </RoomHeading>
      <SoloNotice />
      <Flex direction="column" gap={2} mb={items.length > 0 ? 4 : 0} aria-live="polite">
        {items.map(item => (
          <DeliveryRow key={item.id} item={item} onCancel={cancelDeliveries} />
        ))}
      </Flex>
      <Grid templateColumns="minmax(0, 1fr) minmax(0, 1fr)" gap={4} alignItems="start">
        <Flex direction="column" gap={4}>
          <Card>
            <CardTitle>Sound files</CardTitle>
            <Flex direction="column" gap={2} mt={3}>
              {choices.map(({ name, says, parts: made }) => (
                <Flex key={name} align="center" gap={3}>
                  <Pill chosen={made.length > 0 && chosen.includes(name)} disabled={made.length === 0} onClick={() => toggle(name)} minW="130px">
                    {name}
                  </Pill>
                  <Text color="ink.soft">{says}</Text>
                </Flex>
              ))}
            </Flex>
            <Text color="ink.soft" mt={3}>
              Every file begins at the start of the beat, so they line up in any other program. The roles, or the layers, and the beat alone sum to the mix.
              Silence after the last sound is left off.
            </Text>
          </Card>
          <BesideCard artist={settings.artist} nameOf={(what, ending) => fileNameOf(song, what, ending, settings)} />
          <Card>
            <CardTitle>Song file</CardTitle>
            <Text color="ink.soft" mt={2}>
              The whole song as one zip: the document, the beat and every take, the bin’s too. Drop it on the Shelf, here or on another machine, to get the same
              song back.
            </Text>
            <Box mt={3}>
              <Pill disabled={busy} onClick={exportSongFile}>
                <Download size={15} aria-hidden /> Make a song file
              </Pill>
            </Box>
          </Card>
        </Flex>
        <FormatCard onlySelected={onlySelected} onOnlySelected={setOnlySelected} selected={selected} example={nameOf(parts[0] ?? { kind: 'mix' })} />
      </Grid>
    </>
  )
}

/** What is selected on the sheet; null where that is the whole song. */
function selectedName(song: Song, selection: Selection): string | null {
  if (selection.kind === 'song') return null
  if (selection.kind === 'section') return song.sections.find(({ id }) => id === selection.sectionId)?.name ?? null
  const lines = selectedLines(song, selection)
  return lines.length === 1 ? `“${lineTitle(lines[0]!)}”` : `${lines.length} lines`
}

function fileNameOf(song: Song, part: string, ending: string, { pattern, artist }: DeliverSettings): string {
  const { grid, key } = song.beat
  const pieces: NamePieces = {
    title: song.title,
    artist,
    part,
    tempo: `${formatTempo(grid.tempoBpm)} bpm`,
    key: key ? formatKey(key) : '',
    date: new Date().toISOString().slice(0, 10),
    version: song.mixes.length > 0 ? `v${song.mixes.length + 1}` : 'v1',
  }
  return nameByPattern(pattern, pieces, ending)
}

/** A solo is for listening: left on, it would silently be the delivery. */
function SoloNotice() {
  const song = useSong(current => current)
  const soloed = [...(song.beat.soloed ? ['the beat'] : []), ...song.layers.filter(layer => layer.soloed).map(layer => layer.name)]
  if (soloed.length === 0) return null
  const unsolo = () =>
    edit('switch the solos off', current =>
      song.layers.reduce((s, layer) => setLayerMix(s, { layerId: layer.id, soloed: false }), setBeatMix(current, { soloed: false })),
    )
  return (
    <Box mb={3}>
      <Notice tone="warn" title={`A solo is on: the final mix holds only ${soloed.join(', ')}.`}>
        <Pill size="xs" mt={1} onClick={unsolo}>
          Switch {soloed.length === 1 ? 'it' : 'them'} off
        </Pill>
      </Notice>
    </Box>
  )
}

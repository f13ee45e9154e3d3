/** Deliver: what do I send? */
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useEffect, useMemo, useState } from 'react'
import { barCountUntil } from '../../../core/beat/grid'
import { rangeOfBars } from '../../../core/deliver/bars'
import { endingOf } from '../../../core/deliver/encoders'
import { fileNameOf, tagsOf, type Naming } from '../../../core/deliver/naming'
import { nameOfPart, type Part } from '../../../core/deliver/parts'
import { setBeatMix, setLayerMix } from '../../../core/mix/commands'
import { stepsOf } from '../../../core/mix/recipes'
import type { Song, SongId } from '../../../core/song/schema'
import { lineTitle } from '../../../core/song/select'
import { Card, CardTitle, Notice, Pill, PrimaryButton, RoomHeading } from '../../shared/parts'
import { edit, useSong } from '../../song/song-store'
import { rangeOf, selectedLines, useView, type Selection } from '../../song/view-store'
import { BesideCard } from './beside-card'
import { choicesOf } from './choices'
import { CompareTwo, type Compared } from './compare-two'
import { keepCover, readCover, removeCover, type Cover } from '../../../storage/covers'
import { useDeliverSettings } from '../../song/deliver-settings'
import { DeliveryRow } from './delivery-row'
import { cancelDeliveries, nextVersion, renderParts, useDeliveries, type DeliveryItem } from './deliveries'
import { FormatCard, type Extent } from './format-card'
import { NamesCard } from './names-card'
import { SaveAll } from './save-all'
import { SongFileCard } from './song-file-card'

export function DeliverRoom() {
  const song = useSong(current => current)
  const { title } = song
  // A render tells its progress many times a second; what can be asked for changes with the song alone.
  const choices = useMemo(() => choicesOf(song), [song])
  const [chosen, setChosen] = useState<string[]>(['Final mix', 'Vocals alone', 'Beat alone'])
  const settings = useDeliverSettings()
  const selection = useView(state => state.selection)
  const [extent, setExtent] = useState<Extent>({ kind: 'song' })
  const selected = selectedName(song, selection)
  const items = useDeliveries(state => state.items)
  const busy = useDeliveries(state => state.pending > 0)
  const version = useDeliveries(nextVersion)
  const [cover, setCover] = useCover(song.id)
  const toggle = (name: string) => setChosen(chosen.includes(name) ? chosen.filter(entry => entry !== name) : [...chosen, name])
  const wanted = choices.filter(({ name }) => chosen.includes(name))
  const parts = wanted.flatMap(choice => choice.parts)
  const naming: Naming = { pattern: settings.pattern, artist: settings.artist, date: new Date().toISOString().slice(0, 10), version }
  const nameOf = (part: Part) => fileNameOf(song, nameOfPart(song, part), endingOf(settings.format), naming)
  const render = () => {
    const { format, aim, shape, artist, album, year } = settings
    const range = extent.kind === 'bars' ? rangeOfBars(song, extent.bars) : extent.kind === 'selected' && selected !== null ? rangeOf(song, selection) : null
    renderParts(parts, { format, aim, shape, range, tags: tagsOf(song, { artist, album, year, ...(cover ? { cover } : {}) }) }, nameOf)
  }
  return (
    <>
      <RoomHeading above={`${title} · rendered by the same engine that plays`} title="What do you send?">
        <PrimaryButton disabled={parts.length === 0 || busy} onClick={render}>
          Render {wanted.length === 1 ? wanted[0]!.name.toLowerCase() : `${parts.length} files`}
        </PrimaryButton>
      </RoomHeading>
      <SoloNotice />
      <Files items={items} />
      <Grid templateColumns={{ base: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) minmax(0, 1fr)' }} gap={4} alignItems="start">
        <Flex direction="column" gap={4}>
          <Card>
            <CardTitle>Sound files</CardTitle>
            <Flex direction="column" gap="6px" mt={3}>
              {choices.map(({ name, says, parts: made }) => (
                <Flex key={name} align="center" gap={3}>
                  <Pill size="xs" chosen={made.length > 0 && chosen.includes(name)} disabled={made.length === 0} onClick={() => toggle(name)} minW="118px">
                    {name}
                  </Pill>
                  <Text color="ink.soft">{says}</Text>
                </Flex>
              ))}
            </Flex>
            <Text color="ink.soft" mt={3}>
              Every file begins at the start of the beat, so they line up in any other program. The roles, the layers, or the layers and the spaces sum with the
              beat to the mix. Silence after the last sound is left off.
            </Text>
            {isWholeHeld(song) ? (
              <Text mt={2}>What the whole mix goes through is on the final mix alone: the other files sum to what it is before that.</Text>
            ) : null}
          </Card>
          <BesideCard artist={settings.artist} nameOf={(what, ending) => fileNameOf(song, what, ending, naming)} />
          <SongFileCard busy={busy} />
        </Flex>
        <Flex direction="column" gap={4}>
          <FormatCard extent={extent} onExtent={setExtent} selected={selected} lastBar={barCountUntil(song.beat.grid, song.beat.frames)} />
          <NamesCard example={nameOf(parts[0] ?? { kind: 'mix' })} cover={cover} onCover={setCover} />
        </Flex>
      </Grid>
    </>
  )
}

const FEW = 4

/** Those of the last time first; the older ones on demand. */
function Files({ items }: { items: readonly DeliveryItem[] }) {
  const [isAll, setAll] = useState(false)
  const [comparedIds, setCompared] = useState<readonly string[]>([])
  const isReady = (item: DeliveryItem): item is Compared => item.kind === 'ready' && item.url !== null
  const ready = items.filter(isReady)
  const last = ready.reduce((most, { asked }) => Math.max(most, asked?.version ?? 0), 0)
  const newest = ready.filter(({ asked }) => asked?.version === last)
  const isNew = (item: DeliveryItem) => item.kind !== 'ready' || !item.asked || item.asked.version === last
  const shown = isAll ? items : items.filter((item, i) => isNew(item) || i < FEW)
  const compared = ready.filter(({ id }) => comparedIds.includes(id))
  const toggle = (id: string) => setCompared(comparedIds.includes(id) ? comparedIds.filter(other => other !== id) : [...comparedIds, id].slice(-2))
  if (items.length === 0) return null
  return (
    <Box mb={4}>
      {compared.length === 2 ? <CompareTwo key={comparedIds.join()} pair={[compared[1]!, compared[0]!]} onDone={() => setCompared([])} /> : null}
      {newest.length > 1 ? <SaveAll files={newest} /> : null}
      <Flex direction="column" gap={2} aria-live="polite">
        {shown.map(item => (
          <DeliveryRow
            key={item.id}
            item={item}
            onCancel={cancelDeliveries}
            compared={ready.filter(({ asked }) => asked).length > 1 && item.kind === 'ready' && item.asked ? comparedIds.includes(item.id) : null}
            onCompare={() => toggle(item.id)}
          />
        ))}
      </Flex>
      {items.length > shown.length || isAll ? (
        <Pill size="xs" px={3} mt={2} chosen={isAll} onClick={() => setAll(!isAll)}>
          {isAll ? 'Only the newest' : `All ${items.length} that were delivered`}
        </Pill>
      ) : null}
    </Box>
  )
}

function useCover(songId: SongId): [Cover | null, (cover: Cover | null) => void] {
  const [cover, setCover] = useState<Cover | null>(null)
  useEffect(() => {
    let isOver = false
    void readCover(songId).then(
      kept => isOver || setCover(kept),
      () => {},
    )
    return () => {
      isOver = true
    }
  }, [songId])
  const keep = (next: Cover | null) => {
    setCover(next)
    void (next ? keepCover(songId, next) : removeCover(songId)).catch(() => {})
  }
  return [cover, keep]
}

/** Whether voices and beat go through something together. */
function isWholeHeld({ output: { recipe } }: Song): boolean {
  return stepsOf(recipe).length > 0
}

/** What is selected on the sheet; null where that is the whole song. */
function selectedName(song: Song, selection: Selection): string | null {
  if (selection.kind === 'song') return null
  if (selection.kind === 'section') return song.sections.find(({ id }) => id === selection.sectionId)?.name ?? null
  const lines = selectedLines(song, selection)
  return lines.length === 1 ? `“${lineTitle(lines[0]!)}”` : `${lines.length} lines`
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

/** Deliver: what do I send? */
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { Download } from 'lucide-react'
import { useMemo, useState } from 'react'
import { DELIVERY_BITS, type DeliveryFormat } from '../../../core/deliver/encoders'
import { nameOfPart, planStems, type Part } from '../../../core/deliver/parts'
import { setBeatMix, setLayerMix } from '../../../core/mix/commands'
import type { Song } from '../../../core/song/schema'
import { Card, CardTitle, Notice, Pill, PrimaryButton, RoomHeading } from '../../shared/parts'
import { edit, useSong } from '../../song/song-store'
import { DeliveryRow } from './delivery-row'
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
    { name: 'Beat alone', says: 'at its level in the mix', parts: [{ kind: 'beat' }] },
    { name: 'Each role', says: namesOf(roles), parts: roles },
    { name: 'Each layer', says: namesOf(layers), parts: layers },
  ]
}

const BITS_MEAN: Record<DeliveryFormat['bits'], string> = {
  16: 'The smallest; for a CD, or a teacher',
  24: 'For everything',
  32: 'Floats, in which nothing is rounded; for a mixing friend',
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
  const [format, setFormat] = useState<DeliveryFormat>({ kind: 'wav', bits: 24, sampleRateHz: 48_000 })
  const items = useDeliveries(state => state.items)
  const busy = useDeliveries(state => state.pending > 0)
  const toggle = (name: string) => setChosen(chosen.includes(name) ? chosen.filter(entry => entry !== name) : [...chosen, name])
  const wanted = choices.filter(({ name }) => chosen.includes(name))
  const parts = wanted.flatMap(choice => choice.parts)
  return (
    <>
      <RoomHeading above={`${title} · rendered by the same engine that plays`} title="What do you send?">
        <PrimaryButton disabled={parts.length === 0 || busy} onClick={() => renderParts(parts, format)}>
          Render {wanted.length === 1 ? wanted[0]!.name.toLowerCase() : `${parts.length} files`}
        </PrimaryButton>
      </RoomHeading>
      <SoloNotice />
      <Grid templateColumns="minmax(0, 1fr) minmax(0, 1fr)" gap={4} alignItems="start">
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
          <Flex align="center" gap="6px" mt={4} role="group" aria-label="Format" wrap="wrap">
            <Text whiteSpace="nowrap">WAV of</Text>
            {DELIVERY_BITS.map(bits => (
              <Pill key={bits} size="xs" px={3} chosen={format.bits === bits} title={BITS_MEAN[bits]} onClick={() => setFormat({ ...format, bits })}>
                {bits} bits
              </Pill>
            ))}
            <Text>at</Text>
            {([48_000, 44_100] as const).map(sampleRateHz => (
              <Pill key={sampleRateHz} size="xs" px={3} chosen={format.sampleRateHz === sampleRateHz} onClick={() => setFormat({ ...format, sampleRateHz })}>
                {sampleRateHz / 1_000} kHz
              </Pill>
            ))}
          </Flex>
          <Text color="ink.soft" mt={3}>
            Every file begins at the start of the beat, so they line up in any other program. The roles, or the layers, and the beat alone sum to the mix.
            Silence after the last sound is left off.
          </Text>
        </Card>
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
      </Grid>
      <Flex direction="column" gap={3} mt={4} aria-live="polite">
        {items.map(item => (
          <DeliveryRow key={item.id} item={item} onCancel={cancelDeliveries} />
        ))}
      </Flex>
    </>
  )
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

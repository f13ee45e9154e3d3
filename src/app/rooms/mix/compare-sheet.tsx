/** Compare: mixes under names, and a finished song beside this one; each heard as loud as the mix. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { Trash2 } from 'lucide-react'
import { useState } from 'react'
import { keepMix, nameMix, removeMix, takeMix } from '../../../core/mix/kept-mixes'
import { MOST_MIXES, type KeptMix, type MixId } from '../../../core/song/kept-mix-schema'
import { makeId } from '../../../storage/database'
import { formatDecibels } from '../../shared/format'
import { NameField } from '../../shared/name-field'
import { Card, CardTitle, KeyCap, Pill, PrimaryButton, SmallButton } from '../../shared/parts'
import { hearAsLoud, hearTheSong, useMatching } from '../../song/equal-loudness'
import { currentSong, edit, useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { useMix } from './mix-store'
import { SecondOpinionCard } from './second-opinion'

/** Hears a kept mix in place of the one that is worked on, or that again. */
function toggleKept(mixId: MixId): void {
  const { view } = useView.getState()
  useMix.setState({ mixId })
  if (view.kind === 'mix' && view.mixId === mixId) hearTheSong()
  else void hearAsLoud(currentSong(), gainDecibels => ({ kind: 'mix', mixId, gainDecibels }))
}

/** By the key: the mix that was chosen last, or the first. */
export function toggleChosenKept(): void {
  const { mixes } = currentSong()
  const mix = mixes.find(({ id }) => id === useMix.getState().mixId) ?? mixes[0]
  if (mix) toggleKept(mix.id)
}

export function CompareSheet() {
  return (
    <Flex direction="column" gap={3}>
      <KeptMixes />
      <SecondOpinionCard />
    </Flex>
  )
}

function KeptMixes() {
  const mixes = useSong(song => song.mixes)
  const [name, setName] = useState<string | null>(null)
  const proposed = name ?? `Mix ${mixes.length + 1}`
  const keep = () => {
    edit(`keep the mix as ${proposed}`, song => keepMix(song, { name: proposed, makeId }))
    setName(null)
  }
  return (
    <Card p={3}>
      <CardTitle>Mixes under names</CardTitle>
      <Text mt={1} color="ink.soft">
        {mixes.length === 0
          ? 'Keep the mix as it is now, then change it freely: the kept one can be heard beside it and taken back.'
          : 'Heard beside the mix you work on, at equal loudness.'}
      </Text>
      <Box as="ul" listStyleType="none" mt={1} aria-label="Kept mixes">
        {mixes.map((mix, i) => (
          <MixRow key={mix.id} mix={mix} isFirst={i === 0} />
        ))}
      </Box>
      {mixes.length < MOST_MIXES ? (
        <Flex mt={2} gap={2} align="center">
          <NameField label="Name of the mix to keep" name={proposed} borderColor="seamline" onKeep={setName} />
          <PrimaryButton size="sm" onClick={keep}>
            Keep this mix
          </PrimaryButton>
        </Flex>
      ) : (
        <Text mt={2} color="ink.soft">
          A song keeps {MOST_MIXES} mixes.
        </Text>
      )}
    </Card>
  )
}

function MixRow({ mix: { id, name }, isFirst }: { mix: KeptMix; isFirst: boolean }) {
  const view = useView(state => state.view)
  const chosen = useMix(state => state.mixId)
  const { matching } = useMatching()
  const isHeard = view.kind === 'mix' && view.mixId === id
  return (
    <Flex as="li" align="center" gap={1} py="2px">
      <Box flex="1" minW={0}>
        <NameField label={`Name of ${name}`} name={name} onKeep={kept => edit(`name a mix ${kept}`, song => nameMix(song, { mixId: id, name: kept }))} />
        {isHeard ? (
          <Text color="ink.soft" fontSize="13px" px={3}>
            heard now, equal loudness: {formatDecibels(view.gainDecibels, -Infinity)}
          </Text>
        ) : null}
      </Box>
      <Pill size="xs" px={3} chosen={isHeard} disabled={matching} aria-label={`Hear ${name}`} onClick={() => toggleKept(id)}>
        Hear {chosen === id || (chosen === null && isFirst) ? <KeyCap>X</KeyCap> : null}
      </Pill>
      <Pill
        size="xs"
        px={3}
        aria-label={`Work on ${name}`}
        title="The mix is as it was then; what it is now is kept as well"
        onClick={() => {
          hearTheSong()
          edit(`work on the mix ${name}`, song => takeMix(song, { mixId: id, keepAs: `Before ${name}`, makeId }))
        }}
      >
        Work on it
      </Pill>
      <SmallButton aria-label={`Remove ${name}`} title="Remove" onClick={() => edit(`remove the mix ${name}`, song => removeMix(song, { mixId: id }))}>
        <Trash2 size={14} aria-hidden />
      </SmallButton>
    </Flex>
  )
}

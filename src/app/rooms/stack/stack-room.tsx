/** Stack: is it wide and thick enough? */
import { Flex } from '@chakra-ui/react'
import { useEffect } from 'react'
import { useNavigate } from 'react-router'
import { missingOf } from '../../../core/stack/wanted'
import { isTyping } from '../../frame/use-song-keys'
import { NoLayers } from '../../shared/no-layers'
import { Pill, PrimaryButton, RoomHeading } from '../../shared/parts'
import { singMissing } from '../../recording/queue'
import { useSong } from '../../song/song-store'
import { toggleMono } from '../../song/view-store'
import { CopiesNotice } from './copies-notice'
import { DoubleCard } from './double-card'
import { LayerList } from './layer-list'
import { PartCard } from './part-card'
import { PlanCard } from './plan-card'
import { Quilt } from './quilt'
import { StageCard } from './stage-card'
import { useStack, type Sheet } from './stack-store'
import { WithLeadCard } from './with-lead-card'

function useStackKeys(): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey || event.repeat) return
      if (event.key === 'm') toggleMono()
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  }, [])
}

const SHEETS: [Sheet, string][] = [
  ['plan', 'What I want'],
  ['doubles', 'Doubles'],
  ['lead', 'With the lead'],
  ['part', 'What to sing'],
  ['stage', 'Where each stands'],
  ['layers', 'Layers'],
]

export function StackRoom() {
  const song = useSong(current => current)
  const sheet = useStack(state => state.sheet)
  const navigate = useNavigate()
  const missing = missingOf(song, 'line').length
  // Where another step has the one primary action, this is no second one.
  const SingMissing = sheet === 'doubles' || sheet === 'part' ? Pill : PrimaryButton
  useStackKeys()
  return (
    <>
      <RoomHeading above="Lines by layers: what is picked, sung, missing" title="Is it wide and thick enough?">
        {song.layers.some(layer => layer.wanted.length > 0) ? (
          <SingMissing disabled={missing === 0} onClick={() => singMissing(() => navigate(`/song/${song.id}/booth`))}>
            {missing === 0 ? 'Nothing is missing' : `Sing what is missing (${missing})`}
          </SingMissing>
        ) : null}
      </RoomHeading>
      {song.layers.length === 0 ? (
        <NoLayers why="Here they are seen side by side." />
      ) : (
        <Flex direction="column" gap={3}>
          <Quilt />
          <Flex gap="6px" role="group" aria-label="What to work on" wrap="wrap">
            {SHEETS.map(([name, label]) => (
              <Pill key={name} px={3} chosen={sheet === name} onClick={() => useStack.setState({ sheet: name })}>
                {label}
              </Pill>
            ))}
          </Flex>
          <CopiesNotice />
          {sheet === 'plan' ? <PlanCard /> : null}
          {sheet === 'doubles' ? <DoubleCard /> : null}
          {sheet === 'lead' ? <WithLeadCard /> : null}
          {sheet === 'part' ? <PartCard /> : null}
          {sheet === 'stage' ? <StageCard /> : null}
          {sheet === 'layers' ? <LayerList /> : null}
        </Flex>
      )}
    </>
  )
}

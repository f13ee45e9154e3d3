/** Removing a layer: at once if it holds nothing; else the singer is asked, and told what would go. */
import { Box } from '@chakra-ui/react'
import { Trash2 } from 'lucide-react'
import { useState } from 'react'
import { isLayerEmpty, lossesOfLayer, removeLayer, type LayerLosses } from '../../../core/layers/commands'
import type { Layer } from '../../../core/song/schema'
import { count } from '../../shared/format'
import { SmallButton } from '../../shared/parts'
import { SureDialog } from '../../shared/sure-dialog'
import { currentSong, edit } from '../../song/song-store'
import { useLive } from '../../song/live'

export function RemoveLayer({ layer }: { layer: Layer }) {
  const [losses, setLosses] = useState<LayerLosses | null>(null)
  const recording = useLive(state => state.recording)
  const remove = () => {
    setLosses(null)
    edit(`remove ${layer.name}`, song => removeLayer(song, { layerId: layer.id }))
  }
  const ask = () => (isLayerEmpty(currentSong(), layer.id) ? remove() : setLosses(lossesOfLayer(currentSong(), layer.id)))
  return (
    <>
      <SmallButton aria-label={`Remove ${layer.name}`} title={recording ? 'Not while recording' : 'Remove'} disabled={recording} onClick={ask}>
        <Trash2 size={15} aria-hidden />
      </SmallButton>
      <SureDialog
        open={losses !== null}
        question={`${layer.name} is not empty. Remove it all the same?`}
        deed={`Remove ${layer.name}`}
        allowed={losses?.lockedComps.length === 0}
        onDo={remove}
        onKeep={() => setLosses(null)}
      >
        {losses ? <Losses losses={losses} /> : null}
      </SureDialog>
    </>
  )
}

function Losses({ losses: { takes, picks, otherComps, partNotes, playedBy, lockedComps } }: { losses: LayerLosses }) {
  if (lockedComps.length > 0)
    return (
      <>
        Its takes are played by {lockedComps.join(', ')}, which {lockedComps.length === 1 ? 'is' : 'are'} locked. Unlock{' '}
        {lockedComps.length === 1 ? 'it' : 'them'} in Comp first.
      </>
    )
  const gone = [
    takes > 0 && `${count(takes, 'take')} would go to the bin`,
    picks > 0 && `${count(picks, 'pick')} would fall silent`,
    partNotes > 0 && `its part of ${count(partNotes, 'note')} would go`,
    otherComps > 0 && `${count(otherComps, 'kept comp')} would go`,
    playedBy.length > 0 && `${playedBy.join(', ')} would lose what is picked from it`,
  ].filter(entry => typeof entry === 'string')
  return (
    <>
      <Box as="ul" listStyleType="disc" pl={5} my={2}>
        {gone.map(entry => (
          <li key={entry}>{entry}</li>
        ))}
      </Box>
      Undo brings it all back.
    </>
  )
}

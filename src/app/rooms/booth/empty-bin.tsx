/** Empties the bin of takes, for good: says first what goes and what stays. */
import { Text } from '@chakra-ui/react'
import { useState } from 'react'
import { erasableTakes } from '../../../core/song/takes'
import { count, formatMinutes } from '../../shared/format'
import { Pill } from '../../shared/parts'
import { SureDialog } from '../../shared/sure-dialog'
import { emptyTheBin } from '../../song/binning'
import { useSong, useSongStore } from '../../song/song-store'

export function EmptyBin({ busy }: { busy: boolean }) {
  const [asks, setAsks] = useState(false)
  const song = useSong(current => current)
  const readOnly = useSongStore(state => state.readOnly)
  const takes = erasableTakes(song)
  if (takes.length === 0) return null
  const frames = takes.reduce((sum, take) => sum + take.endFrame - take.startFrame, 0)
  const empty = () => {
    setAsks(false)
    void emptyTheBin()
  }
  return (
    <>
      <Pill mt={2} disabled={busy || readOnly} onClick={() => setAsks(true)}>
        Empty the bin …
      </Pill>
      <SureDialog
        open={asks}
        question={`Erase ${count(takes.length, 'take')} for good?`}
        deed="Erase for good"
        allowed={!busy}
        onDo={empty}
        onKeep={() => setAsks(false)}
      >
        <Text>They hold {formatMinutes(frames)} of singing, and nothing plays them. Their sound is erased from this browser.</Text>
        <Text mt={2}>
          Undo will not go back further than this: your song stays as it is now, without the steps before. A version that holds one of them keeps its sound.
        </Text>
      </SureDialog>
    </>
  )
}

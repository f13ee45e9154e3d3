/** Asked before a take that is played somewhere goes to the bin: names every use. */
import { Box } from '@chakra-ui/react'
import type { Take } from '../../core/song/schema'
import { requireLayer } from '../../core/song/select'
import { placeOfTake } from '../../core/song/take-place'
import { checkBin, usesOfTake } from '../../core/song/takes'
import { SureDialog } from '../shared/sure-dialog'
import { binNow, useBinQuestion } from '../song/binning'
import { useSong } from '../song/song-store'

export function BinQuestion() {
  const takeId = useBinQuestion(state => state.takeId)
  const take = useSong(song => song.takes.find(entry => entry.id === takeId))
  const song = useSong(current => current)
  const check = takeId ? checkBin(song, takeId) : ({ ok: true } as const)
  return (
    <SureDialog
      open={take !== undefined}
      question={`${take?.name} is played. To the bin all the same?`}
      deed="Put it in the bin"
      allowed={check.ok}
      onDo={() => takeId && binNow(takeId)}
      onKeep={() => useBinQuestion.setState({ takeId: null })}
    >
      {check.ok ? 'These would fall silent:' : `It is played by ${check.compNames.join(', ')}, which is locked. Unlock it in Comp first.`}
      {take ? <Uses take={take} /> : null}
      {check.ok ? 'Its sound stays in the bin, and undo brings it all back.' : null}
    </SureDialog>
  )
}

function Uses({ take }: { take: Take }) {
  const song = useSong(current => current)
  const uses = [
    ...new Set(
      usesOfTake(song, take.id).map(
        use => `${requireLayer(song, use.layerId).name}: ${placeOfTake(song, use)}${use.compName ? ` (in “${use.compName}”)` : ''}`,
      ),
    ),
  ]
  return (
    <Box as="ul" listStyleType="disc" pl={5} my={2} maxH="180px" overflowY="auto">
      {uses.map(use => (
        <li key={use}>{use}</li>
      ))}
    </Box>
  )
}

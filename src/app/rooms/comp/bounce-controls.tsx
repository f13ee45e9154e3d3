/** The comp as one take, kept beside its sources, and as one WAV file. */
import { Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { addBounce, editsPlayed } from '../../../core/comp/bounces'
import { deliveryFileName } from '../../../core/files/names'
import type { AssetId, Layer, Song, Take, TakeId } from '../../../core/song/schema'
import { currentComp, requireLayer } from '../../../core/song/select'
import { makeId } from '../../../storage/database'
import type { MissingResult } from '../../../workers/contract'
import { runJob } from '../../../workers/run-job'
import { missingText } from '../../shared/missing-text'
import { Pill } from '../../shared/parts'
import { saveBlob } from '../../shared/save-blob'
import { currentSong, edit } from '../../song/song-store'

type Doing = { kind: 'idle' } | { kind: 'working'; what: string } | { kind: 'said'; text: string; goOn?: () => void }

export function BounceControls({ song, layer, bounce, stale }: { song: Song; layer: Layer; bounce: Take | null; stale: boolean }) {
  const [doing, setDoing] = useState<Doing>({ kind: 'idle' })
  const empty = currentComp(layer).picks.length === 0
  const askWithout = (from: Song, { missing }: MissingResult, goOn: () => void) => setDoing({ kind: 'said', text: missingText(from, missing), goOn })
  const bounceNow = async (withoutMissing = false) => {
    setDoing({ kind: 'working', what: 'Bouncing …' })
    const from = currentSong()
    const assetId = makeId() as AssetId
    const result = await runJob('bounceComp', { song: from, layerId: layer.id, assetId, withoutMissing })
    if (result.kind === 'done' && result.value.kind === 'missing-sound') return askWithout(from, result.value, () => void bounceNow(true))
    if (result.kind !== 'done' || result.value.kind !== 'bounced') return setDoing({ kind: 'said', text: 'It could not be bounced; nothing was changed.' })
    const { extent } = result.value
    const bounced = requireLayer(from, layer.id)
    const { picks } = currentComp(bounced)
    edit(bounce ? 'refresh the bounce' : 'bounce to one take', current =>
      addBounce(current, {
        layerId: layer.id,
        replaces: bounce?.id ?? null,
        takeId: makeId() as TakeId,
        assetId,
        extent,
        picks,
        edits: editsPlayed(from, picks),
        tidy: bounced.tidy,
        tune: bounced.tune,
        bouncedAt: new Date().toISOString(),
      }),
    )
    setDoing({ kind: 'said', text: 'It lies among the takes.' })
  }
  const saveWav = async (withoutMissing = false) => {
    setDoing({ kind: 'working', what: 'Making the file …' })
    const from = currentSong()
    const result = await runJob('exportComp', { song: from, layerId: layer.id, withoutMissing })
    if (result.kind === 'done' && result.value.kind === 'missing-sound') return askWithout(from, result.value, () => void saveWav(true))
    if (result.kind === 'done' && result.value.kind === 'made') {
      saveBlob(result.value.file, deliveryFileName(song.title, `${layer.name} ${currentComp(layer).name}`, 'wav'))
      setDoing({ kind: 'idle' })
    } else setDoing({ kind: 'said', text: 'The file could not be made; nothing was changed.' })
  }
  const working = doing.kind === 'working'
  return (
    <>
      <Flex gap={2}>
        <Pill flex="1" disabled={empty || working || (bounce !== null && !stale)} onClick={() => void bounceNow()}>
          {bounce ? (stale ? 'Refresh the bounce' : 'Bounced') : 'Bounce to one take'}
        </Pill>
        <Pill flex="1" disabled={empty || working} onClick={() => void saveWav()}>
          Save as WAV
        </Pill>
      </Flex>
      <Text role="status" color="ink.soft" fontSize="12px" minH="1em">
        {doing.kind === 'working' ? doing.what : doing.kind === 'said' ? doing.text : ''}
      </Text>
      {doing.kind === 'said' && doing.goOn ? (
        <Pill size="xs" onClick={doing.goOn}>
          Go on without it
        </Pill>
      ) : null}
    </>
  )
}

/** A take that was being recorded when the app was closed: offered back in its place. */
import { Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { framesToSeconds } from '../../core/audio/frames'
import { leftRecordings } from '../../storage/recordings'
import type { RecordingRow } from '../../storage/database'
import { runJob } from '../../workers/run-job'
import { queryClient } from '../query-client'
import { discardCapture, keepCapture } from '../rooms/booth/recorder'
import { useRecorder } from '../rooms/booth/recorder-store'
import { Notice, Pill } from '../shared/parts'
import { useSong } from '../song/song-store'

export function LeftRecordings() {
  const songId = useSong(song => song.id)
  const now = useRecorder(state => state.assetId)
  const left = useQuery({ queryKey: ['left-recordings', songId], queryFn: () => leftRecordings(songId), staleTime: 0 })
  const [busy, setBusy] = useState(false)
  const act = async (action: () => Promise<void>) => {
    setBusy(true)
    await action()
    await queryClient.invalidateQueries({ queryKey: ['left-recordings', songId] })
    setBusy(false)
  }
  const keep = async (row: RecordingRow) => {
    const result = await runJob('recoverAsset', { assetId: row.id })
    if (result.kind !== 'done' || !result.value || !row.placement) return
    await keepCapture({ assetId: row.id, layerId: row.layerId, frames: result.value.frames, placement: row.placement, roundTrip: { frames: row.placement.roundTripFrames, source: row.roundTripSource, measuredAt: row.roundTripMeasuredAt ?? null }, startedAt: row.startedAt, inputName: row.inputName ?? '', flaws: [], marks: row.marks ?? {} })
  }
  return (left.data ?? [])
    .filter(({ row, frames }) => row.id !== now && row.placement !== null && frames > 0)
    .map(({ row, frames }) => (
      <Notice key={row.id} tone="warn" title={`A recording was cut off when the app closed: ${framesToSeconds(frames).toFixed(1)} s of it are kept.`}>
        <Flex gap={2} mt={1}>
          <Pill disabled={busy} onClick={() => void act(() => keep(row))}>
            Keep it as a take
          </Pill>
          <Pill disabled={busy} onClick={() => void act(() => discardCapture(row.id))}>
            Throw it away
          </Pill>
        </Flex>
      </Notice>
    ))
}

/** A take that was being recorded when its song was closed, or the app: offered back in its place. */
import { Flex } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { framesToSeconds } from '../../core/audio/frames'
import { leftRecordings } from '../../storage/recordings'
import type { RecordingRow } from '../../storage/database'
import { runJob } from '../../workers/run-job'
import { queryClient } from '../query-client'
import { keepCapture } from '../recording/keep-capture'
import { useRecorder } from '../recording/recorder-store'
import { Notice, Pill } from '../shared/parts'
import { useSong } from '../song/song-store'

export function LeftRecordings() {
  const songId = useSong(song => song.id)
  const takes = useSong(song => song.takes)
  const unfinished = useRecorder(state => state.unfinished)
  const left = useQuery({ queryKey: ['left-recordings', songId], queryFn: () => leftRecordings(songId), staleTime: 0 })
  const [busy, setBusy] = useState(false)
  const [failed, setFailed] = useState(false)
  // What is being recorded, or has become takes, is no leftover, whatever was read a moment ago.
  const rows = (left.data ?? []).filter(
    ({ row, frames }) => row.placement !== null && frames > 0 && !unfinished.includes(row.id) && !takes.some(take => take.assetId === row.id),
  )
  const keep = async (row: RecordingRow, toBin: boolean) => {
    setBusy(true)
    const result = await runJob('recoverAsset', { assetId: row.id })
    setFailed(result.kind === 'failed')
    if (result.kind === 'done' && result.value && row.placement) {
      await keepCapture({
        assetId: row.id,
        layerId: row.layerId,
        frames: result.value.frames,
        placement: row.placement,
        roundTrip: { frames: row.placement.roundTripFrames, source: row.roundTripSource, measuredAt: row.roundTripMeasuredAt ?? null },
        startedAt: row.startedAt,
        inputName: row.inputName ?? '',
        flaws: [],
        marks: row.marks ?? {},
        toBin,
      })
    }
    await queryClient.invalidateQueries({ queryKey: ['left-recordings', songId] })
    setBusy(false)
  }
  return rows.map(({ row, frames }) => (
    <Notice key={row.id} tone="warn" title={`A recording was cut off when this song was closed: ${framesToSeconds(frames).toFixed(1)} s of it are kept.`}>
      {failed ? 'It could not be read just now. It stays where it is; try again, or open the song anew.' : null}
      <Flex gap={2} mt={1}>
        <Pill disabled={busy} onClick={() => void keep(row, false)}>
          Keep it as a take
        </Pill>
        <Pill disabled={busy} onClick={() => void keep(row, true)}>
          Put it in the bin
        </Pill>
      </Flex>
    </Notice>
  ))
}

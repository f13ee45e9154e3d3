/** "Bring in a recording": a file sung elsewhere becomes a take, placed at bar one, at the playhead, or where it matches. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useRef, useState } from 'react'
import { frameOfBar } from '../../../core/beat/grid'
import type { AssetId, TakeId } from '../../../core/song/schema'
import { addTakes, makeTake, nextPass } from '../../../core/song/takes'
import { makeId } from '../../../storage/database'
import { discardAsset } from '../../../storage/sounds'
import { runJob } from '../../../workers/run-job'
import { formatClock } from '../../shared/format'
import { Notice, Pill } from '../../shared/parts'
import { currentSong, editBesideHistory, useSongStore } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { pickWhereEmpty } from '../../recording/keep-capture'
import { useRecorder } from '../../recording/recorder-store'
import { listenToTakes } from '../../recording/take-facts'

type State =
  | { kind: 'idle' }
  | { kind: 'busy'; what: string }
  | { kind: 'choose'; assetId: AssetId; fileName: string; frames: number; sidesCancel: boolean; match: { originFrame: number; confidence: number } | null }
  | { kind: 'refused'; text: string }
  | { kind: 'placed'; sidesCancel: boolean }

const REFUSED = {
  'not-sound': 'That is not a sound file this app can read.',
  unsupported: 'That kind of sound file cannot be read.',
  empty: 'There is no sound in that file.',
  silent: 'That file is silent from end to end.',
  'too-long': 'That file is longer than 20 minutes.',
  'cut-short': 'That file is cut short.',
  'storage-full': 'The disk is full; nothing of it was kept.',
  stuck: 'Nothing could be read from that file for five seconds; it was given up.',
  failed: 'Something went wrong while reading that file. Try again, or convert it to WAV first.',
} as const

export function BringIn({ busy }: { busy: boolean }) {
  const [state, setState] = useState<State>({ kind: 'idle' })
  const chooser = useRef<HTMLInputElement>(null)
  const layerId = useView(view => view.layerId)
  const bring = async (file: File) => {
    setState({ kind: 'busy', what: 'Reading the file …' })
    const assetId = makeId() as AssetId
    const imported = await runJob('importVoice', { file, assetId })
    if (imported.kind !== 'done' || imported.value.kind !== 'imported') {
      const reason =
        imported.kind !== 'done'
          ? 'failed'
          : imported.value.kind === 'refused'
            ? imported.value.reason
            : imported.value.kind === 'imported'
              ? 'failed'
              : imported.value.kind
      return setState({ kind: 'refused', text: `${REFUSED[reason]} The song is unchanged.` })
    }
    const { sound, sidesCancel } = imported.value
    setState({ kind: 'busy', what: 'Looking where it fits …' })
    const song = useSongStore.getState().history?.song
    // The song was left meanwhile: there is nobody to ask where the file belongs.
    if (!song) return void (await discardAsset(assetId))
    const { takes } = song
    const lead = song.layers.find(layer => layer.role === 'lead')?.id
    const own = takes.filter(take => !take.binned && take.layerId === layerId)
    const against = (own.length > 0 ? own : takes.filter(take => !take.binned && take.layerId === lead)).slice(0, 4)
    const match =
      against.length > 0
        ? await runJob('matchVoice', { assetId, against: against.map(({ assetId: id, originFrame }) => ({ assetId: id, originFrame })) })
        : null
    setState({ kind: 'choose', assetId, fileName: file.name, frames: sound.frames, sidesCancel, match: match?.kind === 'done' ? match.value : null })
  }
  const place = (originFrame: number, matched: boolean) => {
    if (state.kind !== 'choose' || !layerId) return
    const take = makeTake({
      id: makeId() as TakeId,
      layerId,
      name: state.fileName.replace(/\.[^.]+$/, ''),
      pass: nextPass(currentSong(), layerId),
      assetId: state.assetId,
      originFrame,
      startFrame: originFrame,
      endFrame: originFrame + state.frames,
      roundTripSource: matched ? 'matched' : 'none',
      recordedAt: new Date().toISOString(),
      inputName: state.fileName.slice(0, 255),
    })
    editBesideHistory(song => addTakes(song, { takes: [take] }))
    useRecorder.setState({ lastTakeIds: [take.id] })
    void pickWhereEmpty(take, take).then(() => listenToTakes([take.id]))
    setState({ kind: 'placed', sidesCancel: state.sidesCancel })
  }
  const giveUp = () => {
    if (state.kind === 'choose') void discardAsset(state.assetId)
    setState({ kind: 'idle' })
  }
  const { grid } = currentSong().beat
  return (
    <Box>
      <input
        ref={chooser}
        type="file"
        hidden
        aria-label="A recording sung elsewhere"
        accept="audio/*,video/*"
        onChange={event => {
          const file = event.target.files?.[0]
          event.target.value = ''
          if (file) void bring(file)
        }}
      />
      {state.kind === 'choose' ? (
        <Flex gap={2} align="center" wrap="wrap" justify="end">
          <Text color="ink.soft">Where does {state.fileName} begin?</Text>
          {state.match ? (
            <Pill onClick={() => place(state.match!.originFrame, true)}>
              Where it matches: {formatClock(state.match.originFrame)} ({Math.round(100 * state.match.confidence)} % sure)
            </Pill>
          ) : null}
          <Pill onClick={() => place(frameOfBar(grid, 1), false)}>At bar one</Pill>
          <Pill onClick={() => place(useView.getState().cursorFrame, false)}>At the playhead</Pill>
          <Pill onClick={giveUp}>Not at all</Pill>
        </Flex>
      ) : (
        <Pill disabled={busy || state.kind === 'busy' || layerId === null} onClick={() => chooser.current?.click()}>
          {state.kind === 'busy' ? state.what : 'Bring in a recording'}
        </Pill>
      )}
      {state.kind === 'refused' ? <Notice tone="warn" title={state.text} /> : null}
      {state.kind === 'placed' && state.sidesCancel ? (
        <Notice tone="warn" title="The two sides of that file cancel each other out.">
          Its left side alone was taken. Nothing is missing from a voice that was recorded with one microphone.
        </Notice>
      ) : null}
    </Box>
  )
}

/** The takes of the recorded stretch, newest first: hear, star, put aside, bin, rename; how each was placed, and what is worth hearing again. */
import { Box, chakra, Flex, Input, Text } from '@chakra-ui/react'
import { Archive, Pencil, Play, RotateCcw, Square, Star, Trash2 } from 'lucide-react'
import { useState, type KeyboardEvent } from 'react'
import type { Song, Take } from '../../../core/song/schema'
import { binnedTakes, overlapFrames, type FrameRange } from '../../../core/song/select'
import { placeOfTake } from '../../../core/song/take-place'
import { describeTake, placeAgain, restoreTake, usesOfTake } from '../../../core/song/takes'
import { formatAgo, formatMilliseconds, formatMinutes, formatTime } from '../../shared/format'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { TakeSwatch } from '../../shared/take-swatch'
import { play, stopPlaying, useLive } from '../../song/live'
import { askToBin } from '../../song/binning'
import { edit, useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { BringIn } from './bring-in'
import { EmptyBin } from './empty-bin'
import { PartVerdict } from './part-verdict'
import { restHeadphoneMix } from '../../recording/headphone-mix'
import { useRecorder } from '../../recording/recorder-store'
import { remarkText, useLeaks, useRemarks, type LineRemarks } from '../../recording/take-facts'

const SmallButton = chakra('button', {
  base: { p: '5px', borderRadius: '8px', color: 'ink.soft', cursor: 'pointer', _hover: { bg: 'sunken', color: 'ink' }, _pressed: { color: 'brand' } },
})

/** Takes in view before one asks for all. */
const SHOWN = 6

export function TakeList({ range, busy }: { range: FrameRange; busy: boolean }) {
  const song = useSong(current => current)
  const layerId = useView(state => state.layerId)
  const lastTakeIds = useRecorder(state => state.lastTakeIds)
  const takes = song.takes.filter(take => take.layerId === layerId && !take.binned && overlapFrames(take, range) > 0).reverse()
  const [all, setAll] = useState(false)
  // Listening takes a while: it is for the passes just sung.
  const remarks = useRemarks(
    song,
    takes.filter(take => lastTakeIds.includes(take.id)),
  )
  const binned = binnedTakes(song)
  return (
    <Card>
      <Flex justify="space-between" align="center" gap={3} mb={2}>
        <CardTitle>{takes.length === 0 ? 'No takes here yet' : 'Takes here'}</CardTitle>
        <BringIn busy={busy} />
      </Flex>
      {(all ? takes : takes.slice(0, SHOWN)).map(take => (
        <TakeRow key={take.id} take={take} fresh={lastTakeIds.includes(take.id)} song={song} remarks={remarks.get(take.id) ?? []} />
      ))}
      {takes.length > SHOWN ? (
        <Pill mt={2} onClick={() => setAll(!all)}>
          {all ? 'Show the newest only' : `Show all ${takes.length}`}
        </Pill>
      ) : null}
      {binned.length > 0 ? (
        <Box as="details" mt={2}>
          <Box as="summary" cursor="pointer" color="ink.soft">
            Bin ({binned.length})
          </Box>
          {binned.map(take => (
            <Flex key={take.id} align="center" gap={3} py={1}>
              <Box flex="1">
                {take.name}{' '}
                <Box as="span" color="ink.soft">
                  · {placeOfTake(song, take)} · {formatTime(take.recordedAt)}
                </Box>
              </Box>
              <Pill
                disabled={layerId === null}
                onClick={() => edit(`put ${take.name} back`, current => restoreTake(current, { takeId: take.id, layerId: layerId! }))}
              >
                <RotateCcw size={14} aria-hidden /> Put back
              </Pill>
            </Flex>
          ))}
          <EmptyBin busy={busy} />
        </Box>
      ) : null}
    </Card>
  )
}

/** "moved 23.0 ms earlier, measured 20 minutes ago" */
function placing(take: Take): string {
  const moved = `moved ${formatMilliseconds(take.roundTripFrames)} earlier`
  const ago = take.roundTripMeasuredAt ? ` ${formatAgo(take.roundTripMeasuredAt)}` : ''
  switch (take.roundTripSource) {
    case 'measured':
      return `${moved}, measured${ago}`
    case 'typed':
      return `${moved}, as typed`
    case 'remembered':
      return `${moved}, estimated from last time`
    case 'estimated':
      return `${moved}, estimated`
    case 'simulated':
      return `${moved}, simulated interface`
    case 'leak':
      return `${moved}, by the beat heard in it`
    case 'matched':
      return 'placed by matching'
    case 'none':
      return 'not moved'
  }
}

const FLAW_TEXT: Record<Take['flaws'][number]['kind'], string> = {
  missing: 'never arrived; silence of the same length stands there',
  'clock-jump': 'leap of the audio clock',
  'input-gone': 'the microphone was unplugged',
  suspended: 'the sound was paused',
}

function flawText(take: Take): string | null {
  const kinds = [...new Set(take.flaws.map(flaw => flaw.kind))]
  const texts = kinds.map(kind => {
    const milliseconds = take.flaws.filter(flaw => flaw.kind === kind).reduce((sum, flaw) => sum + (flaw.endFrame - flaw.startFrame) / 48, 0)
    return kind === 'missing' || kind === 'clock-jump' ? `${Math.ceil(milliseconds)} ms ${FLAW_TEXT[kind]}` : `ends where ${FLAW_TEXT[kind]}`
  })
  return texts.join('; ') || null
}

function TakeRow({ take, fresh, song, remarks }: { take: Take; fresh: boolean; song: Song; remarks: LineRemarks[] }) {
  const uses = usesOfTake(song, take.id).map(use => song.layers.find(layer => layer.id === use.layerId)?.name)
  const used = [...new Set(uses)].join(', ')
  const flaw = flawText(take)
  const leaks = useLeaks(state => state.witnesses.has(take.id))
  return (
    <Box py={1} data-take={take.id} borderTopWidth="1px" borderColor="seamline" _first={{ borderTopWidth: 0 }}>
      <Flex align="center" gap={2}>
        <TakeSwatch take={take} />
        <PlayTake take={take} />
        <TakeName take={take} fresh={fresh} />
        <Box flex="1" minW={0} color="ink.soft" truncate>
          {placeOfTake(song, take)} · {formatTime(take.recordedAt)} · {formatMinutes(take.endFrame - take.startFrame)} · {placing(take)}
          {used ? ` · sounds in ${used}` : ''}
        </Box>
        <SmallButton
          aria-pressed={take.starred}
          aria-label={`Star ${take.name}`}
          title="Star"
          onClick={() =>
            edit(take.starred ? `unstar ${take.name}` : `star ${take.name}`, current => describeTake(current, { takeId: take.id, starred: !take.starred }))
          }
        >
          <Star size={16} fill={take.starred ? 'currentColor' : 'none'} aria-hidden />
        </SmallButton>
        <SmallButton
          aria-pressed={take.spare}
          aria-label={`Put ${take.name} aside as a spare`}
          title="Spare"
          onClick={() =>
            edit(take.spare ? `take back ${take.name}` : `put ${take.name} aside`, current => describeTake(current, { takeId: take.id, spare: !take.spare }))
          }
        >
          <Archive size={16} fill={take.spare ? 'currentColor' : 'none'} aria-hidden />
        </SmallButton>
        <SmallButton aria-label={`Put ${take.name} in the bin`} title="To the bin" onClick={() => askToBin(take.id)}>
          <Trash2 size={16} aria-hidden />
        </SmallButton>
      </Flex>
      <Box pl="32px" fontSize="12px">
        {take.note ? <Text>“{take.note}”</Text> : null}
        {flaw ? <Text color="warn">{flaw}</Text> : null}
        {take.level ? (
          <Text color="ink.soft">
            voice {take.level.voiceDbfs.toFixed(0)} dBFS, peak {take.level.peakDbfs.toFixed(1)}, room {take.level.noiseDbfs.toFixed(0)}
            {remarks.length > 0
              ? ` · ${remarks
                  .slice(0, 4)
                  .map(({ line, remarks: list }) => `${line.section.name} line ${line.number}: ${list.map(remark => remarkText(remark, leaks)).join(', ')}`)
                  .join(' · ')}`
              : ''}
            {remarks.length > 4 ? ` · and ${remarks.length - 4} lines more` : ''}
          </Text>
        ) : null}
        <LeakOffer take={take} />
        {fresh ? <PartVerdict song={song} take={take} /> : null}
      </Box>
    </Box>
  )
}

/** What the leaked beat says, where the round trip was only estimated. */
function LeakOffer({ take }: { take: Take }) {
  const witness = useLeaks(state => state.witnesses.get(take.id))
  if (!witness || take.roundTripSource === 'leak') return null
  const { roundTripFrames, confidence } = witness
  const off = (roundTripFrames - take.roundTripFrames) / 48
  if (Math.abs(off) < 1) return <Text color="ok">The beat heard in it confirms its place ({Math.round(100 * confidence)} %).</Text>
  return (
    <Flex align="center" gap={2} color="warn">
      The beat heard in it lies {Math.abs(off).toFixed(1)} ms {off > 0 ? 'late' : 'early'} ({Math.round(100 * confidence)} % sure).
      <Pill
        size="xs"
        onClick={() =>
          edit(`place ${take.name} by the beat heard in it`, song =>
            placeAgain(song, { takeIds: [take.id], roundTripFrames, source: 'leak', measuredAt: null }),
          )
        }
      >
        Place it by that
      </Pill>
    </Flex>
  )
}

function PlayTake({ take }: { take: Take }) {
  const playing = useLive(state => state.playing)
  const view = useView(state => state.view)
  const sounding = playing && view.kind === 'audition' && view.takeId === take.id
  const hear = () => {
    if (sounding) {
      stopPlaying()
      return restHeadphoneMix()
    }
    useView.setState({ view: { kind: 'audition', layerId: take.layerId, takeId: take.id, with: 'beat', gainDecibels: 0 } })
    void play(take.startFrame)
  }
  return (
    <SmallButton aria-label={sounding ? `Stop ${take.name}` : `Hear ${take.name} with the beat`} title="Hear it with the beat" onClick={hear}>
      {sounding ? <Square size={15} fill="currentColor" aria-hidden /> : <Play size={15} aria-hidden />}
    </SmallButton>
  )
}

/** The name, and what the singer noted; both typed in place. */
function TakeName({ take, fresh }: { take: Take; fresh: boolean }) {
  const [typed, setTyped] = useState<{ name: string; note: string } | null>(null)
  const finish = () => {
    if (typed && (typed.note !== take.note || (typed.name.trim() && typed.name !== take.name)))
      edit(`describe ${take.name}`, song => describeTake(song, { takeId: take.id, ...typed }))
    setTyped(null)
  }
  if (typed) {
    const onKeyDown = (event: KeyboardEvent) => {
      event.stopPropagation()
      if (event.key === 'Enter') finish()
      if (event.key === 'Escape') setTyped(null)
    }
    return (
      <Flex gap={1} flex="0 0 320px" onBlur={event => !event.currentTarget.contains(event.relatedTarget) && finish()}>
        <Input
          aria-label={`Name of ${take.name}`}
          size="2xs"
          width="110px"
          autoFocus
          value={typed.name}
          onChange={event => setTyped({ ...typed, name: event.target.value })}
          onKeyDown={onKeyDown}
        />
        <Input
          aria-label={`Note on ${take.name}`}
          placeholder="A note"
          size="2xs"
          flex="1"
          value={typed.note}
          onChange={event => setTyped({ ...typed, note: event.target.value })}
          onKeyDown={onKeyDown}
        />
      </Flex>
    )
  }
  return (
    <Flex flex="0 0 122px" fontWeight={600} align="center" gap={1}>
      {take.name}{' '}
      {fresh ? (
        <Box as="span" color="ok" fontWeight={500}>
          new
        </Box>
      ) : null}
      <SmallButton aria-label={`Rename ${take.name}, or note something`} title="Name and note" onClick={() => setTyped({ name: take.name, note: take.note })}>
        <Pencil size={12} aria-hidden />
      </SmallButton>
    </Flex>
  )
}

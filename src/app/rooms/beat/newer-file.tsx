/** A newer file of the same beat in place of the old one. */
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { Text } from '@chakra-ui/react'
import { useRef, useState } from 'react'
import type { BarRange } from '../../../core/song/arrangement'
import { formatTempo } from '../../shared/format'
import { Notice, Pill } from '../../shared/parts'
import { useSong } from '../../song/song-store'
import { layByBars, replaceBeat, type ReplaceOutcome } from './arrange'

export function NewerFile({ onOutcome }: { onOutcome: (outcome: ReplaceOutcome | null) => void }) {
  const input = useRef<HTMLInputElement>(null)
  const [fraction, setFraction] = useState<number | null>(null)
  const use = async (file: File | undefined) => {
    if (!file) return
    onOutcome(null)
    setFraction(0)
    onOutcome(await replaceBeat(file, setFraction))
    setFraction(null)
  }
  return (
    <>
      <input
        ref={input}
        type="file"
        hidden
        aria-label="Newer file of this beat"
        onChange={event => void use(event.target.files?.[0]).then(() => input.current && (input.current.value = ''))}
      />
      <Pill
        disabled={fraction !== null}
        onClick={() => input.current?.click()}
        title="A better file or a longer edit of the same beat; your takes stay where they are"
      >
        {fraction === null ? 'Newer file' : `Fitting it in … ${Math.round(fraction * 100)} %`}
      </Pill>
    </>
  )
}

interface ReplaceNoticeProps {
  outcome: ReplaceOutcome | null
  onOutcome: (outcome: ReplaceOutcome) => void
}

export function ReplaceNotice({ outcome, onOutcome }: ReplaceNoticeProps) {
  const here = useSong(song => song.beat.grid.tempoBpm)
  if (!outcome) return null
  switch (outcome.kind) {
    case 'replaced':
      return <Replaced {...outcome} />
    case 'cut-short':
      return (
        <Notice tone="warn" title="The newer file is cut short. The beat is as it was.">
          Send it again, or{' '}
          <Pill onClick={() => void replaceBeat(outcome.file, () => {}, true).then(onOutcome)}>use the {outcome.foundSeconds.toFixed(1)} s that are there</Pill>
        </Notice>
      )
    case 'other-tempo':
      return (
        <Notice tone="warn" title="It runs at another speed. The beat is as it was.">
          {outcome.tempoBpm === null
            ? 'It slides off the beat of this song'
            : `It runs at ${formatTempo(Math.round(outcome.tempoBpm * 100) / 100)} bpm, this song at ${formatTempo(here)}`}
          : your takes would slide off it. Begin a new song with it instead.
        </Notice>
      )
    case 'does-not-fit':
      return (
        <Notice tone="warn" title="It does not sound like the beat of this song. The beat is as it was.">
          If it is meant to take its place, at the same speed, its bar one can be laid on this song’s. Otherwise begin a new song with it.{' '}
          <Pill size="xs" px={3} onClick={() => void layByBars(outcome.file, () => {}).then(onOutcome)}>
            Lay it by its bars
          </Pill>
        </Notice>
      )
    case 'no-bars':
      return (
        <Notice tone="warn" title="No bars are heard in it. The beat is as it was.">
          Begin a new song with it instead.
        </Notice>
      )
    case 'not-read':
      return (
        <Notice tone="warn" title="It could not be read as a sound file.">
          The beat is as it was.
        </Notice>
      )
  }
}

function Replaced({ offsetFrames, silentBars }: { offsetFrames: number; silentBars: BarRange[] }) {
  const silent = silentBars.map(({ startBar, barCount }) => (barCount === 1 ? `bar ${startBar}` : `bars ${startBar} to ${startBar + barCount - 1}`))
  return (
    <Notice tone={silent.length > 0 ? 'warn' : 'ok'} title={silent.length > 0 ? 'The newer file plays now, but it is shorter.' : 'The newer file plays now.'}>
      <Text>
        {silent.length > 0 ? `The beat is silent now in ${silent.join(', ')}; lines and takes there stay. ` : ''}
        It lies over the old one ({Math.abs((offsetFrames / SAMPLE_RATE_HZ) * 1_000).toFixed(1)} ms {offsetFrames < 0 ? 'later' : 'earlier'} in the file); all
        takes are where they were. Undo brings the old one back.
      </Text>
    </Notice>
  )
}

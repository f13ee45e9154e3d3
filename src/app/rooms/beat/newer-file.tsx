/** A newer file of the same beat in place of the old one. */
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { Text } from '@chakra-ui/react'
import { useRef, useState } from 'react'
import { Notice, Pill } from '../../shared/parts'
import { replaceBeat, type ReplaceOutcome } from './arrange'

const OUTCOMES: Record<Exclude<ReplaceOutcome['kind'], 'replaced'>, string> = {
  'other-tempo': 'It is the same beat at another speed: your takes would slide off it. Begin a new song with it instead.',
  'does-not-fit': 'It does not sound like the beat of this song. Begin a new song with it instead.',
  'not-read': 'It could not be read as a sound file.',
}

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

export function ReplaceNotice({ outcome }: { outcome: ReplaceOutcome | null }) {
  if (!outcome) return null
  if (outcome.kind === 'replaced') {
    return (
      <Notice tone="ok" title="The newer file plays now.">
        <Text>
          It lies exactly over the old one ({Math.abs((outcome.offsetFrames / SAMPLE_RATE_HZ) * 1_000).toFixed(1)} ms{' '}
          {outcome.offsetFrames < 0 ? 'later' : 'earlier'} in the file); all takes are where they were. Undo brings the old one back.
        </Text>
      </Notice>
    )
  }
  return (
    <Notice tone="warn" title="The beat is as it was.">
      {OUTCOMES[outcome.kind]}
    </Notice>
  )
}

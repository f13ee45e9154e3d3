/** What the files are like: where they go, their format, how loud, how much of the song, how they begin and end. */
import { Text } from '@chakra-ui/react'
import { BARS_RANGE, type Bars } from '../../../core/deliver/bars'
import { FADE_RANGE_SECONDS } from '../../../core/deliver/delivery-shape'
import {
  AAC_KBPS,
  DELIVERY_BITS,
  DELIVERY_RATES_HZ,
  MP3_KBPS,
  MP3_VARYING_KBPS,
  OPUS_KBPS,
  usualFormat,
  type DeliveryFormat,
  type Mp3Format,
  type WavFormat,
} from '../../../core/deliver/encoders'
import { AIM_RANGES } from '../../../core/deliver/loudness-aim'
import { TARGETS, type Target } from '../../../core/deliver/targets'
import { USUAL_NAME_PATTERN } from '../../../core/files/names'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { setDeliver, useDeliverSettings } from '../../song/deliver-settings'
import { Row } from './row'

const KINDS: [DeliveryFormat['kind'], string, string][] = [
  ['wav', 'WAV', 'Every program reads it'],
  ['flac', 'FLAC', '24 bits, nothing lost, about half the size'],
  ['mp3', 'MP3', 'Small, to send; plays to the frame'],
  ['aac', 'AAC', 'Small, for telephones and video'],
  ['opus', 'Opus', 'The smallest for its sound, for the web'],
]
const BITS_MEAN: Record<WavFormat['bits'], string> = {
  16: 'The smallest; for a CD, or a teacher',
  24: 'For everything',
  32: 'Floats, in which nothing is rounded; for a mixing friend',
}
const KBPS = { mp3: MP3_KBPS, aac: AAC_KBPS, opus: OPUS_KBPS } as const

type PackedFormat = Extract<DeliveryFormat, { kbps: number }>

/** At the highest rate it cannot vary. */
function ofRate(format: PackedFormat, kbps: number): DeliveryFormat {
  const next = { ...format, kbps } as PackedFormat
  return next.kind === 'mp3' && next.varies && !MP3_VARYING_KBPS.includes(kbps) ? { kind: 'mp3', kbps: next.kbps, sampleRateHz: next.sampleRateHz } : next
}

function varying({ kbps, varies, sampleRateHz }: Mp3Format): Mp3Format {
  const steady = { kind: 'mp3' as const, kbps, sampleRateHz }
  if (varies) return steady
  return { ...steady, kbps: MP3_VARYING_KBPS.includes(kbps) ? kbps : 256, varies: true }
}

/** What of the song. */
export type Extent = { kind: 'song' } | { kind: 'selected' } | { kind: 'bars'; bars: Bars }

interface FormatCardProps {
  extent: Extent
  onExtent: (extent: Extent) => void
  /** How the selection is called; null: all is selected. */
  selected: string | null
  lastBar: number
}

export function FormatCard({ extent, onExtent, selected, lastBar }: FormatCardProps) {
  const { format, aim, shape, pattern } = useDeliverSettings()
  const isChosen = (to: Target) => JSON.stringify([to.format, to.aim]) === JSON.stringify([format, aim])
  const chosen = TARGETS.find(isChosen)
  const goTo = (to: Target) => {
    // A pattern that came with another place goes with it.
    const own = TARGETS.some(other => other.pattern === pattern) ? USUAL_NAME_PATTERN : pattern
    setDeliver({ format: to.format, aim: to.aim, pattern: to.pattern ?? own })
  }
  const bars = extent.kind === 'bars' ? extent.bars : { from: 1, to: lastBar }
  const setBars = (next: Bars) => onExtent({ kind: 'bars', bars: { from: next.from, to: Math.max(next.from, next.to) } })
  return (
    <Card>
      <CardTitle>What they are like</CardTitle>
      <Row label="They go to">
        {TARGETS.map(to => (
          <Pill key={to.id} size="xs" px={3} chosen={to === chosen} title={to.says} onClick={() => goTo(to)}>
            {to.name}
          </Pill>
        ))}
      </Row>
      {chosen ? (
        <Text color="ink.soft" fontSize="13px" mt={1}>
          {chosen.says}
        </Text>
      ) : null}
      <Row label="Format">
        {KINDS.map(([kind, name, means]) => (
          <Pill
            key={kind}
            size="xs"
            px={3}
            chosen={format.kind === kind}
            title={means}
            onClick={() => setDeliver({ format: usualFormat(kind, format.sampleRateHz) })}
          >
            {name}
          </Pill>
        ))}
      </Row>
      {format.kind === 'flac' ? null : (
        <Row label={format.kind === 'wav' ? 'Bits' : 'Fine to'}>
          {format.kind === 'wav'
            ? DELIVERY_BITS.map(bits => (
                <Pill
                  key={bits}
                  size="xs"
                  px={3}
                  chosen={format.bits === bits}
                  title={BITS_MEAN[bits]}
                  onClick={() => setDeliver({ format: { ...format, bits } })}
                >
                  {bits} bits
                </Pill>
              ))
            : KBPS[format.kind].map(kbps => (
                <Pill key={kbps} size="xs" px={3} chosen={format.kbps === kbps} onClick={() => setDeliver({ format: ofRate(format, kbps) })}>
                  {kbps} kbps
                </Pill>
              ))}
          {format.kind === 'mp3' ? (
            <Pill
              size="xs"
              px={3}
              chosen={format.varies === true}
              title="More where the sound asks for it, less where it does not: smaller for the same sound"
              onClick={() => setDeliver({ format: varying(format) })}
            >
              varying
            </Pill>
          ) : null}
        </Row>
      )}
      <Row label="Rate">
        {DELIVERY_RATES_HZ[format.kind].map(sampleRateHz => (
          <Pill
            key={sampleRateHz}
            size="xs"
            px={3}
            chosen={format.sampleRateHz === sampleRateHz}
            onClick={() => setDeliver({ format: { ...format, sampleRateHz } as DeliveryFormat })}
          >
            {sampleRateHz / 1_000} kHz
          </Pill>
        ))}
      </Row>
      <Row label="How loud">
        <Pill size="xs" px={3} chosen={aim === null} onClick={() => setDeliver({ aim: null })}>
          as mixed
        </Pill>
        <Pill size="xs" px={3} chosen={aim !== null} onClick={() => setDeliver({ aim: aim ?? { lufs: -14, truePeakDbtp: -1 } })}>
          at a loudness
        </Pill>
        {aim ? (
          <>
            <NumberField
              label="Loudness aimed at"
              value={aim.lufs}
              {...AIM_RANGES.lufs}
              unit="LUFS"
              width="52px"
              onKeep={lufs => setDeliver({ aim: { ...aim, lufs } })}
            />
            <NumberField
              label="True peaks under"
              value={aim.truePeakDbtp}
              {...AIM_RANGES.truePeakDbtp}
              unit="dBTP"
              width="48px"
              onKeep={truePeakDbtp => setDeliver({ aim: { ...aim, truePeakDbtp } })}
            />
          </>
        ) : null}
      </Row>
      {aim ? (
        <Text color="ink.soft" fontSize="13px" mt={1}>
          Each file by itself: stems that are each this loud do not sum to the mix.
        </Text>
      ) : null}
      <Row label="How much">
        <Pill size="xs" px={3} chosen={extent.kind === 'song' || (extent.kind === 'selected' && selected === null)} onClick={() => onExtent({ kind: 'song' })}>
          the whole song
        </Pill>
        <Pill
          size="xs"
          px={3}
          chosen={extent.kind === 'selected' && selected !== null}
          disabled={selected === null}
          onClick={() => onExtent({ kind: 'selected' })}
        >
          only {selected ?? 'what is selected'}
        </Pill>
        <Pill size="xs" px={3} chosen={extent.kind === 'bars'} onClick={() => setBars(bars)}>
          bars
        </Pill>
        {extent.kind === 'bars' ? (
          <>
            <NumberField label="From bar" value={bars.from} {...BARS_RANGE} digits={0} width="48px" onKeep={from => setBars({ ...bars, from })} />
            <Text>to</Text>
            <NumberField label="To bar" value={bars.to} {...BARS_RANGE} digits={0} width="48px" onKeep={to => setBars({ ...bars, to })} />
          </>
        ) : null}
      </Row>
      <Row label="From">
        <Pill size="xs" px={3} chosen={!shape.fromFirstSound} onClick={() => setDeliver({ shape: { ...shape, fromFirstSound: false } })}>
          its beginning
        </Pill>
        <Pill size="xs" px={3} chosen={shape.fromFirstSound} onClick={() => setDeliver({ shape: { ...shape, fromFirstSound: true } })}>
          the first sound
        </Pill>
      </Row>
      <Row label="Fades">
        <Text>in</Text>
        <NumberField
          label="Fade in"
          value={shape.fadeInSeconds}
          {...FADE_RANGE_SECONDS}
          unit="s"
          width="48px"
          onKeep={fadeInSeconds => setDeliver({ shape: { ...shape, fadeInSeconds } })}
        />
        <Text>out</Text>
        <NumberField
          label="Fade out"
          value={shape.fadeOutSeconds}
          {...FADE_RANGE_SECONDS}
          unit="s"
          width="48px"
          onKeep={fadeOutSeconds => setDeliver({ shape: { ...shape, fadeOutSeconds } })}
        />
      </Row>
      {shape.fromFirstSound ? (
        <Text color="ink.soft" fontSize="13px" mt={1}>
          Files that begin with their own first sound do not line up with each other.
        </Text>
      ) : null}
    </Card>
  )
}

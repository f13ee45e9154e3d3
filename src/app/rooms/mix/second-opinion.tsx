/** A second opinion: a finished song beside the mix, heard as loud on a key, and held against it in numbers and a curve. */
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { Trash2 } from 'lucide-react'
import { lazy, Suspense, useState } from 'react'
import { setReference, type SecondOpinion } from '../../../core/mix/reference'
import type { Reference, Song, SongId } from '../../../core/song/schema'
import { makeId } from '../../../storage/database'
import { runJob } from '../../../workers/run-job'
import { ChooseFile } from '../../shared/choose-file'
import { formatDecibels, formatLevel } from '../../shared/format'
import { JobRow } from '../../shared/job-row'
import { Card, CardTitle, KeyCap, Notice, Pill, SmallButton } from '../../shared/parts'
import { useJob } from '../../shared/use-job'
import { hearTheSong, useMatching } from '../../song/equal-loudness'
import { currentSong, edit, useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { create } from 'zustand'

const ToneChart = lazy(() => import('./tone-chart'))

/** What was told of both, of which song and which reference. Kept while other rooms are looked at. */
const useOpinion = create<{ told: { of: SongId; reference: Reference; opinion: SecondOpinion } | null }>(() => ({ told: null }))

/** So much louder the reference is played that both are as loud. */
function matchingGain({ mix, reference }: SecondOpinion): number {
  const gain = mix && reference ? mix.lufs - reference.lufs : 0
  return Number.isFinite(gain) ? Math.max(-40, Math.min(40, gain)) : 0
}

/** What was told of the song that is open and its reference; null: they were not compared yet. */
function toldOf({ id, reference }: Pick<Song, 'id' | 'reference'>, { told }: ReturnType<typeof useOpinion.getState>): SecondOpinion | null {
  return reference && told?.of === id && told.reference.assetId === reference.assetId ? told.opinion : null
}

/** By the key: the reference, as loud as the song, or the song again. */
export async function toggleReference(): Promise<void> {
  const song = currentSong()
  if (useView.getState().view.kind === 'reference') return hearTheSong()
  if (!song.reference || useMatching.getState().matching) return
  const before = useView.getState().view
  if (!toldOf(song, useOpinion.getState())) {
    useMatching.setState({ matching: true })
    const result = await runJob('readSecondOpinion', { song })
    useMatching.setState({ matching: false })
    if (result.kind === 'done') keep(song, result.value)
  }
  const opinion = toldOf(currentSong(), useOpinion.getState())
  // The room was left, or something else is heard.
  if (opinion && useView.getState().view === before) useView.setState({ view: { kind: 'reference', gainDecibels: matchingGain(opinion) } })
}

function keep({ id, reference }: Pick<Song, 'id' | 'reference'>, opinion: SecondOpinion): void {
  if (reference) useOpinion.setState({ told: { of: id, reference, opinion } })
}

export function SecondOpinionCard() {
  const song = useSong(current => current)
  const view = useView(state => state.view)
  const opinions = useOpinion()
  const { matching } = useMatching()
  const importing = useJob()
  const comparing = useJob()
  const [problem, setProblem] = useState<string | null>(null)
  const { reference } = song
  const known = toldOf(song, opinions)
  const bringIn = async (file: File) => {
    setProblem(null)
    const assetId = makeId() as Reference['assetId']
    const result = await importing.run('importBeat', { file, assetId, acceptCutShort: true })
    if (!result) return
    if (result.kind !== 'imported')
      return setProblem(result.kind === 'storage-full' ? 'There is no room for it on this device.' : `${file.name} could not be read as a sound file.`)
    const brought = { assetId, name: file.name.slice(0, 255), frames: result.sound.frames }
    edit('bring in a song to compare', current => setReference(current, { reference: brought }))
    await compare()
  }
  const compare = async () => {
    const of = currentSong()
    const opinion = of.reference && (await comparing.run('readSecondOpinion', { song: of }))
    if (opinion) keep(of, opinion)
  }
  return (
    <Card p={3}>
      <CardTitle>A second opinion</CardTitle>
      <Text mt={1} color="ink.soft">
        A finished song that you like: heard beside yours at equal loudness. It stays on this device and is never exported.
      </Text>
      {reference ? (
        <Flex mt={2} gap={2} align="center">
          <Text flex="1" minW={0} truncate fontWeight={600} title={reference.name}>
            {reference.name}
          </Text>
          <Pill size="xs" px={3} chosen={view.kind === 'reference'} disabled={matching} onClick={() => void toggleReference()}>
            {matching ? 'Matching …' : 'Hear it'} <KeyCap>Y</KeyCap>
          </Pill>
          <SmallButton
            aria-label={`Remove ${reference.name}`}
            title="Remove"
            onClick={() => {
              hearTheSong()
              edit('remove the song to compare', current => setReference(current, { reference: null }))
            }}
          >
            <Trash2 size={14} aria-hidden />
          </SmallButton>
        </Flex>
      ) : null}
      <Flex mt={2} gap={2} align="center" wrap="wrap">
        <JobRow job={importing} label="Reading the song">
          <JobRow job={comparing} label="Listening to both" failedText="They could not be compared; nothing was changed. Try again.">
            <ChooseFile size="sm" label="A finished song to compare" onChoose={file => void bringIn(file)}>
              {reference ? 'Another song …' : 'Choose a song …'}
            </ChooseFile>
            {reference ? (
              <Pill size="sm" onClick={() => void compare()}>
                {known ? 'Compare again' : 'Compare'}
              </Pill>
            ) : null}
          </JobRow>
        </JobRow>
      </Flex>
      {problem ? (
        <Box mt={2}>
          <Notice tone="warn" title="This song was not taken">
            {problem} Nothing was changed.
          </Notice>
        </Box>
      ) : null}
      {known ? <Told opinion={known} /> : null}
    </Card>
  )
}

const percent = (share: number) => `${Math.round(100 * share)} %`

function Told({ opinion }: { opinion: SecondOpinion }) {
  const { mix, reference } = opinion
  if (!mix || !reference) return <Text mt={2}>Nothing sounds in {mix ? 'the other song' : 'yours'}.</Text>
  const rows: [what: string, yours: string, other: string][] = [
    ['Loudness', formatLevel(mix.lufs, 'LUFS'), formatLevel(reference.lufs, 'LUFS')],
    ['Peaks', formatLevel(mix.truePeakDbtp, 'dBTP'), formatLevel(reference.truePeakDbtp, 'dBTP')],
    ['Width, lows', percent(mix.width.low), percent(reference.width.low)],
    ['Width, voices', percent(mix.width.middle), percent(reference.width.middle)],
    ['Width, highs', percent(mix.width.high), percent(reference.width.high)],
  ]
  return (
    <Box mt={2}>
      <Grid as="table" width="100%" templateColumns="1fr auto auto" columnGap={4} rowGap="2px" aria-label="Yours and the other song" display="table">
        <thead>
          <tr>
            <Box as="th" textAlign="left" fontWeight={400} color="ink.soft">
              Heard {formatDecibels(matchingGain(opinion), -Infinity)}
            </Box>
            <Box as="th" textAlign="right" fontWeight={600}>
              yours
            </Box>
            <Box as="th" textAlign="right" fontWeight={600}>
              other
            </Box>
          </tr>
        </thead>
        <tbody>
          {rows.map(([what, yours, other]) => (
            <tr key={what}>
              <td>{what}</td>
              <Box as="td" textAlign="right">
                {yours}
              </Box>
              <Box as="td" textAlign="right">
                {other}
              </Box>
            </tr>
          ))}
        </tbody>
      </Grid>
      <Suspense fallback={<Box height="140px" />}>
        <ToneChart mix={mix.tone} reference={reference.tone} says="Tone by frequency: yours as a whole line, the other song dashed" />
      </Suspense>
      <Text color="ink.soft" fontSize="13px">
        {toneWords(mix.tone, reference.tone)}
      </Text>
    </Box>
  )
}

const RANGES: [name: string, low: number, high: number][] = [
  ['lows', 40, 200],
  ['low middle', 200, 700],
  ['middle', 700, 3_000],
  ['high middle', 3_000, 7_000],
  ['highs', 7_000, 17_000],
]

/** Where both differ most, in words. */
function toneWords(mix: { hz: number; decibels: number }[], reference: { hz: number; decibels: number }[]): string {
  const apart = RANGES.map(([name, low, high]) => {
    const within = mix.flatMap(({ hz, decibels }, i) => (hz >= low && hz < high ? [decibels - reference[i]!.decibels] : []))
    return { name, decibels: within.reduce((sum, value) => sum + value, 0) / within.length }
  })
  const told = apart.filter(({ decibels }) => Math.abs(decibels) >= 1.5)
  if (told.length === 0) return 'In tone both are alike.'
  return `Yours has ${told.map(({ name, decibels }) => `${Math.abs(decibels).toFixed(0)} dB ${decibels > 0 ? 'more' : 'less'} in the ${name}`).join(', ')}.`
}

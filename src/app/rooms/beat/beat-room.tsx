/** Beat: how fast, in what key, where do things start? */
import { Flex, Grid, Stack } from '@chakra-ui/react'
import { useState } from 'react'
import { useLocation, useNavigate, useParams } from 'react-router'
import type { TempoReading } from '../../../core/beat/tempo'
import type { BarRange } from '../../../core/song/arrangement'
import type { Section } from '../../../core/song/schema'
import { Afterwards } from '../../shared/afterwards'
import { formatKey, formatMinutes, formatTempo } from '../../shared/format'
import { Card, Notice, Pill, PrimaryButton, ProgressBar, RoomHeading } from '../../shared/parts'
import { useListened } from '../../song/listening'
import { useSong } from '../../song/song-store'
import { FollowLater } from '../../song/follow-later'
import { layOutTemplate } from '../../song/lay-out'
import { TemplateSelect } from '../../song/template-select'
import { BeatRibbon } from './beat-ribbon'
import { ChordEditor } from './chord-lane'
import { GridQuestion } from './grid-question'
import { KeyCard } from './key-card'
import { Lens } from './lens'
import { LevelCard } from './level-card'
import type { ReplaceOutcome } from './arrange'
import { NewerFile, ReplaceNotice } from './newer-file'
import { SectionEditor, useChosenSection } from './section-editor'
import { TempoCard } from './tempo-card'
import { TempoDoubt } from './tempo-doubt'
import { TitleHint } from './title-hint'
import { useBeatAnalysis, type BeatFindings } from './use-beat-analysis'

const NO_READINGS: readonly TempoReading[] = []

export function BeatRoom() {
  const beat = useSong(song => song.beat)
  const hasLayers = useSong(song => song.layers.length > 0)
  const findings = useBeatAnalysis()
  const heard = findings.found.tempo?.readings ?? NO_READINGS
  const [replaced, setReplaced] = useState<ReplaceOutcome | null>(null)
  const [chordBeat, setChordBeat] = useState<number | null>(null)
  const section = useChosenSection()
  const [chosen, setChosen] = useState<{ of: Section; bars: BarRange } | null>(null)
  // Bars chosen inside a section stay chosen while that section exists and keeps its place.
  const bars = section && chosen && isSamePlace(section, chosen.of) && !isSamePlace(section, { ...section, ...chosen.bars }) ? chosen.bars : null
  const chord = beat.chords.find(entry => entry.startBeat === chordBeat)
  const navigate = useNavigate()
  const { mixedDownFrom, silencedSamples } = (useLocation().state as { mixedDownFrom?: number | null; silencedSamples?: number } | null) ?? {}
  const { songId } = useParams()
  const sing = () => {
    if (!hasLayers) layOutTemplate()
    void navigate(`/song/${songId}/booth`)
  }
  return (
    <>
      <RoomHeading
        above={`${beat.fileName} · ${formatMinutes(beat.frames)}`}
        title={beat.gridSource === 'unknown' ? 'How fast, in what key?' : `${formatTempo(beat.grid.tempoBpm)} bpm, ${formatKey(beat.key)}`}
      >
        <NewerFile onOutcome={setReplaced} />
        {hasLayers ? null : <TemplateSelect />}
        <PrimaryButton onClick={sing} title={hasLayers ? undefined : 'Lays out the template’s layers to sing on, and goes to the Booth'}>
          Go and sing
        </PrimaryButton>
      </RoomHeading>
      <TitleHint />
      {silencedSamples ? (
        <Notice tone="warn" title={`${silencedSamples} samples of the file were no numbers.`}>
          Silence stands for them. If it is heard, export the beat again.
        </Notice>
      ) : null}
      {mixedDownFrom ? (
        <Notice tone="plain" title={`The file has ${mixedDownFrom} channels.`}>
          They were mixed down to two in the standard way: centre and surrounds at -3 dB, without the low-frequency channel.
        </Notice>
      ) : null}
      <ReplaceNotice outcome={replaced} onOutcome={setReplaced} />
      {findings.listening ? <Listening findings={findings} /> : null}
      {findings.failed || findings.stopped ? (
        <Notice tone="warn" title={findings.stopped ? 'Listening was stopped.' : 'The beat could not be listened to.'}>
          {findings.stopped ? 'What was found so far is kept. ' : `It plays all the same. Type tempo and key below. (${findings.failed}) `}
          <Pill onClick={findings.listenAgain}>Listen again</Pill>
        </Notice>
      ) : null}
      {findings.analysis && findings.analysis.tempo.readings.length === 0 ? (
        <Notice tone="warn" title="No tempo was found in this beat.">
          There is no pulse to hear. Type the tempo, or tap it while it plays; recording works either way.
        </Notice>
      ) : null}
      <TempoDoubt heard={heard} />
      <GridQuestion />
      <FollowLater>
        <BeatRibbon chosenBars={bars} chosenChordBeat={chordBeat} onChooseChord={setChordBeat} />
      </FollowLater>
      <Afterwards>
        {chord ? <ChordEditor chord={chord} onChoose={setChordBeat} /> : null}
        {section || !chord ? (
          <SectionEditor analysis={findings.analysis} chosenBars={bars} onChooseBars={next => section && setChosen({ of: section, bars: next })} />
        ) : null}
        <Lens heard={heard} />
        <Afterwards>
          <Grid templateColumns={{ base: 'minmax(0, 1fr)', md: '1fr 1fr' }} gap={4} mt={4} alignItems="start">
            <Stack gap={4}>
              <TempoCard heard={heard} />
              <LevelCard level={findings.analysis?.level ?? null} />
            </Stack>
            <Afterwards>
              <KeyCard found={findings.found.key ?? null} listened={findings.analysis !== null} />
            </Afterwards>
          </Grid>
        </Afterwards>
      </Afterwards>
    </>
  )
}

function isSamePlace(a: Section, b: Section): boolean {
  return a.id === b.id && a.startBar === b.startBar && a.barCount === b.barCount
}

function Listening({ findings }: { findings: BeatFindings }) {
  const fraction = useListened(state => state.fraction)
  return (
    <Card mb={3} py={2}>
      <Flex align="center" gap={4}>
        Listening for tempo, key, chords, sections and level …
        <ProgressBar flex="1" fraction={fraction} label="Listening to the beat" />
        <Pill onClick={findings.cancel}>Stop listening</Pill>
      </Flex>
    </Card>
  )
}

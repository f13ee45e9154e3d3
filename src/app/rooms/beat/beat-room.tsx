/** Beat: how fast, in what key, where do things start? */
import { Flex, Grid, Progress } from '@chakra-ui/react'
import { useNavigate, useParams } from 'react-router'
import { layTemplate } from '../../../core/layers/template'
import { makeId } from '../../../storage/database'
import { formatKey, formatMinutes, formatTempo } from '../../shared/format'
import { Card, Notice, Pill, PrimaryButton, RoomHeading } from '../../shared/parts'
import { currentSong, edit, useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { BeatRibbon } from './beat-ribbon'
import { KeyCard } from './key-card'
import { SectionEditor } from './section-editor'
import { TempoCard } from './tempo-card'
import { useBeatAnalysis } from './use-beat-analysis'

export function BeatRoom() {
  const beat = useSong(song => song.beat)
  const hasLayers = useSong(song => song.layers.length > 0)
  const clicking = useView(state => state.clicking)
  const findings = useBeatAnalysis()
  const navigate = useNavigate()
  const { songId } = useParams()
  const template = () => {
    edit('lay out the template', song => layTemplate(song, { makeId }))
    useView.setState({ layerId: currentSong().layers[0]?.id ?? null })
  }
  return (
    <>
      <RoomHeading
        above={`${beat.fileName} · ${formatMinutes(beat.frames)}`}
        title={beat.gridSource === 'unknown' ? 'How fast, in what key?' : `${formatTempo(beat.grid.tempoBpm)} bpm, ${formatKey(beat.key)}`}
      >
        <Pill chosen={clicking} onClick={() => useView.setState({ clicking: !clicking })} title="K. Play, and listen whether the click sits on the beat">
          Click over the beat
        </Pill>
        {hasLayers ? (
          <PrimaryButton onClick={() => void navigate(`/song/${songId}/booth`)}>Go and sing</PrimaryButton>
        ) : (
          <PrimaryButton onClick={template}>Lay out the vocal template</PrimaryButton>
        )}
      </RoomHeading>
      {findings.fraction !== null ? (
        <Card mb={3} py={2}>
          <Flex align="center" gap={4}>
            Listening for tempo and key …
            <Progress.Root flex="1" size="sm" value={Math.round(findings.fraction * 100)} aria-label="Listening to the beat">
              <Progress.Track bg="sunken" borderRadius="full">
                <Progress.Range bg="brand" />
              </Progress.Track>
            </Progress.Root>
          </Flex>
        </Card>
      ) : null}
      {findings.failed ? (
        <Notice tone="warn" title="The beat could not be listened to.">
          It plays all the same. Type tempo and key below. ({findings.failed})
        </Notice>
      ) : null}
      {findings.analysis && findings.analysis.tempo.readings.length === 0 ? (
        <Notice tone="warn" title="No tempo was found in this beat.">
          There is no steady pulse to hear. Type the tempo, or tap it while it plays; recording works either way.
        </Notice>
      ) : null}
      <BeatRibbon />
      <SectionEditor />
      <Grid templateColumns="1fr 1fr" gap={4} mt={4}>
        <TempoCard findings={findings} />
        <KeyCard findings={findings} />
      </Grid>
    </>
  )
}

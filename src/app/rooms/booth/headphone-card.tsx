/** What is heard while singing. */
import { Flex, Text } from '@chakra-ui/react'
import { setBeatMix } from '../../../core/mix/commands'
import type { Song } from '../../../core/song/schema'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { SongSlider } from '../../shared/song-slider'
import { useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { useRecorder } from './recorder-store'

const setBeatGain = (song: Song, gainDecibels: number) => setBeatMix(song, { gainDecibels })

export function HeadphoneCard({ busy }: { busy: boolean }) {
  const hearing = useRecorder(state => state.hearing)
  const clicking = useView(state => state.clicking)
  const beatGain = useSong(song => song.beat.gainDecibels)
  return (
    <Card>
      <CardTitle>In your headphones</CardTitle>
      <Flex gap={2} mt={2} wrap="wrap">
        <Pill chosen={hearing === 'beat'} disabled={busy} onClick={() => useRecorder.setState({ hearing: 'beat' })}>
          Beat only
        </Pill>
        <Pill chosen={hearing === 'stack'} disabled={busy} onClick={() => useRecorder.setState({ hearing: 'stack' })}>
          Beat and other layers
        </Pill>
        <Pill chosen={clicking} onClick={() => useView.setState({ clicking: !clicking })}>
          Click
        </Pill>
      </Flex>
      <Flex direction="column" mt={3}>
        <SongSlider label="Beat level" showLabel="Beat" value={beatGain} min={-60} max={12} step={0.5} unit="dB" stepLabel="set the beat's level" command={setBeatGain} />
      </Flex>
      <Text color="ink.soft" mt={2} fontSize="12px">
        Your own voice is not sent back to you. The dry voice is what is kept. Wear headphones, so that the beat does not reach the microphone.
      </Text>
    </Card>
  )
}

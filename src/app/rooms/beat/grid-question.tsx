/** Asked when a corrected tempo would move the sheet: by its bars, or not in time. */
import { Dialog, Flex, Stack, Text } from '@chakra-ui/react'
import { DialogCard } from '../../shared/dialog-card'
import { framesToSeconds } from '../../../core/audio/frames'
import { Pill, PrimaryButton } from '../../shared/parts'
import { useSong } from '../../song/song-store'
import { answerGrid, useGridQuestion } from './keep-grid'

export function GridQuestion() {
  const asked = useGridQuestion(state => state.asked)
  const isSung = useSong(song => song.takes.some(take => !take.binned))
  const leave = () => useGridQuestion.setState({ asked: null })
  return (
    <Dialog.Root role="alertdialog" open={asked !== null} onOpenChange={details => !details.open && leave()}>
      <DialogCard title="Where do the lines belong?" asks>
        <Dialog.Body>
          <Stack gap={2}>
            <Text>
              The bars come to lie elsewhere. Lines that go with them move by up to {asked ? framesToSeconds(asked.movesFrames).toFixed(1) : ''} s; lines that
              stay where they are no longer begin on their bars.
            </Text>
            <Text color="ink.soft">
              {isSung ? 'What you sang and picked stays where you sang it, either way.' : 'Nothing is sung yet: most likely they belong to their bars.'}
            </Text>
          </Stack>
          <Flex mt={4} gap={2} justify="end" wrap="wrap">
            <Pill onClick={leave}>Leave all as it was</Pill>
            {isSung ? (
              <>
                <Pill onClick={() => answerGrid('bars')}>To their bars</Pill>
                <PrimaryButton size="sm" onClick={() => answerGrid('time')}>
                  Where they are sung
                </PrimaryButton>
              </>
            ) : (
              <>
                <Pill onClick={() => answerGrid('time')}>Where they are in time</Pill>
                <PrimaryButton size="sm" onClick={() => answerGrid('bars')}>
                  To their bars
                </PrimaryButton>
              </>
            )}
          </Flex>
        </Dialog.Body>
      </DialogCard>
    </Dialog.Root>
  )
}

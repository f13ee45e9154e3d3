/** What is wrong with the sound, in words, with what mends it; the rest of the song plays on. */
import { Flex } from '@chakra-ui/react'
import { namesOfSounds } from '../shared/names-of-sounds'
import { Notice, Pill } from '../shared/parts'
import { startAnew, useLive, wake } from '../song/live'
import { useSong } from '../song/song-store'

export function SoundTrouble() {
  const status = useLive(state => state.status)
  const { missing, unread } = useLive(state => state.trouble)
  const song = useSong(current => current)
  const dismiss = () => useLive.setState({ trouble: { missing: [], unread: false } })
  return (
    <>
      {status === 'asleep' ? (
        <Notice tone="warn" title="The browser lets no sound start before a click.">
          <Flex mt={1}>
            <Pill size="xs" onClick={() => void wake()}>
              Let it sound
            </Pill>
          </Flex>
        </Notice>
      ) : null}
      {status === 'broken' ? (
        <Notice tone="warn" title="The sound system stopped.">
          The song and all takes are kept.
          <Flex mt={1}>
            <Pill size="xs" onClick={() => void startAnew()}>
              Start it again
            </Pill>
          </Flex>
        </Notice>
      ) : null}
      {missing.length > 0 ? (
        <Notice tone="warn" title={`Some sound is not there: ${namesOfSounds(song, missing).join(', ')}.`}>
          Silence stands for it; the rest plays on. If you have a song file of this song, it may hold it.
          <Flex mt={1}>
            <Pill size="xs" onClick={dismiss}>
              All right
            </Pill>
          </Flex>
        </Notice>
      ) : null}
      {unread ? (
        <Notice tone="warn" title="Stored sound could not be read just now.">
          Nothing was changed. Play again; close what else uses the disk if it happens again.
          <Flex mt={1}>
            <Pill size="xs" onClick={dismiss}>
              All right
            </Pill>
          </Flex>
        </Notice>
      ) : null}
    </>
  )
}

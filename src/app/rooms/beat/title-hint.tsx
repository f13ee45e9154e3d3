/** What the file's tags call the song, where that is not its name. */
import { chakra, Text } from '@chakra-ui/react'
import { setTitle } from '../../../core/song/title'
import { edit, useSong } from '../../song/song-store'

const Take = chakra('button', { base: { textDecoration: 'underline', cursor: 'pointer', color: 'ink', borderRadius: '4px' } })

export function TitleHint() {
  const title = useSong(song => song.title)
  const said = useSong(song => song.beat.fileSays.title)
  if (!said || said === title) return null
  return (
    <Text color="ink.soft" mt={-2} mb={3}>
      The file itself says “{said}”. <Take onClick={() => edit(`call the song ${said}`, song => setTitle(song, said))}>Take that as the name</Take>
    </Text>
  )
}

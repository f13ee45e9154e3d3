/** All songs in one file, to be kept elsewhere; dropped on the Shelf it brings them back. */
import { Flex, Text } from '@chakra-ui/react'
import { Archive } from 'lucide-react'
import { useState } from 'react'
import { count } from '../../shared/format'
import { JobRow } from '../../shared/job-row'
import { Pill } from '../../shared/parts'
import { saveBlob } from '../../shared/save-blob'
import { useJob } from '../../shared/use-job'

export function BackUp() {
  const job = useJob()
  const [told, setTold] = useState<string | null>(null)
  const backUp = async () => {
    setTold(null)
    const result = await job.run('backUp', {})
    if (!result) return
    const left = result.leftOut.length > 0 ? ` Left out, because they cannot be read or lack sound: ${result.leftOut.join(', ')}.` : ''
    if (result.kind === 'empty') return setTold(`No song could be backed up.${left}`)
    saveBlob(result.file, `Plush Layer ${new Date().toISOString().slice(0, 10)}.zip`)
    setTold(`${count(result.songs, 'song')}, ${(result.file.size / 1e6).toFixed(0)} MB. Drop the file on the Shelf to bring them back.${left}`)
  }
  return (
    <Flex align="center" gap={3} wrap="wrap" mt={5}>
      <JobRow job={job} label="Backing up all songs" failedText="The backup could not be made: is there room on the disk?">
        <Pill onClick={() => void backUp()}>
          <Archive size={15} aria-hidden /> Back up all songs
        </Pill>
      </JobRow>
      <Text role="status" color="ink.soft">
        {told}
      </Text>
    </Flex>
  )
}

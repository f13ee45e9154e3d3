/** The whole song as a file; and what a friend added to a copy of it. */
import { Flex, Text } from '@chakra-ui/react'
import { Download } from 'lucide-react'
import { useState } from 'react'
import { mergeSong } from '../../../core/layers/merge'
import { makeId } from '../../../storage/database'
import { discardAsset } from '../../../storage/sounds'
import { ChooseFile } from '../../shared/choose-file'
import { count } from '../../shared/format'
import { JobRow } from '../../shared/job-row'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { useJob } from '../../shared/use-job'
import { currentSong, edit } from '../../song/song-store'
import { exportSongFile } from './deliveries'

export function SongFileCard({ busy }: { busy: boolean }) {
  const [onlyUsed, setOnlyUsed] = useState(false)
  const [withPrints, setWithPrints] = useState(false)
  const [told, setTold] = useState<{ text: string; isProblem: boolean } | null>(null)
  const job = useJob()
  const bringIn = async (file: File) => {
    setTold(null)
    const result = await job.run('readAdded', { song: currentSong(), file })
    if (!result) return
    const problem = (text: string) => setTold({ text: `“${file.name}”: ${text} Nothing was changed.`, isProblem: true })
    if (result.kind === 'refused') return problem(`it is no song file that can be used (${result.reason}).`)
    if (result.kind === 'other-beat') return problem('it is a song over another beat.')
    if (result.kind === 'storage-full') return problem('there is no room for its takes. Free some disk space.')
    const merged = mergeSong(currentSong(), result.theirs, { makeId })
    const { takes, layers, comps, notes } = merged
    if (takes + layers.length + comps + notes === 0) return problem('it has nothing that this song has not.')
    const verdict = edit('bring in what was added', () => merged.song)
    if (!verdict.ok) await Promise.all(result.assetIds.map(discardAsset))
    else setTold({ text: `Came in: ${addedText(takes, layers, comps, notes)}. Undo takes it out again.`, isProblem: false })
  }
  return (
    <Card>
      <CardTitle>Song file</CardTitle>
      <Text color="ink.soft" mt={2}>
        The whole song as one zip: the document, the beat and every take. Drop it on the Shelf, here or on another machine, to get the same song back. It is
        opened again before it is handed over.
      </Text>
      <Flex mt={3} gap={2} wrap="wrap" align="center">
        <Pill disabled={busy} onClick={() => exportSongFile({ onlyUsed, withPrints })}>
          <Download size={15} aria-hidden /> Make a song file
        </Pill>
        <Pill size="xs" px={3} chosen={!onlyUsed} onClick={() => setOnlyUsed(false)}>
          with all takes
        </Pill>
        <Pill size="xs" px={3} chosen={onlyUsed} onClick={() => setOnlyUsed(true)} title="Without takes that nothing plays, and without the bin">
          only what is used
        </Pill>
        <Pill
          size="xs"
          px={3}
          chosen={withPrints}
          onClick={() => setWithPrints(!withPrints)}
          title="Larger, and nothing has to be tuned or mended again where it is opened"
        >
          and tuned sound, ready made
        </Pill>
      </Flex>
      <Text color="ink.soft" mt={3}>
        A friend sang on a copy of it? Their new takes, layers and notes come in beside yours.
      </Text>
      <Flex mt={2} gap={2} align="center">
        <JobRow job={job} label="Bringing in what was added" failedText="It could not be read. Nothing was changed.">
          <ChooseFile label="A song file that a friend added to" accept=".zip,application/zip" onChoose={file => void bringIn(file)}>
            Bring in what was added …
          </ChooseFile>
        </JobRow>
      </Flex>
      {told ? (
        <Text role={told.isProblem ? 'alert' : 'status'} color={told.isProblem ? 'warn' : 'ink'} mt={2}>
          {told.text}
        </Text>
      ) : null}
    </Card>
  )
}

function addedText(takes: number, layers: readonly string[], comps: number, notes: number): string {
  return [
    ...(takes > 0 ? [count(takes, 'take')] : []),
    ...(layers.length > 0 ? [`${layers.length === 1 ? 'the layer' : 'the layers'} ${layers.join(', ')}`] : []),
    ...(comps > 0 ? [`${count(comps, 'comp')}, beside your own`] : []),
    ...(notes > 0 ? [count(notes, 'note')] : []),
  ].join('; ')
}

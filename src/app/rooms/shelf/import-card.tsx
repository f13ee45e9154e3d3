/** An import as it goes, or why it did not. */
import { Box, Flex } from '@chakra-ui/react'
import { count, formatMoment } from '../../shared/format'
import { Card, Notice, Pill, ProgressBar } from '../../shared/parts'
import { Ribbon } from '../../shared/ribbon'
import { useArriving } from './arriving'
import type { Arrival, ImportProblem, Imports } from './use-imports'

export function ImportCard({ imports, onOpen }: { imports: Imports; onOpen: (arrival: Arrival) => void }) {
  const { state } = imports
  if (!state) return null
  if (state.problem?.kind === 'twin') return <TwinNotice imports={imports} problem={state.problem} onOpen={onOpen} />
  if (state.problem?.kind === 'brought-back') return <BroughtBack outcome={state.problem} onDone={imports.dismiss} />
  if (state.problem) {
    const { title, text } = explain(state.problem)
    const cutShort = state.problem.kind === 'refused' && state.problem.reason === 'cut-short' ? state.problem : null
    return (
      <Box mb={5}>
        <Notice tone="warn" title={`“${state.fileName}”: ${title}`}>
          {text}
          <Flex gap={2} mt={2}>
            {cutShort && cutShort.foundSeconds >= 1 ? (
              <Pill onClick={() => void imports.acceptCutShort().then(arrival => arrival && onOpen(arrival))}>
                Use the {cutShort.foundSeconds.toFixed(1)} s that are there
              </Pill>
            ) : null}
            <Pill onClick={imports.dismiss}>Close</Pill>
          </Flex>
        </Notice>
      </Box>
    )
  }
  return (
    <Card mb={5}>
      <ArrivingRibbon />
      <Flex align="center" gap={4}>
        <Box flex="1">
          <Box mb={2}>Bringing in “{state.fileName}” …</Box>
          <HowFar />
        </Box>
        <Pill onClick={state.cancel}>Cancel</Pill>
      </Flex>
    </Card>
  )
}

/** The same song is here already: which of the two is meant? */
function TwinNotice({
  imports,
  problem: { arrival, twin },
  onOpen,
}: {
  imports: Imports
  problem: Extract<ImportProblem, { kind: 'twin' }>
  onOpen: (arrival: Arrival) => void
}) {
  return (
    <Box mb={5}>
      <Notice tone="plain" title={`The same beat and takes are here already, as “${twin.title}”.`}>
        That one was last touched {formatMoment(twin.touchedAt)}. What came in may be older or newer: it has its own picks and mix.
        <Flex gap={2} mt={2}>
          <Pill onClick={() => void imports.dropTwin().then(() => onOpen({ ...arrival, songId: twin.id }))}>Open the one that is here</Pill>
          <Pill
            onClick={() => {
              imports.dismiss()
              onOpen(arrival)
            }}
          >
            Keep both, open the new one
          </Pill>
        </Flex>
      </Notice>
    </Box>
  )
}

function BroughtBack({ outcome: { songs, here, refused }, onDone }: { outcome: Extract<ImportProblem, { kind: 'brought-back' }>; onDone: () => void }) {
  return (
    <Box mb={5}>
      <Notice tone={refused.length > 0 ? 'warn' : 'ok'} title={`${count(songs, 'song')} came back.`}>
        {here.length > 0 ? `Here already, as they are in the backup: ${here.join(', ')}. ` : ''}
        {refused.length > 0 ? `These could not be read, and nothing of them was kept: ${refused.join(', ')}. ` : ''}
        <Pill size="xs" px={3} onClick={onDone}>
          All right
        </Pill>
      </Notice>
    </Box>
  )
}

const NOWHERE: [] = []

function HowFar() {
  return <ProgressBar fraction={useArriving(state => state.fraction)} label="Import" />
}

/** The beat's ribbon, growing. */
function ArrivingRibbon() {
  const beat = useArriving(state => state.beat)
  if (!beat) return null
  return (
    <Box position="relative" height="96px" mb={3} bg="sunken" borderRadius="10px" overflow="hidden">
      <Ribbon
        peaks={beat.peaks}
        originFrame={0}
        view={{ startFrame: 0, endFrame: beat.lengthFrames }}
        clipped={NOWHERE}
        look="beat"
        label="The beat, as far as it has arrived"
      />
    </Box>
  )
}

const FORMAT_NAMES: Record<string, string> = {
  mp4: 'the sound in this MP4 or M4A file',
  adts: 'AAC',
  aiff: 'AIFF of this kind',
  webm: 'WebM',
  'ogg-opus': 'Opus',
}

/** What happened, what was kept, what to do. */
function explain(problem: Exclude<ImportProblem, { kind: 'twin' | 'brought-back' }>): { title: string; text: string } {
  if (problem.kind === 'storage-full')
    return { title: 'the browser has no room left for it.', text: 'Nothing of it was kept. Free some disk space, or empty the bin, and try again.' }
  if (problem.kind === 'stuck')
    return {
      title: 'nothing could be read from it for five seconds.',
      text: 'It was given up, and nothing of it was kept. The file may be damaged: export or download it again, or convert it to WAV.',
    }
  if (problem.kind === 'failed')
    return {
      title: 'something went wrong while reading it.',
      text: `Nothing of it was kept. Try again; if it happens again, convert the file to WAV first. (${problem.detail})`,
    }
  if (problem.kind === 'no-demo') return { title: 'the demo song is not on this server.', text: 'Start the app with “npm run demo”, which makes it.' }
  if (problem.kind === 'server-silent')
    return {
      title: 'the app’s server gives no answer.',
      text: 'The demo song is fetched from it. Start the app again, or look whether the machine is online. Your songs are here all the same.',
    }
  if (problem.kind === 'no-file')
    return { title: 'this is no file.', text: 'Drop a sound file, a video or a song file: from a folder, or from where it was downloaded.' }
  const nothing = 'Nothing of it was kept, and your songs are as they were.'
  switch (problem.reason) {
    case 'empty':
      return { title: 'there is no sound in this file.', text: `${nothing} Export the beat again and drop the new file.` }
    case 'not-sound':
      return { title: 'this is not a sound file that can be read.', text: `${nothing} Drop a WAV, AIFF, MP3, M4A, FLAC, Ogg or WebM file.` }
    case 'unsupported':
      return {
        title: `${FORMAT_NAMES[problem.format] ?? 'this kind of sound file'} cannot be read yet.`,
        text: `${nothing} Convert it to WAV, MP3 or FLAC: up to eight channels, 8 to 192 kHz.`,
      }
    case 'too-long':
      return { title: 'this is longer than 20 minutes.', text: `${nothing} Cut the part that you will sing over and drop that.` }
    case 'cut-short': {
      const promised = problem.promisedSeconds === null ? '' : ` of the ${problem.promisedSeconds.toFixed(1)} s it promises`
      return {
        title: 'this file is cut short.',
        text: `${problem.foundSeconds.toFixed(1)} s${promised} are there. ${nothing} Get the whole file if you can, or use what there is.`,
      }
    }
    case 'not-zip':
      return { title: 'this zip is damaged or cut short.', text: `${nothing} Copy or download it again.` }
    case 'no-document':
    case 'not-a-song':
      return { title: 'this zip is not a Plush Layer song file.', text: nothing }
    case 'newer':
      return { title: 'this song file was made with a later release.', text: `${nothing} Update the app, then drop it again.` }
    case 'unsafe-name':
      return {
        title: 'this zip holds something that does not belong in a song file.',
        text: `It was refused unopened because of “${problem.detail}”. ${nothing}`,
      }
    case 'too-large':
      return { title: 'this zip says that it unpacks to far more than a song can be.', text: `It was refused unopened. ${nothing}` }
    case 'damaged-document':
      return { title: 'the song in this file is damaged.', text: `${nothing} (${problem.detail})` }
    case 'missing-sound':
    case 'damaged-sound':
      return { title: 'a sound in this song file is missing or damaged.', text: `${nothing} Use an older copy of the file. (${problem.detail})` }
  }
}

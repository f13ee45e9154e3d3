/** A first comp, proposed from what was read off the takes: drawn as a faint thread until it is accepted. */
import { WORTH_A_WORD } from '../../../core/voice/line-facts'
import { Box, Flex, Text } from '@chakra-ui/react'
import type { Proposal, Reason, Weights } from '../../../core/comp/propose-comp'
import type { Layer, Song } from '../../../core/song/schema'
import { currentComp, lineTitle, requirePlacedLine, requireTake } from '../../../core/song/select'
import { count, formatConfidence } from '../../shared/format'
import { Card, Pill, PrimaryButton } from '../../shared/parts'
import { JobRow } from '../../shared/job-row'
import { useJob } from '../../shared/use-job'
import { ValueSlider } from '../../shared/value-slider'
import { currentSong } from '../../song/song-store'
import { setBench, useBench, whatIsCompared } from './bench-store'
import { pickRows } from './comping'
import type { Bench } from './use-bench'

const WEIGHTS: { name: keyof Weights; label: string }[] = [
  { name: 'tune', label: 'In tune' },
  { name: 'time', label: 'In time' },
  { name: 'clean', label: 'Clean' },
]

export function FirstCompPanel({ bench, proposals }: { bench: Bench; proposals: readonly Proposal[] }) {
  const { song, layer, stretch } = bench
  const weights = useBench(state => state.weights)
  const of = whatIsCompared(song, layer.id)
  const known = useBench(state => state.candidates?.of === of)
  const job = useJob()
  const listen = async () => {
    const lines = await job.run('compareTakes', { song: currentSong(), layerId: layer.id })
    if (lines) setBench({ candidates: { of, lines } })
  }
  if (!known)
    return (
      <Card mt={3} py={3}>
        <Flex align="center" gap={4}>
          <Text flex="1" color="ink.soft">
            {job.failed
              ? 'The takes could not be compared; nothing was changed. Try again.'
              : 'All takes are listened to, and one is proposed for every line: in tune, in time, clean, without changing more often than it is worth.'}
          </Text>
          <JobRow job={job} label="Listening to the takes">
            <PrimaryButton onClick={() => void listen()}>Listen to all takes</PrimaryButton>
          </JobRow>
        </Flex>
      </Card>
    )
  const shown = proposals.filter(proposal => stretch.lineIds.includes(proposal.lineId))
  const inSection = proposals.filter(proposal => stretch.sectionId !== null && requirePlacedLine(song, proposal.lineId).section.id === stretch.sectionId)
  const accept = (wanted: readonly Proposal[]) => void acceptProposals(layer, song, wanted)
  return (
    <Card mt={3} py={3} role="group" aria-label="A first comp">
      <Flex gap={4} align="start">
        <Box flex="0 0 232px">
          {WEIGHTS.map(({ name, label }) => (
            <ValueSlider
              key={name}
              label={label}
              showLabel={label}
              value={weights[name]}
              min={0}
              max={2}
              step={0.1}
              onTry={value => setBench({ weights: { ...weights, [name]: value } })}
              onKeep={value => setBench({ weights: { ...weights, [name]: value } })}
              onDrop={() => {}}
            />
          ))}
        </Box>
        <Box flex="1" minW={0} maxH="118px" overflowY="auto" tabIndex={0} role="list" aria-label="Proposed takes">
          {shown.length === 0 ? <Text color="ink.soft">No free take sings here.</Text> : null}
          {shown.map(proposal => (
            <Flex key={proposal.lineId} role="listitem" gap={3} align="center" py="2px">
              <Box flex="1" minW={0} fontSize="13px" lineHeight={1.3}>
                <b>{requireTake(song, proposal.takeId).name}</b>
                {shown.length > 1 ? ` for “${lineTitle(requirePlacedLine(song, proposal.lineId))}”` : ''}{' '}
                <Box as="span" color="ink.soft">
                  : {proposal.reasons.map(reasonText).join(', ')} · {formatConfidence(proposal.confidence)} sure
                </Box>
              </Box>
              <Pill size="xs" disabled={isPicked(song, layer, proposal)} onClick={() => accept([proposal])}>
                {isPicked(song, layer, proposal) ? 'Picked' : 'Take it'}
              </Pill>
            </Flex>
          ))}
        </Box>
        <Flex direction="column" gap={2} flex="0 0 auto">
          <PrimaryButton size="sm" onClick={() => accept(proposals)}>
            Take all {count(proposals.length, 'line')}
          </PrimaryButton>
          {inSection.length > 0 ? <Pill onClick={() => accept(inSection)}>Take this section</Pill> : null}
          <Pill onClick={() => setBench({ panel: 'none' })}>Leave it</Pill>
        </Flex>
      </Flex>
    </Card>
  )
}

async function acceptProposals(layer: Layer, song: Song, proposals: readonly Proposal[]): Promise<void> {
  if (currentComp(layer).locked) return setBench({ lockedAsked: true })
  const wanted = proposals.map(proposal => {
    const line = requirePlacedLine(song, proposal.lineId)
    return { row: { layerId: layer.id, takeId: proposal.takeId }, stretch: { startFrame: line.startFrame, endFrame: line.endFrame, title: lineTitle(line) } }
  })
  await pickRows(proposals.length === 1 ? 'take the proposed line' : `take ${proposals.length} proposed lines`, wanted)
  setBench({ focus: null })
}

function isPicked(song: Song, layer: Layer, { lineId, takeId }: Proposal): boolean {
  const { startFrame, endFrame } = requirePlacedLine(song, lineId)
  const middle = (startFrame + endFrame) / 2
  return currentComp(layer).picks.some(pick => pick.takeId === takeId && pick.startFrame < middle && pick.endFrame > middle)
}

/** As the take's own strip says it. */
function lateText(milliseconds: number): string {
  const whole = Math.round(Math.abs(milliseconds))
  return whole === 0 ? '0 ms off' : `${whole} ms ${milliseconds > 0 ? 'late' : 'early'}`
}

function reasonText({ kind, amount }: Reason): string {
  const cents = `${Math.round(Math.abs(amount))} cents`
  switch (kind) {
    case 'in-tune':
      return `in tune (${cents} off the key)`
    case 'like-the-others':
      return `sings the line as most takes do (${cents})`
    case 'steady':
      return `steady (wavers ${cents})`
    case 'in-time':
      return `in time (${lateText(amount)} against your habit)`
    case 'together':
      return Math.abs(amount) > WORTH_A_WORD.lateMilliseconds
        ? `nearer in time than the other takes (${lateText(amount)})`
        : `in time with the other takes (${lateText(amount)})`
    case 'level':
      return 'as loud as the others'
    case 'quiet-room':
      return 'little noise'
    case 'unclipped':
      return 'not clipped'
    case 'same-take':
      return 'runs on from its neighbours without a seam'
    case 'only-one':
      return 'the only free take here'
  }
}

/** Blind listening: the takes of a stretch without their names, at equal loudness; knocked out until one is left. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { ranking, knockOut, takeBack, winnerOf, type BlindRound } from '../../../core/comp/blind'
import type { TakeId } from '../../../core/song/schema'
import { requireTake } from '../../../core/song/select'
import { Card, KeyCap, Pill, PrimaryButton } from '../../shared/parts'
import { play } from '../../song/live'
import { useView } from '../../song/view-store'
import { setBench, useBench } from './bench-store'
import { pickRow } from './comping'
import type { Bench } from './use-bench'

const letter = (index: number) => (index < 26 ? String.fromCharCode(65 + index) : String(index + 1))

export function BlindPanel({ bench, round }: { bench: Bench; round: BlindRound }) {
  const { song, layer, stretch } = bench
  const focus = useBench(state => state.focus)
  const winner = winnerOf(round)
  const change = (next: BlindRound) => setBench({ blind: next })
  const hear = (takeId: TakeId) => {
    setBench({ focus: { layerId: layer.id, takeId } })
    void play(useView.getState().loopRange?.startFrame)
  }
  const out = (takeId: TakeId) => {
    const next = knockOut(round, takeId)
    change(next)
    // A take that was knocked out stops sounding: the first one left plays instead.
    const left = next.order.find(id => !next.out.includes(id))
    if (focus?.takeId === takeId && left) setBench({ focus: { layerId: layer.id, takeId: left } })
  }
  const finish = async () => {
    if (winner) await pickRow({ layerId: layer.id, takeId: winner }, stretch)
    setBench({ blind: null, focus: null })
  }
  return (
    <Card flex="1 1 auto" minH={0} overflowY="auto" role="group" aria-label="Blind listening">
      <Text color="ink.soft" mb={3}>
        {winner ? 'One is left. Now the names:' : 'Equal loudness, random order, no names. Hear them, knock out what you like least until one is left.'}
      </Text>
      <Flex direction="column" gap={2} maxW="560px">
        {(winner ? ranking(round) : round.order).map((takeId, place) => {
          const gone = round.out.includes(takeId)
          const name = letter(round.order.indexOf(takeId))
          const playing = focus?.takeId === takeId
          return (
            <Flex key={takeId} align="center" gap={3} opacity={gone && !winner ? 0.45 : 1}>
              <Box fontFamily="heading" fontSize="22px" fontWeight={600} width="36px">
                {name}
              </Box>
              {winner ? (
                <Box flex="1">
                  {place + 1}. {requireTake(song, takeId).name}
                </Box>
              ) : (
                <>
                  <Pill chosen={playing} onClick={() => hear(takeId)}>
                    {playing ? 'Heard now' : `Hear ${name}`}
                  </Pill>
                  <Pill disabled={gone} aria-label={`Knock out ${name}`} onClick={() => out(takeId)}>
                    {gone ? 'Out' : 'Knock out'}
                  </Pill>
                </>
              )}
            </Flex>
          )
        })}
      </Flex>
      <Flex mt={4} gap={2}>
        {winner ? <PrimaryButton onClick={() => void finish()}>Pick {requireTake(song, winner).name}</PrimaryButton> : null}
        <Pill disabled={round.out.length === 0} onClick={() => change(takeBack(round))}>
          Take the last one back
        </Pill>
        <Pill onClick={() => setBench({ blind: null, focus: null })}>
          Leave it <KeyCap>Esc</KeyCap>
        </Pill>
      </Flex>
    </Card>
  )
}

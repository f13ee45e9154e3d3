/** Two finished files in turn at the same place, as loud as each other. */
import { Box, chakra, Flex, Text } from '@chakra-ui/react'
import { useEffect, useRef, useState } from 'react'
import { Card, KeyCap, Pill } from '../../shared/parts'
import type { DeliveryItem, ReadyDelivery } from './deliveries'

export type Compared = DeliveryItem & ReadyDelivery

const Sound = chakra('audio')

export function CompareTwo({ pair, onDone }: { pair: readonly [Compared, Compared]; onDone: () => void }) {
  const players = [useRef<HTMLAudioElement>(null), useRef<HTMLAudioElement>(null)] as const
  const [heard, setHeard] = useState(0)
  const [isPlaying, setPlaying] = useState(false)
  const loudness = pair.map(({ report }) => report?.encoded?.integratedLufs ?? report?.loudness.integratedLufs ?? -Infinity)
  const difference = Number.isFinite(loudness[0]! - loudness[1]!) ? loudness[0]! - loudness[1]! : 0
  // The louder one comes down: nothing is made to clip.
  const volumes = [10 ** (-Math.max(0, difference) / 20), 10 ** (-Math.max(0, -difference) / 20)]
  useEffect(() => {
    players.forEach(({ current }, i) => {
      if (!current) return
      current.volume = volumes[i]!
      current.muted = i !== heard
    })
  })
  const play = () => {
    const [first, second] = players.map(({ current }) => current!)
    if (isPlaying) for (const player of [first!, second!]) player.pause()
    else {
      second!.currentTime = first!.currentTime
      for (const player of [first!, second!]) void player.play().catch(() => setPlaying(false))
    }
    setPlaying(!isPlaying)
  }
  const turn = () => {
    const [from, to] = [players[heard]!.current!, players[1 - heard]!.current!]
    // They drift apart by what a browser needs to start each.
    if (Math.abs(from.currentTime - to.currentTime) > 0.02) to.currentTime = from.currentTime
    setHeard(1 - heard)
  }
  return (
    <Card
      mb={3}
      role="group"
      aria-label="Two files compared"
      onKeyDown={event => {
        if (event.key !== 'y' && event.key !== 'Y') return
        event.stopPropagation()
        turn()
      }}
    >
      <Flex align="center" gap={3} wrap="wrap">
        <Pill onClick={play}>{isPlaying ? 'Stop' : 'Play both'}</Pill>
        {pair.map(({ id, fileName, asked }, i) => (
          <Pill key={id} chosen={heard === i} onClick={() => heard !== i && turn()}>
            {fileName}
            {asked ? ` · version ${asked.version}` : ''}
          </Pill>
        ))}
        <Text color="ink.soft">
          in turn <KeyCap>Y</KeyCap>
        </Text>
        <Box flex="1" />
        <Pill size="xs" px={3} onClick={onDone}>
          Done
        </Pill>
      </Flex>
      <Text color="ink.soft" mt={2}>
        {Math.abs(difference) < 0.05
          ? 'Both are equally loud.'
          : `The ${difference > 0 ? 'first' : 'second'} is ${Math.abs(difference).toFixed(1)} dB louder, and is turned down by that here.`}
      </Text>
      {pair.map(({ id, url }, i) => (
        <Sound key={id} ref={players[i]} src={url!} preload="auto" onEnded={() => setPlaying(false)} />
      ))}
    </Card>
  )
}

/** The Shelf before the first song: what this is for, in one picture and three words. */
import { Box, Flex, Text } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import { ROLE_LOOKS } from '../../theme/roles'
import { useTheme } from '../../theme/theme-store'

type Look = keyof typeof ROLE_LOOKS

const STEPS: { word: string; what: string; cloths: { look: Look; seed: number; y: number; height: number }[] }[] = [
  { word: 'Drop', what: 'a beat', cloths: [{ look: 'beat', seed: 1, y: 75, height: 46 }] },
  {
    word: 'Sing',
    what: 'over it, as often as you like',
    cloths: [
      { look: 'beat', seed: 1, y: 112, height: 22 },
      { look: 'lead', seed: 2, y: 58, height: 40 },
    ],
  },
  {
    word: 'Layer',
    what: 'the best of it, into one voice',
    cloths: [
      { look: 'beat', seed: 1, y: 130, height: 14 },
      { look: 'low-harmony', seed: 5, y: 106, height: 14 },
      { look: 'double', seed: 3, y: 80, height: 18 },
      { look: 'lead', seed: 2, y: 48, height: 26 },
      { look: 'high-harmony', seed: 4, y: 18, height: 13 },
    ],
  },
]

export function EmptyShelf({ children }: { children: ReactNode }) {
  return (
    <Flex
      direction="column"
      justify="center"
      minH="calc(100vh - 160px)"
      align="center"
      gap={6}
      borderWidth="1px"
      borderStyle="dashed"
      borderColor="seamline"
      borderRadius="card"
      p="36px 24px"
      textAlign="center"
    >
      <Flex gap={{ base: 5, lg: 10 }} justify="center" wrap="wrap">
        {STEPS.map(({ word, what, cloths }) => (
          <Box key={word} width="280px">
            <svg viewBox="0 0 250 150" width={280} height={168} role="img" aria-label={`${word} ${what}`}>
              {cloths.map(cloth => (
                <Cloth key={cloth.look} {...cloth} />
              ))}
            </svg>
            <Text fontFamily="heading" fontSize="24px" fontWeight={600} mt={3}>
              {word}
            </Text>
            <Text color="ink.soft">{what}</Text>
          </Box>
        ))}
      </Flex>
      {children}
    </Flex>
  )
}

const WIDTH = 250
const STEP = 2.5

/** A band as sounds are drawn everywhere: a core in a lighter halo, and a voice's stitch along its middle. */
function Cloth({ look, seed, y, height }: { look: Look; seed: number; y: number; height: number }) {
  const theme = useTheme(state => state.theme)
  const { day, night, dayHalo, nightHalo, dashes } = ROLE_LOOKS[look]
  // Phrases and pauses: slow waves say how loud it is, quick ones how lively.
  const levelAt = (x: number) => {
    const phrase = look === 'beat' ? 0.6 : Math.max(0, Math.sin((x / WIDTH) * Math.PI * 4 - 0.6) * 0.75 + 0.3)
    const lively = 0.75 + 0.25 * Math.sin(x * 0.4 + seed * 2.1) * Math.sin(x * 0.13 + seed) + (look === 'beat' && x % 40 < 2 * STEP ? 0.4 : 0)
    return phrase * lively
  }
  const edge = (share: number) => {
    const xs = Array.from({ length: WIDTH / STEP + 1 }, (_, i) => i * STEP)
    const up = xs.map(x => `${x},${(y - (height / 2) * share * levelAt(x)).toFixed(1)}`)
    const down = xs.reverse().map(x => `${x},${(y + (height / 2) * share * levelAt(x)).toFixed(1)}`)
    return [...up, ...down].join(' ')
  }
  const core = theme === 'day' ? day : night
  return (
    <g>
      <line x1={0} x2={WIDTH} y1={y} y2={y} stroke={core} strokeOpacity={0.45} />
      <polygon points={edge(1.6)} fill={theme === 'day' ? dayHalo : nightHalo} />
      <polygon points={edge(1)} fill={core} />
      {look === 'beat' ? null : (
        <line x1={0} x2={WIDTH} y1={y} y2={y} stroke="var(--chakra-colors-ground)" strokeWidth={1.4} strokeDasharray={dashes.join(' ') || '7 5'} />
      )}
    </g>
  )
}

/** The tone of two sounds, third by third of an octave. */
import { Box } from '@chakra-ui/react'
import { Line, LineChart, ResponsiveContainer, XAxis, YAxis } from 'recharts'

interface ToneChartProps {
  mix: { hz: number; decibels: number }[]
  reference: { hz: number; decibels: number }[]
  /** What it shows, in words. */
  says: string
  height?: number
}

const TICKS = [63, 250, 1_000, 4_000, 16_000]
const label = (hz: number) => (hz >= 1_000 ? `${hz / 1_000}k` : String(hz))

export default function ToneChart({ mix, reference, says, height = 140 }: ToneChartProps) {
  const points = mix.map(({ hz, decibels }, i) => ({ hz, yours: decibels, other: reference[i]!.decibels }))
  return (
    <Box mt={2} role="img" aria-label={says}>
      <ResponsiveContainer width="100%" height={height}>
        <LineChart data={points} margin={{ top: 4, right: 8, bottom: 0, left: -18 }}>
          <XAxis
            dataKey="hz"
            type="number"
            scale="log"
            domain={[40, 16_000]}
            ticks={TICKS}
            tickFormatter={label}
            fontSize={11}
            stroke="var(--chakra-colors-ink-soft)"
          />
          <YAxis domain={[-50, 0]} ticks={[-40, -20, 0]} fontSize={11} stroke="var(--chakra-colors-ink-soft)" />
          <Line dataKey="yours" dot={false} isAnimationActive={false} stroke="var(--chakra-colors-brand)" strokeWidth={2} />
          <Line dataKey="other" dot={false} isAnimationActive={false} stroke="var(--chakra-colors-ink-soft)" strokeWidth={2} strokeDasharray="5 4" />
        </LineChart>
      </ResponsiveContainer>
    </Box>
  )
}

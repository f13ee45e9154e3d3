/** What an opened step does to the selected stretch: louder or softer over time, and the tone before and after it. Listened to anew when either changes. */
import { Box, Text } from '@chakra-ui/react'
import { line } from 'd3-shape'
import { lazy, Suspense, useEffect, useEffectEvent, useState } from 'react'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import type { RecipePlace } from '../../../core/mix/recipes'
import { CHANGES_A_SECOND, type WhatStepDoes } from '../../../core/mix/what-step-does'
import type { RecipeStep } from '../../../core/song/mix-schema'
import { runJob } from '../../../workers/run-job'
import { signedTenth } from '../../shared/format'
import { Pill } from '../../shared/parts'
import { currentSong, useSong } from '../../song/song-store'
import { rangeOf, useView } from '../../song/view-store'

const ToneChart = lazy(() => import('./tone-chart'))

/** Longer stretches take long, and say no more. */
const MOST_FRAMES = 20 * SAMPLE_RATE_HZ
const RESTS_MILLISECONDS = 400

type Heard = { kind: 'listening' } | { kind: 'heard'; does: WhatStepDoes | null } | { kind: 'failed' }

export function StepDoes({ place, step }: { place: RecipePlace; step: RecipeStep }) {
  const [open, setOpen] = useState(false)
  return (
    <Box mt={3}>
      <Pill size="xs" px={3} aria-expanded={open} onClick={() => setOpen(!open)}>
        What it does here
      </Pill>
      {open ? <Opened place={place} step={step} /> : null}
    </Box>
  )
}

function Opened({ place, step }: { place: RecipePlace; step: RecipeStep }) {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const { startFrame, endFrame } = rangeOf(song, selection)
  const [heard, setHeard] = useState<Heard>({ kind: 'listening' })
  const listen = useEffectEvent((signal: AbortSignal) => {
    setHeard({ kind: 'listening' })
    const range = { startFrame, endFrame: Math.min(endFrame, startFrame + MOST_FRAMES) }
    void runJob('readStep', { song: currentSong(), place, stepId: step.id, range }, { signal, onProgress: () => {} }).then(result => {
      if (result.kind === 'done') setHeard({ kind: 'heard', does: result.value })
      else if (result.kind === 'failed') setHeard({ kind: 'failed' })
    })
  })
  const settings = JSON.stringify([place, step])
  useEffect(() => {
    const abort = new AbortController()
    const begin = setTimeout(() => listen(abort.signal), RESTS_MILLISECONDS)
    return () => {
      clearTimeout(begin)
      abort.abort()
    }
  }, [settings, startFrame, endFrame])
  if (heard.kind !== 'heard')
    return (
      <Text mt={2} color="ink.soft" role="status">
        {heard.kind === 'listening' ? 'Listening …' : 'It could not be listened to. Close it and open it again.'}
      </Text>
    )
  if (!heard.does) return <Text mt={2}>Nothing that goes through it sounds in what is selected.</Text>
  return <Shown does={heard.does} />
}

function Shown({ does: { changeDecibels, tone } }: { does: WhatStepDoes }) {
  const known = changeDecibels.filter(change => change !== null)
  const [least, most] = [Math.min(...known), Math.max(...known)]
  const usual = known.toSorted((a, b) => a - b)[known.length >> 1]!
  const seconds = changeDecibels.length / CHANGES_A_SECOND
  return (
    <>
      <Text mt={2} fontSize="12px" color="ink.soft">
        Louder or softer over {seconds.toFixed(1)} s: from {signedTenth(least)} to {signedTenth(most)} dB, as a rule {signedTenth(usual)}
      </Text>
      <OverTime changes={changeDecibels} least={least} most={most} />
      <Text mt={2} fontSize="12px" color="ink.soft">
        Its tone before (dashed) and after
      </Text>
      <Suspense fallback={<Box height="110px" />}>
        <ToneChart
          mix={tone.map(({ hz, after }) => ({ hz, decibels: after }))}
          reference={tone.map(({ hz, before }) => ({ hz, decibels: before }))}
          says="Tone by frequency: after the step as a whole line, before it dashed"
          height={110}
        />
      </Suspense>
    </>
  )
}

function OverTime({ changes, least, most }: { changes: WhatStepDoes['changeDecibels']; least: number; most: number }) {
  const [low, high] = [Math.min(-6, least), Math.max(1, most)]
  const y = (decibels: number) => (100 * (high - decibels)) / (high - low)
  const path = line<number | null>()
    .defined(change => change !== null)
    .x((_, i) => (100 * i) / Math.max(1, changes.length - 1))
    .y(change => y(change!))
  return (
    <Box mt={1} bg="sunken" borderRadius="10px" px={1} aria-hidden>
      <svg viewBox="0 -2 100 104" width="100%" height={64} preserveAspectRatio="none">
        <line x1={0} x2={100} y1={y(0)} y2={y(0)} stroke="var(--chakra-colors-seamline)" strokeDasharray="3 3" vectorEffect="non-scaling-stroke" />
        <path d={path(changes) ?? ''} fill="none" stroke="var(--chakra-colors-brand)" strokeWidth={1.5} vectorEffect="non-scaling-stroke" />
      </svg>
    </Box>
  )
}

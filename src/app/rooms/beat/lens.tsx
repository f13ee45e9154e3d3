/** The lens: a bar or so of the beat, near enough to see each stroke, to put bar one exactly where it belongs. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { memo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { useShallow } from 'zustand/shallow'
import { decibelsToGain } from '../../../core/audio/decibels'
import { framesToSeconds, secondsToFrames } from '../../../core/audio/frames'
import { barCountUntil, frameOfBar, frameOfBeat, framesPerBeat, withBarOneAt, withBarOneOnBeat } from '../../../core/beat/grid'
import type { TempoReading } from '../../../core/beat/tempo'
import { BeatCloth } from '../../shared/beat-cloth'
import { BarLines } from '../../shared/bar-lines'
import { formatConfidence } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { Playhead } from '../../shared/playhead'
import { runJob } from '../../../workers/run-job'
import { ensureEngine, playheadFrame, seek } from '../../song/live'
import { useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { keepGrid } from './keep-grid'

const MILLISECOND = 48

export const Lens = memo(function Lens({ heard }: { heard: readonly TempoReading[] }) {
  const { grid, frames } = useSong(song => song.beat)
  const [bar, setBar] = useState(1)
  const [dragged, setDragged] = useState<number | null>(null)
  const box = useRef<HTMLDivElement>(null)
  const lastBar = barCountUntil(grid, frames)
  const shownBar = Math.min(bar, lastBar)
  const beat = framesPerBeat(grid)
  const shown = dragged === null ? grid : withBarOneAt(grid, grid.barOneFrame + dragged)
  const startFrame = Math.round(frameOfBar(grid, shownBar) - 0.75 * beat)
  const view = { startFrame, endFrame: Math.round(startFrame + (grid.beatsPerBar + 1.5) * beat) }
  const framesPerPixel = () => (view.endFrame - view.startFrame) / (box.current?.clientWidth ?? 1)
  const nudge = (frameCount: number) =>
    keepGrid(`move bar one by ${Math.round(frameCount / MILLISECOND)} ms`, current => withBarOneAt(current, current.barOneFrame + frameCount))
  const from = useRef(0)
  const grab = (event: PointerEvent) => {
    event.currentTarget.setPointerCapture(event.pointerId)
    from.current = event.clientX
    setDragged(0)
  }
  const drop = (event: PointerEvent) => {
    const moved = Math.round((event.clientX - from.current) * framesPerPixel())
    setDragged(null)
    if (Math.abs(event.clientX - from.current) > 2) nudge(moved)
    else seek(Math.round(view.startFrame + (event.clientX - box.current!.getBoundingClientRect().left) * framesPerPixel()))
  }
  const keys = (event: KeyboardEvent) => {
    const step = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0
    if (step === 0) return
    event.preventDefault()
    event.stopPropagation()
    nudge(step * MILLISECOND * (event.shiftKey ? 10 : 1))
  }
  return (
    <Card mt={3} py={3}>
      <Flex align="center" gap={2} wrap="wrap">
        <CardTitle>Bar one</CardTitle>
        <Box ml={2}>
          at{' '}
          <NumberField
            label="Bar one"
            value={framesToSeconds(grid.barOneFrame)}
            min={-30}
            max={600}
            digits={3}
            unit="s"
            width="70px"
            onKeep={seconds => keepGrid('move bar one', current => withBarOneAt(current, secondsToFrames(seconds)))}
          />
        </Box>
        <Pill onClick={() => nudge(-5 * MILLISECOND)}>5 ms earlier</Pill>
        <Pill onClick={() => nudge(5 * MILLISECOND)}>5 ms later</Pill>
        <Pill onClick={() => keepGrid('move bar one by a beat', current => withBarOneOnBeat(current, 1))}>One beat later</Pill>
        <FindBarOne />
        <Pill
          onClick={() => keepGrid('set bar one here', current => withBarOneAt(current, Math.round(playheadFrame())))}
          title="Where the playhead stands: click on a stroke below first"
        >
          Bar one is here
        </Pill>
        <Box ml="auto" color="ink.soft">
          looking at bar{' '}
          <NumberField label="Bar in the lens" value={shownBar} min={1} max={lastBar} digits={0} width="44px" onKeep={next => setBar(Math.round(next))} />
        </Box>
      </Flex>
      <CheckByEar bar={shownBar} />
      <BarOneChoices reading={readingOfGrid(heard, grid.tempoBpm)} />
      <Box
        ref={box}
        position="relative"
        height="84px"
        mt={2}
        bg="sunken"
        borderRadius="10px"
        overflow="hidden"
        cursor="ew-resize"
        touchAction="none"
        role="slider"
        tabIndex={0}
        aria-label="Bar one; arrow keys move it by a millisecond, with shift by ten"
        aria-valuemin={-30}
        aria-valuemax={600}
        aria-valuenow={framesToSeconds(grid.barOneFrame)}
        aria-valuetext={`${framesToSeconds(grid.barOneFrame).toFixed(3)} seconds`}
        onPointerDown={grab}
        onPointerMove={event => dragged !== null && setDragged(Math.round((event.clientX - from.current) * framesPerPixel()))}
        onPointerUp={drop}
        onKeyDown={keys}
      >
        <BeatCloth view={view} label="One bar of the beat" position="absolute" inset="26px 0 0 0" />
        <BarLines grid={shown} view={view} top="12px" />
        <Box
          aria-hidden
          position="absolute"
          top={0}
          bottom={0}
          width="2px"
          bg="brand"
          left={`${((frameOfBeat(shown, (shownBar - 1) * grid.beatsPerBar) - view.startFrame) / (view.endFrame - view.startFrame)) * 100}%`}
        />
        <Playhead view={view} />
      </Box>
    </Card>
  )
})

function readingOfGrid(heard: readonly TempoReading[], tempoBpm: number): TempoReading | null {
  return heard.find(reading => Math.abs(reading.tempoBpm / tempoBpm - 1) < 0.001) ?? null
}

/** The places where bar one may have been meant. */
function BarOneChoices({ reading }: { reading: TempoReading | null }) {
  const grid = useSong(song => song.beat.grid)
  if (!reading || reading.barOnes.length < 2) return null
  return (
    <Flex gap={2} mt={2} wrap="wrap" align="center">
      <Text color="ink.soft">Heard:</Text>
      {reading.barOnes.map(({ seconds, confidence }) => {
        const frame = secondsToFrames(seconds)
        return (
          <Pill
            key={seconds}
            chosen={Math.abs(frame - grid.barOneFrame) < 480}
            onClick={() => keepGrid('take another bar one', current => withBarOneAt(current, frame))}
          >
            {seconds.toFixed(2)} s · {formatConfidence(confidence)}
          </Pill>
        )
      })}
    </Flex>
  )
}

const FLAM_BARS = 2

/** The click over the beat, at its own level, and at half speed, where an early or late stroke is plain. */
function CheckByEar({ bar }: { bar: number }) {
  const song = useSong(current => current)
  const { clicking, clickDecibels } = useView(useShallow(state => ({ clicking: state.clicking, clickDecibels: state.clickDecibels })))
  const [slow, setSlow] = useState<'making' | 'playing' | null>(null)
  const hearSlowly = async () => {
    const engine = await ensureEngine()
    if (slow === 'playing') {
      setSlow(null)
      return engine?.playBeside(null)
    }
    setSlow('making')
    const { grid } = song.beat
    const startFrame = Math.max(0, frameOfBar(grid, bar) - Math.round(framesPerBeat(grid) / 4))
    const result = await runJob('flamTest', {
      song,
      startFrame,
      frames: Math.round(FLAM_BARS * grid.beatsPerBar * framesPerBeat(grid)),
      clickGain: decibelsToGain(clickDecibels),
    })
    setSlow(result.kind === 'done' ? 'playing' : null)
    if (result.kind === 'done') await engine?.playBeside(result.value, true)
  }
  return (
    <Flex gap={2} mt={2} align="center" wrap="wrap" color="ink.soft">
      <Pill chosen={clicking} onClick={() => useView.setState({ clicking: !clicking })} title="K. Play, and listen whether the click sits on the beat">
        Click over the beat
      </Pill>
      <Pill
        chosen={slow === 'playing'}
        disabled={slow === 'making'}
        onClick={() => void hearSlowly()}
        title="Two bars round and round, half as fast at the same pitch"
      >
        {slow === 'playing' ? 'Stop' : slow === 'making' ? 'Slowing it down …' : 'Both at half speed'}
      </Pill>
      <Box>
        click at{' '}
        <NumberField
          label="Click level"
          value={clickDecibels}
          min={-40}
          max={0}
          digits={0}
          unit="dB"
          width="44px"
          onKeep={decibels => useView.setState({ clickDecibels: decibels })}
        />
      </Box>
    </Flex>
  )
}

/** The tempo is trusted as it stands; only where bar one falls is listened for. */
function FindBarOne() {
  const { assetId, grid } = useSong(song => song.beat)
  const [state, setState] = useState<'busy' | 'none' | null>(null)
  const find = async () => {
    setState('busy')
    const result = await runJob('hearTempo', { assetId, wish: { tempoBpm: grid.tempoBpm } })
    const reading = result.kind === 'done' ? result.value.readings[0] : undefined
    setState(reading ? null : 'none')
    if (reading) keepGrid('find bar one', current => withBarOneAt(current, secondsToFrames(reading.barOnes[0]!.seconds)))
  }
  return (
    <Pill disabled={state === 'busy'} onClick={() => void find()} title="Trusts the tempo as it is set">
      {state === 'busy' ? 'Listening …' : state === 'none' ? 'No bar one heard' : 'Find it'}
    </Pill>
  )
}

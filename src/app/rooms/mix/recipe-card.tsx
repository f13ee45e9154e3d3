/** The vocal recipe: low cut, compressor, gentle high shelf, each with its curve and its numbers. */
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { line } from 'd3-shape'
import { useCallback, useRef } from 'react'
import { highPass, highShelf, responseDecibels } from '../../../core/effects/biquad'
import { setVocalBus } from '../../../core/mix/commands'
import { compressedDecibels } from '../../../core/effects/compressor'
import type { Recipe, Song } from '../../../core/song/schema'
import { TRANSPORT } from '../../../engine/shared-state'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { SongSlider } from '../../shared/song-slider'
import { say, useFrameLoop } from '../../shared/use-frame-loop'
import { useLive } from '../../song/live'
import { edit, useSong, useSongStore } from '../../song/song-store'

type Change = (recipe: Recipe, value: number) => Recipe
/** Commands that change one number of the recipe. */
const changing = (change: Change) => (song: Song, value: number) => setVocalBus(song, { recipe: change(song.vocalBus.recipe, value) })
const setCutoff = changing((recipe, cutoffHz) => ({ ...recipe, lowCut: { cutoffHz } }))
const compressor = (name: keyof Recipe['compressor']) => changing((recipe, value) => ({ ...recipe, compressor: { ...recipe.compressor, [name]: value } }))
const setThreshold = compressor('thresholdDecibels')
const setRatio = compressor('ratio')
const setAttack = changing((recipe, milliseconds) => ({ ...recipe, compressor: { ...recipe.compressor, attackSeconds: milliseconds / 1_000 } }))
const setRelease = changing((recipe, milliseconds) => ({ ...recipe, compressor: { ...recipe.compressor, releaseSeconds: milliseconds / 1_000 } }))
const setMakeup = compressor('makeupDecibels')
const setShelfGain = changing((recipe, gainDecibels) => ({ ...recipe, shelf: { ...recipe.shelf, gainDecibels } }))
const setShelfCorner = changing((recipe, cornerHz) => ({ ...recipe, shelf: { ...recipe.shelf, cornerHz } }))

export function RecipeCard() {
  const kept = useSong(song => song.vocalBus.recipe)
  // The curves follow a control while it moves.
  const recipe = useSongStore(state => state.trial?.vocalBus.recipe) ?? kept
  const { compressor: settings } = recipe
  return (
    <Card>
      <Flex justify="space-between" align="center" mb={3}>
        <CardTitle>Recipe on the vocal bus</CardTitle>
        <Pill
          chosen={kept.enabled}
          onClick={() =>
            edit(kept.enabled ? 'take the recipe off' : 'put the recipe on', song =>
              setVocalBus(song, { recipe: { ...song.vocalBus.recipe, enabled: !kept.enabled } }),
            )
          }
        >
          {kept.enabled ? 'On' : 'Off'}
        </Pill>
      </Flex>
      <Grid templateColumns="repeat(3, 1fr)" gap={2} mb={3}>
        <Curve
          title="Low cut"
          note={`${Math.round(recipe.lowCut.cutoffHz)} Hz`}
          range={[-24, 6]}
          at={x => responseDecibels(highPass(recipe.lowCut.cutoffHz), hzAt(x))}
        />
        <Curve
          title="Compressor"
          note={`${settings.ratio.toFixed(1)}:1`}
          range={[-60, 0]}
          at={x => compressedDecibels(60 * x - 60, settings.thresholdDecibels, settings.ratio)}
          below={<Reduction />}
        />
        <Curve
          title="Air"
          note={`${recipe.shelf.gainDecibels > 0 ? '+' : ''}${recipe.shelf.gainDecibels.toFixed(1)} dB`}
          range={[-12, 12]}
          at={x => responseDecibels(highShelf(recipe.shelf.cornerHz, recipe.shelf.gainDecibels), hzAt(x))}
        />
      </Grid>
      <Flex direction="column" gap="6px">
        <SongSlider
          label="Low cut frequency"
          showLabel="Low cut"
          value={kept.lowCut.cutoffHz}
          min={20}
          max={400}
          step={5}
          digits={0}
          unit="Hz"
          stepLabel="set the low cut"
          command={setCutoff}
        />
        <SongSlider
          label="Compressor threshold"
          showLabel="Threshold"
          value={kept.compressor.thresholdDecibels}
          min={-60}
          max={0}
          step={0.5}
          unit="dB"
          stepLabel="set the threshold"
          command={setThreshold}
        />
        <SongSlider
          label="Compressor ratio"
          showLabel="Ratio"
          value={kept.compressor.ratio}
          min={1}
          max={20}
          step={0.1}
          unit=": 1"
          stepLabel="set the ratio"
          command={setRatio}
        />
        <SongSlider
          label="Compressor attack"
          showLabel="Attack"
          value={kept.compressor.attackSeconds * 1_000}
          min={0.5}
          max={200}
          step={0.5}
          unit="ms"
          stepLabel="set the attack"
          command={setAttack}
        />
        <SongSlider
          label="Compressor release"
          showLabel="Release"
          value={kept.compressor.releaseSeconds * 1_000}
          min={10}
          max={2_000}
          step={10}
          digits={0}
          unit="ms"
          stepLabel="set the release"
          command={setRelease}
        />
        <SongSlider
          label="Compressor make-up gain"
          showLabel="Make-up"
          value={kept.compressor.makeupDecibels}
          min={-12}
          max={24}
          step={0.5}
          unit="dB"
          stepLabel="set the make-up gain"
          command={setMakeup}
        />
        <SongSlider
          label="High shelf gain"
          showLabel="Air"
          value={kept.shelf.gainDecibels}
          min={-12}
          max={12}
          step={0.5}
          unit="dB"
          stepLabel="set the air"
          command={setShelfGain}
        />
        <SongSlider
          label="High shelf corner"
          showLabel="Air from"
          value={kept.shelf.cornerHz}
          min={1_000}
          max={16_000}
          step={100}
          digits={0}
          unit="Hz"
          stepLabel="set the air's corner"
          command={setShelfCorner}
        />
      </Flex>
    </Card>
  )
}

/** 20 Hz at the left, 20 kHz at the right. */
function hzAt(x: number): number {
  return 20 * 1_000 ** x
}

const WIDTH = 100
const HEIGHT = 70

function Curve({
  title,
  note,
  range: [low, high],
  at,
  below,
}: {
  title: string
  note: string
  range: [number, number]
  at: (x: number) => number
  below?: React.ReactNode
}) {
  const points = Array.from({ length: 51 }, (_, i): [number, number] => [
    (i / 50) * WIDTH,
    HEIGHT - ((Math.max(low, Math.min(high, at(i / 50))) - low) / (high - low)) * HEIGHT,
  ])
  return (
    <Box bg="sunken" borderRadius="10px" p={2}>
      <Text fontWeight={600} fontSize="13px">
        {title}
      </Text>
      <svg viewBox={`0 -2 ${WIDTH} ${HEIGHT + 4}`} width="100%" height="70" preserveAspectRatio="none" aria-hidden>
        <path d={line()(points) ?? ''} fill="none" stroke="var(--chakra-colors-brand)" strokeWidth={2.5} vectorEffect="non-scaling-stroke" />
      </svg>
      <Flex justify="space-between" color="ink.soft" fontSize="12px">
        <span>{note}</span>
        {below}
      </Flex>
    </Box>
  )
}

/** How much the compressor takes away now. */
function Reduction() {
  const text = useRef<HTMLSpanElement>(null)
  const draw = useCallback(() => {
    const { engine, playing } = useLive.getState()
    say(text.current, engine && playing ? `-${engine.transport[TRANSPORT.compressorReductionDecibels]!.toFixed(1)}` : '')
  }, [])
  useFrameLoop(draw)
  return <span ref={text} />
}

/** A recipe to begin with, by its name or from a file; as a file; and how much of it. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { useCallback, useState } from 'react'
import { RECIPE_NAMES, stepsOfNamed, WHOLE_NAMES } from '../../../core/mix/named-recipes'
import { readRecipe, writeRecipe } from '../../../core/mix/recipe-file'
import { layRecipe, setRecipe, type RecipePlace } from '../../../core/mix/recipes'
import type { Recipe, RecipeStep } from '../../../core/song/mix-schema'
import type { Role, Song } from '../../../core/song/schema'
import { makeId } from '../../../storage/database'
import { ChooseFile } from '../../shared/choose-file'
import { Notice, Pill } from '../../shared/parts'
import { saveBlob } from '../../shared/save-blob'
import { SongSlider } from '../../shared/song-slider'
import { currentSong, edit } from '../../song/song-store'
import { hearWithout } from './hear-without'
import { useMix } from './mix-store'

const roleOf = (song: Song, place: RecipePlace): Role | null =>
  place.kind === 'role' ? place.role : place.kind === 'layer' ? (song.layers.find(({ id }) => id === place.layerId)?.role ?? null) : null

/** A recipe to begin with, by its name or from a file; and how much of it. */
export function BeginRecipe({ place, recipe }: { place: RecipePlace; recipe: Recipe }) {
  const [problem, setProblem] = useState<string | null>(null)
  const lay = (name: string, steps: readonly RecipeStep[], amount = 1) => {
    edit(`lay the recipe “${name}”`, song => layRecipe(song, { place, steps, amount }))
    useMix.setState({ stepId: null })
    setProblem(null)
  }
  const bringIn = async (file: File) => {
    const read = file.size > MOST_RECIPE_BYTES ? ({ ok: false, why: 'no-recipe' } as const) : readRecipe(await file.text(), makeId)
    if (read.ok) lay(read.recipe.name, read.recipe.steps, read.recipe.amount)
    else setProblem(`${file.name}: ${READ_WORDS[read.why]}${'where' in read && read.where ? ` (${read.where})` : ''}. The recipe here is as it was.`)
  }
  const setAmount = useCallback((song: Song, percent: number) => setRecipe(song, { place, amount: percent / 100 }), [place])
  return (
    <Box mb={2}>
      <Flex gap="6px" wrap="wrap" align="center" role="group" aria-label="Begin with a recipe">
        <Text color="ink.soft" fontSize="12px">
          Begin with
        </Text>
        {(place.kind === 'mix' ? WHOLE_NAMES : RECIPE_NAMES).map(name => (
          <Pill key={name} size="xs" px={3} onClick={() => lay(name, stepsOfNamed(name, roleOf(currentSong(), place), makeId))}>
            {name}
          </Pill>
        ))}
        <ChooseFile size="xs" px={3} label="A recipe file" accept=".json,application/json" onChoose={file => void bringIn(file)}>
          a file …
        </ChooseFile>
        {recipe.steps.length > 0 ? (
          <Pill size="xs" px={3} title="The recipe left out, at equal loudness" onClick={() => hearWithout(place, null)}>
            Without it
          </Pill>
        ) : null}
        {recipe.steps.length > 0 ? (
          <Pill size="xs" px={3} onClick={() => saveBlob(new Blob([writeRecipe('My recipe', recipe)], { type: 'application/json' }), 'recipe.json')}>
            Save as a file
          </Pill>
        ) : null}
      </Flex>
      {problem ? (
        <Box mt={2}>
          <Notice tone="warn" title="This recipe could not be read">
            {problem}
          </Notice>
        </Box>
      ) : null}
      {recipe.steps.length > 0 ? (
        <Box mt={2}>
          <SongSlider
            label="How much of the recipe"
            showLabel="How much"
            value={100 * recipe.amount}
            min={0}
            max={100}
            step={1}
            digits={0}
            unit="%"
            stepLabel="set how much of the recipe"
            command={setAmount}
          />
        </Box>
      ) : null}
    </Box>
  )
}

const MOST_RECIPE_BYTES = 1_000_000
const READ_WORDS = {
  'no-recipe': 'it is not a recipe file',
  newer: 'it was written by a later version of this app',
  damaged: 'a value in it is missing or out of its range',
} as const

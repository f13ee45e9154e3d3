/** A recipe as a row of small pictures; the chosen step opens to its values. */
import { Box, chakra, Flex, Grid, NativeSelect, Text } from '@chakra-ui/react'
import { ArrowLeft, ArrowRight, Trash2 } from 'lucide-react'
import { useCallback, useRef } from 'react'
import { addStep, moveStep, recipeAt, removeStep, setRecipe, setStep, type RecipePlace } from '../../../core/mix/recipes'
import { MOST_STEPS, type RecipeStep, type StepId } from '../../../core/song/mix-schema'
import type { Role, Song } from '../../../core/song/schema'
import { BUS_NAMES, ROLES } from '../../../core/layers/roles'
import { TRANSPORT } from '../../../engine/shared-state'
import { Card, CardTitle, KeyCap, Pill, SmallButton } from '../../shared/parts'
import { say, useFrameLoop } from '../../shared/use-frame-loop'
import { useMatching } from '../../song/equal-loudness'
import { useLive } from '../../song/live'
import { edit, useSong, useSongStore } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { BeginRecipe } from './begin-recipe'
import { AddPills } from './add-pills'
import { useMix } from './mix-store'
import { SettingSliders } from './setting-sliders'
import { stepNote, STEP_NAMES } from './setting-words'
import { StepDoes } from './step-does'
import { StepPicture } from './step-picture'
import { hearWithout, isWithout } from './hear-without'

const makeId = () => crypto.randomUUID()

/** The place that is looked at, as long as it is in the song. */
function usePlace(): RecipePlace {
  const place = useMix(state => state.place)
  const isThere = useSong(song => place.kind !== 'layer' || song.layers.some(layer => layer.id === place.layerId))
  return isThere ? place : { kind: 'all' }
}

export function RecipeSheet() {
  const place = usePlace()
  const kept = useSong(song => recipeAt(song, place))
  // The pictures follow a control while it moves.
  const recipe = useSongStore(state => (state.trial ? recipeAt(state.trial, place) : null)) ?? kept
  const asked = useMix(state => state.stepId)
  const chosen = kept.steps.find(step => step.id === asked) ?? kept.steps[0] ?? null
  return (
    <Card p={3}>
      <Flex justify="space-between" align="center" gap={2} mb={2}>
        <CardTitle>Recipe</CardTitle>
        <PlaceSelect place={place} />
        <Pill
          chosen={kept.enabled}
          onClick={() => edit(kept.enabled ? 'take the recipe off' : 'put the recipe on', song => setRecipe(song, { place, enabled: !kept.enabled }))}
        >
          {kept.enabled ? 'On' : 'Off'}
        </Pill>
      </Flex>
      <BeginRecipe place={place} recipe={kept} />
      {kept.steps.length === 0 ? (
        <Text color="ink.soft" mb={2}>
          Nothing is done here. Add a step: it is heard at once.
        </Text>
      ) : (
        <Grid
          as="ol"
          aria-label="Steps, first to last"
          templateColumns="repeat(4, minmax(0, 1fr))"
          gap={2}
          mb={2}
          listStyleType="none"
          opacity={kept.enabled ? 1 : 0.6}
        >
          {recipe.steps.map((step, i) => (
            <li key={step.id}>
              <StepCard step={step} number={i + 1} chosen={step.id === chosen?.id} />
            </li>
          ))}
        </Grid>
      )}
      {chosen ? <StepEditor key={chosen.id} place={place} step={chosen} at={kept.steps.indexOf(chosen)} of={kept.steps.length} /> : null}
      <Box mt={3} pt={2} borderTopWidth="1px" borderStyle="dashed" borderColor="seamline">
        <AddStep place={place} full={kept.steps.length >= MOST_STEPS} />
      </Box>
    </Card>
  )
}

function PlaceSelect({ place }: { place: RecipePlace }) {
  const layers = useSong(song => song.layers)
  const roles = ROLES.filter(role => layers.some(layer => layer.role === role))
  const value = place.kind === 'role' ? `role ${place.role}` : place.kind === 'layer' ? `layer ${place.layerId}` : place.kind
  return (
    <NativeSelect.Root size="xs" flex="1">
      <NativeSelect.Field
        aria-label="Whose recipe"
        bg="card"
        borderColor="seamline"
        value={value}
        onChange={event => {
          const [kind, id] = event.target.value.split(/ (.*)/) as [string, string]
          const chosen: RecipePlace =
            kind === 'all' || kind === 'mix'
              ? { kind }
              : kind === 'role'
                ? { kind: 'role', role: id as Role }
                : { kind: 'layer', layerId: layers.find(layer => layer.id === id)!.id }
          useMix.setState({ place: chosen, stepId: null })
        }}
      >
        <option value="mix">of the whole mix, voices and beat</option>
        <option value="all">of all voices together</option>
        {roles.map(role => (
          <option key={role} value={`role ${role}`}>
            of the role: {BUS_NAMES[role]}
          </option>
        ))}
        {layers.map(layer => (
          <option key={layer.id} value={`layer ${layer.id}`}>
            of {layer.name} only
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  )
}

const Picture = chakra('button', {
  base: {
    display: 'block',
    width: '100%',
    p: '6px 8px',
    bg: 'sunken',
    borderRadius: '10px',
    borderWidth: '1.5px',
    borderColor: 'transparent',
    cursor: 'pointer',
    textAlign: 'left',
    fontSize: '12px',
    _pressed: { borderColor: 'brand', borderStyle: 'dashed' },
  },
})

const settingsOf = (step: RecipeStep) => step as unknown as Record<string, number>

function StepCard({ step, number, chosen }: { step: RecipeStep; number: number; chosen: boolean }) {
  const name = STEP_NAMES[step.kind]
  const note = stepNote(step.kind, settingsOf(step))
  return (
    <Picture
      aria-pressed={chosen}
      aria-label={`${number}. ${name}, ${note}${step.enabled ? '' : ', off'}`}
      onClick={() => useMix.setState({ stepId: step.id })}
    >
      <Text fontWeight={600} truncate textDecoration={step.enabled ? 'none' : 'line-through'}>
        {name}
      </Text>
      <Box opacity={step.enabled ? 1 : 0.35}>
        <StepPicture kind={step.kind} settings={settingsOf(step)} />
      </Box>
      <Text color="ink.soft" truncate>
        {step.enabled ? note : 'off'}
      </Text>
    </Picture>
  )
}

function AddStep({ place, full }: { place: RecipePlace; full: boolean }) {
  if (full) return <Text color="ink.soft">A recipe holds {MOST_STEPS} steps: this one is full.</Text>
  return (
    <AddPills
      label="Add a step"
      names={STEP_NAMES}
      spoken={kind => `Add ${STEP_NAMES[kind]}`}
      onAdd={kind => {
        const id = makeId()
        edit(`add ${STEP_NAMES[kind]}`, song => addStep(song, { place, kind, makeId: () => id }))
        useMix.setState({ stepId: id as StepId })
      }}
    />
  )
}

function StepEditor({ place, step, at, of }: { place: RecipePlace; step: RecipeStep; at: number; of: number }) {
  const name = STEP_NAMES[step.kind]
  const command = useCallback((song: Song, settings: Record<string, number>) => setStep(song, { place, stepId: step.id, settings }), [place, step.id])
  const move = (by: number) => edit(`move ${name}`, song => moveStep(song, { place, stepId: step.id, by }))
  return (
    <Box mt={3} pt={2} borderTopWidth="1px" borderStyle="dashed" borderColor="seamline" role="group" aria-label={name}>
      <Flex align="center" gap={1} mb={2}>
        <Text fontWeight={600} flex="1">
          {name} {step.kind === 'compressor' && place.kind === 'all' ? <Reduction /> : null}
        </Text>
        <SmallButton aria-label={`${name} earlier`} title="Earlier" disabled={at === 0} onClick={() => move(-1)}>
          <ArrowLeft size={15} aria-hidden />
        </SmallButton>
        <SmallButton aria-label={`${name} later`} title="Later" disabled={at === of - 1} onClick={() => move(1)}>
          <ArrowRight size={15} aria-hidden />
        </SmallButton>
        <SmallButton aria-label={`Remove ${name}`} title="Remove" onClick={() => edit(`remove ${name}`, song => removeStep(song, { place, stepId: step.id }))}>
          <Trash2 size={15} aria-hidden />
        </SmallButton>
        <WithoutPill place={place} stepId={step.id} name={name} />
        <Pill
          size="xs"
          chosen={step.enabled}
          aria-label={`${name} on`}
          onClick={() => edit(step.enabled ? `take ${name} off` : `put ${name} on`, song => setStep(song, { place, stepId: step.id, enabled: !step.enabled }))}
        >
          {step.enabled ? 'On' : 'Off'}
        </Pill>
      </Flex>
      <SettingSliders kind={step.kind} of={name} settings={settingsOf(step)} command={command} />
      <StepDoes place={place} step={step} />
    </Box>
  )
}

/** Hears the song without a step at equal loudness, or with it again. */
function WithoutPill({ place, stepId, name }: { place: RecipePlace; stepId: StepId; name: string }) {
  const isHeardSo = useView(state => isWithout(state.view, place, stepId))
  const { matching } = useMatching()
  return (
    <Pill size="xs" px={3} chosen={isHeardSo} disabled={matching} aria-label={`Hear it without ${name}`} onClick={() => hearWithout(place, stepId)}>
      Without <KeyCap>N</KeyCap>
    </Pill>
  )
}

/** How much the compressors of all voices take away now. */
function Reduction() {
  const text = useRef<HTMLSpanElement>(null)
  const draw = useCallback(() => {
    const { engine, playing } = useLive.getState()
    say(text.current, engine && playing ? `−${engine.transport[TRANSPORT.compressorReductionDecibels]!.toFixed(1)} dB now` : '')
  }, [])
  useFrameLoop(draw)
  return <Box as="span" ref={text} color="ink.soft" fontWeight={400} fontSize="12px" />
}

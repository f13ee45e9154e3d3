/** The spaces: how loud each answers, heard alone, its settings, and what goes into it. */
import { Box, chakra, Flex, NativeSelect, Text } from '@chakra-ui/react'
import { Trash2 } from 'lucide-react'
import { useCallback } from 'react'
import { rideOf } from '../../../core/mix/rides'
import { BUS_NAMES, ROLES } from '../../../core/layers/roles'
import { addSpace, echoSeconds, removeSpace, setSend, setSendOfRole, setSpace } from '../../../core/mix/spaces'
import { MOST_SPACES, type Space, type SpaceId } from '../../../core/song/mix-schema'
import { GAIN_RANGE_DECIBELS, type Layer, type Song } from '../../../core/song/schema'
import { formatDecibels } from '../../shared/format'
import { NameField } from '../../shared/name-field'
import { Card, CardTitle, KeyCap, Pill, SmallButton } from '../../shared/parts'
import { SongSlider } from '../../shared/song-slider'
import { edit, useSong } from '../../song/song-store'
import { useView } from '../../song/view-store'
import { useRoleColour } from '../../theme/roles'
import { AddPills } from './add-pills'
import { useMix } from './mix-store'
import { HeldDown, GoesOn } from './space-answer'
import { SettingSliders } from './setting-sliders'
import { SPACE_NAMES } from './setting-words'

export function SpacesSheet() {
  const spaces = useSong(song => song.spaces)
  const asked = useMix(state => state.spaceId)
  const chosen = spaces.find(space => space.id === asked) ?? spaces[0] ?? null
  const makeId = () => crypto.randomUUID()
  return (
    <Card p={3}>
      <CardTitle>Spaces</CardTitle>
      <Flex direction="column" gap="4px" my={2}>
        {spaces.map(space => (
          <SpaceRow key={space.id} space={space} chosen={space.id === chosen?.id} />
        ))}
      </Flex>
      {spaces.length < MOST_SPACES ? (
        <AddPills
          label="Add a space"
          names={SPACE_NAMES}
          spoken={kind => `Add a space: ${SPACE_NAMES[kind]}`}
          onAdd={kind => {
            const id = makeId()
            const name = SPACE_NAMES[kind]
            edit(`add a space: ${name}`, song => addSpace(song, { kind, name: freeName(song, name), makeId: () => id }))
            useMix.setState({ spaceId: id as SpaceId })
          }}
        />
      ) : (
        <Text color="ink.soft">A song holds {MOST_SPACES} spaces.</Text>
      )}
      {chosen ? <SpaceEditor key={chosen.id} space={chosen} /> : null}
    </Card>
  )
}

/** "Echo 2" beside "Echo". */
function freeName(song: Song, name: string): string {
  const taken = new Set(song.spaces.map(space => space.name))
  for (let number = 1; ; number++) {
    const free = number === 1 ? name : `${name} ${number}`
    if (!taken.has(free)) return free
  }
}

const Choice = chakra('button', {
  base: {
    flex: '0 0 84px',
    minW: 0,
    px: 2,
    height: '26px',
    borderRadius: '8px',
    textAlign: 'left',
    cursor: 'pointer',
    overflow: 'hidden',
    textOverflow: 'ellipsis',
    whiteSpace: 'nowrap',
    borderWidth: '1px',
    borderColor: 'transparent',
    _pressed: { bg: 'sunken', borderColor: 'brand', borderStyle: 'dashed', fontWeight: 600 },
  },
})

/** Hears one space alone, or the song again. */
export function toggleAlone(spaceId: SpaceId): void {
  const { view } = useView.getState()
  const isAlone = view.kind === 'space' && view.spaceId === spaceId
  useView.setState({ view: isAlone ? { kind: 'song' } : { kind: 'space', spaceId } })
}

function SpaceRow({ space: { id, name, gainDecibels }, chosen }: { space: Space; chosen: boolean }) {
  const alone = useView(state => state.view.kind === 'space' && state.view.spaceId === id)
  const setLevel = useCallback((song: Song, level: number) => setSpace(song, { spaceId: id, gainDecibels: level }), [id])
  return (
    <Flex align="center" gap={2} role="group" aria-label={name}>
      <Choice aria-pressed={chosen} title={name} onClick={() => useMix.setState({ spaceId: id })}>
        {name}
      </Choice>
      <Box flex="1" minW={0}>
        <SongSlider
          label={`${name} level`}
          value={gainDecibels}
          min={GAIN_RANGE_DECIBELS.min}
          max={GAIN_RANGE_DECIBELS.max}
          step={0.5}
          unit="dB"
          valueText={formatDecibels}
          stepLabel={`set the level of ${name}`}
          command={setLevel}
        />
      </Box>
      <Pill size="xs" px={2} width="84px" chosen={alone} aria-label={`Hear ${name} alone`} onClick={() => toggleAlone(id)}>
        Alone{chosen ? <KeyCap>H</KeyCap> : null}
      </Pill>
    </Flex>
  )
}

function SpaceEditor({ space }: { space: Space }) {
  const { id, name, kind } = space
  const layers = useSong(song => song.layers)
  const command = useCallback((song: Song, settings: Record<string, number>) => setSpace(song, { spaceId: id, settings }), [id])
  return (
    <Box mt={3} pt={2} borderTopWidth="1px" borderStyle="dashed" borderColor="seamline" role="group" aria-label={`${name}, opened`}>
      <Flex align="center" gap={2} mb={2}>
        <NameField label="Name of the space" name={name} onKeep={kept => edit(`name the space ${kept}`, song => setSpace(song, { spaceId: id, name: kept }))} />
        <Box flex="1" />
        <SmallButton aria-label={`Remove ${name}`} title="Remove" onClick={() => edit(`remove ${name}`, song => removeSpace(song, { spaceId: id }))}>
          <Trash2 size={15} aria-hidden />
        </SmallButton>
      </Flex>
      {space.kind === 'echo' ? <EchoBeats space={space} /> : null}
      <SettingSliders
        kind={kind}
        of={name}
        settings={space as unknown as Record<string, number>}
        leaveOut={space.kind === 'echo' && space.delayBeats !== null ? ['delaySeconds'] : []}
        command={command}
      />
      <HeldDown space={space} command={command} />
      <GoesOn space={space} />
      {layers.length > 0 ? <Sends space={space} layers={layers} /> : null}
    </Box>
  )
}

/** Layer by layer, or all of a role at once where there are several. */
function Sends({ space: { id, name }, layers }: { space: Space; layers: readonly Layer[] }) {
  const isByRole = useMix(state => state.sendsByRole)
  const roles = ROLES.map(role => layers.filter(layer => layer.role === role)).filter(ofRole => ofRole.length > 0)
  const offersRoles = roles.length < layers.length
  return (
    <>
      <Flex align="center" gap={2} mt={3} mb={1}>
        <Text fontWeight={600} flex="1">
          What goes into it
        </Text>
        {offersRoles ? (
          <Pill size="xs" px={3} chosen={isByRole} onClick={() => useMix.setState({ sendsByRole: !isByRole })}>
            By role
          </Pill>
        ) : null}
      </Flex>
      <Flex direction="column" gap="4px">
        {isByRole && offersRoles
          ? roles.map(ofRole => <RoleSendRow key={ofRole[0]!.role} layers={ofRole} spaceId={id} spaceName={name} />)
          : layers.map(layer => <SendRow key={layer.id} layer={layer} spaceId={id} spaceName={name} />)}
      </Flex>
    </>
  )
}

const BEATS: [number, string][] = [
  [0.25, 'a quarter of a beat'],
  [1 / 3, 'a third of a beat'],
  [0.5, 'half a beat'],
  [2 / 3, 'two thirds of a beat'],
  [0.75, 'three quarters of a beat'],
  [1, 'a beat'],
  [1.5, 'a beat and a half'],
  [2, 'two beats'],
]

function EchoBeats({ space }: { space: Extract<Space, { kind: 'echo' }> }) {
  const grid = useSong(song => song.beat.grid)
  const { delayBeats } = space
  const known = delayBeats === null || BEATS.some(([beats]) => beats === delayBeats)
  return (
    <Flex align="center" gap={3} mb="5px">
      <Text flex="0 0 92px">Comes after</Text>
      <NativeSelect.Root size="xs" flex="1">
        <NativeSelect.Field
          aria-label={`${space.name}: comes after`}
          bg="card"
          borderColor="seamline"
          value={delayBeats === null ? 'seconds' : String(delayBeats)}
          onChange={event => {
            const chosen = event.target.value === 'seconds' ? null : Number(event.target.value)
            edit(`set the time of ${space.name}`, song => setSpace(song, { spaceId: space.id, delayBeats: chosen }))
          }}
        >
          {BEATS.map(([beats, words]) => (
            <option key={beats} value={String(beats)}>
              {words}
            </option>
          ))}
          {known ? null : <option value={String(delayBeats)}>{delayBeats} beats</option>}
          <option value="seconds">a time of its own</option>
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      <Text color="ink.soft" fontSize="12px" flex="0 0 60px" textAlign="right">
        {Math.round(echoSeconds(space, grid) * 1_000)} ms
      </Text>
    </Flex>
  )
}

const sentBy = ({ sends }: Layer, spaceId: SpaceId) => sends.find(send => send.spaceId === spaceId)?.gainDecibels ?? GAIN_RANGE_DECIBELS.min

function SendRow({ layer, spaceId, spaceName }: { layer: Layer; spaceId: SpaceId; spaceName: string }) {
  const colour = useRoleColour(layer.tint)
  const set = useCallback((song: Song, gainDecibels: number) => setSend(song, { layerId: layer.id, spaceId, gainDecibels }), [layer.id, spaceId])
  const isRidden = rideOf(layer, { kind: 'send', spaceId }).length > 0
  const label = isRidden ? `${layer.name}, ridden` : layer.name
  return <SendSlider name={layer.name} label={label} spaceName={spaceName} value={sentBy(layer, spaceId)} colour={colour} command={set} />
}

/** @param layers All of one role. */
function RoleSendRow({ layers, spaceId, spaceName }: { layers: readonly Layer[]; spaceId: SpaceId; spaceName: string }) {
  const { role, tint } = layers[0]!
  const colour = useRoleColour(tint)
  const set = useCallback((song: Song, gainDecibels: number) => setSendOfRole(song, { role, spaceId, gainDecibels }), [role, spaceId])
  const values = layers.map(layer => sentBy(layer, spaceId))
  const name = BUS_NAMES[role]
  const label = values.every(value => value === values[0]) ? name : `${name}, unlike`
  return <SendSlider name={name} label={label} spaceName={spaceName} value={Math.max(...values)} colour={colour} command={set} />
}

interface SendSliderProps {
  name: string
  /** As it is shown. */
  label: string
  spaceName: string
  value: number
  colour: string
  command: (song: Song, gainDecibels: number) => Song
}

function SendSlider({ name, label, spaceName, value, colour, command }: SendSliderProps) {
  return (
    <SongSlider
      label={`${name} into ${spaceName}`}
      showLabel={label}
      value={value}
      min={GAIN_RANGE_DECIBELS.min}
      max={GAIN_RANGE_DECIBELS.max}
      step={0.5}
      unit="dB"
      colour={colour}
      valueText={formatDecibels}
      stepLabel={`send ${name} into ${spaceName}`}
      command={command}
    />
  )
}

/** The layers themselves: add, rename, move, remove; each one's role and tint. */
import { Box, chakra, Flex, NativeSelect } from '@chakra-ui/react'
import { ArrowDown, ArrowUp, Plus } from 'lucide-react'
import { useState } from 'react'
import { ROLES } from '../../../core/layers/roles'
import { addLayer, describeLayer, moveLayer } from '../../../core/layers/commands'
import type { Layer, Role } from '../../../core/song/schema'
import { makeId } from '../../../storage/database'
import { count } from '../../shared/format'
import { NameField } from '../../shared/name-field'
import { Card, CardTitle, Pill, SmallButton } from '../../shared/parts'
import { layOutTemplate } from '../../song/lay-out'
import { edit, useSong } from '../../song/song-store'
import { TemplatesDialog, useTemplatesDialog } from '../../song/templates-dialog'
import { ROLE_LOOKS, ROLE_NAMES } from '../../theme/roles'
import { useTheme } from '../../theme/theme-store'
import { RemoveLayer } from './remove-layer'

export function LayerList() {
  const song = useSong(current => current)
  const [role, setRole] = useState<Role>('double')
  return (
    <Card>
      <Flex justify="space-between" align="center">
        <CardTitle>Layers</CardTitle>
        <TemplatesDialog />
        <Flex gap={2}>
          <Pill onClick={() => useTemplatesDialog.setState({ open: true })}>Templates …</Pill>
          <Pill onClick={() => layOutTemplate()} title="Adds what the template has and the song lacks; layers that hold nothing make room">
            Lay the template again
          </Pill>
        </Flex>
      </Flex>
      <Flex direction="column" mt={2}>
        {song.layers.map((layer, index) => (
          <LayerRow
            key={layer.id}
            layer={layer}
            takes={song.takes.filter(take => take.layerId === layer.id && !take.binned).length}
            first={index === 0}
            last={index === song.layers.length - 1}
          />
        ))}
      </Flex>
      <Flex mt={2} gap={2}>
        <RoleSelect label="Role of the new layer" value={role} onChange={setRole} />
        <Pill
          onClick={() =>
            edit(`add a layer`, current =>
              addLayer(current, { name: `${ROLE_NAMES[role]} ${current.layers.filter(layer => layer.role === role).length + 1}`, role, makeId }),
            )
          }
        >
          <Plus size={14} aria-hidden /> Add a layer
        </Pill>
      </Flex>
    </Card>
  )
}

/** Over the dot that it changes. */
const TintSelect = chakra('select', {
  base: { position: 'absolute', inset: 0, width: '24px', height: '24px', opacity: 0, cursor: 'pointer', _focusVisible: { opacity: 0.35 } },
})

function LayerRow({ layer, takes, first, last }: { layer: Layer; takes: number; first: boolean; last: boolean }) {
  const theme = useTheme(state => state.theme)
  const look = ROLE_LOOKS[layer.tint]
  return (
    <Flex align="center" gap={2} py="3px">
      <Box position="relative" flex="0 0 24px" height="24px" title={`Wears the tint of ${ROLE_NAMES[layer.tint]}`}>
        <Box position="absolute" inset="5px" borderRadius="full" aria-hidden style={{ background: theme === 'day' ? look.day : look.night }} />
        <TintSelect
          aria-label={`Tint of ${layer.name}`}
          value={layer.tint}
          onChange={event => edit(`tint ${layer.name}`, song => describeLayer(song, { layerId: layer.id, tint: event.target.value as Role }))}
        >
          {ROLES.map(role => (
            <option key={role} value={role}>
              {ROLE_NAMES[role]}
            </option>
          ))}
        </TintSelect>
      </Box>
      <NameField
        label={`Name of ${layer.name}`}
        name={layer.name}
        size="xs"
        width="auto"
        flex="1 1 auto"
        minW="80px"
        onKeep={name => edit(`rename ${layer.name}`, song => describeLayer(song, { layerId: layer.id, name }))}
      />
      <Box color="ink.soft" fontSize="12px" flex="0 0 56px">
        {count(takes, 'take')}
      </Box>
      <RoleSelect
        label={`Role of ${layer.name}`}
        value={layer.role}
        onChange={role => edit(`make ${layer.name} ${ROLE_NAMES[role].toLowerCase()}`, song => describeLayer(song, { layerId: layer.id, role }))}
      />
      <SmallButton
        aria-label={`Move ${layer.name} up`}
        disabled={first}
        onClick={() => edit(`move ${layer.name} up`, song => moveLayer(song, { layerId: layer.id, by: -1 }))}
      >
        <ArrowUp size={15} aria-hidden />
      </SmallButton>
      <SmallButton
        aria-label={`Move ${layer.name} down`}
        disabled={last}
        onClick={() => edit(`move ${layer.name} down`, song => moveLayer(song, { layerId: layer.id, by: 1 }))}
      >
        <ArrowDown size={15} aria-hidden />
      </SmallButton>
      <RemoveLayer layer={layer} />
    </Flex>
  )
}

function RoleSelect({ label, value, onChange }: { label: string; value: Role; onChange: (role: Role) => void }) {
  return (
    <NativeSelect.Root size="xs" width="124px" flexShrink={0}>
      <NativeSelect.Field aria-label={label} bg="card" borderColor="seamline" value={value} onChange={event => onChange(event.target.value as Role)}>
        {ROLES.map(role => (
          <option key={role} value={role}>
            {ROLE_NAMES[role]}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  )
}

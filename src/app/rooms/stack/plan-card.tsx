/** What I want where: the plan of the stack, and what of it is still to be sung. */
import { Flex, Text } from '@chakra-ui/react'
import { missingOf, takePlan, usualPlan } from '../../../core/stack/wanted'
import { lengthOf } from '../../../core/song/select'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import { count } from '../../shared/format'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { edit, useSong } from '../../song/song-store'

export function PlanCard() {
  const song = useSong(current => current)
  const wanted = song.layers.reduce((sum, layer) => sum + layer.wanted.length, 0)
  const missing = missingOf(song, 'line')
  const seconds = missing.reduce((sum, { lines }) => sum + lines.reduce((all, line) => all + lengthOf(line), 0), 0) / SAMPLE_RATE_HZ
  const usual = usualPlan(song)
  const isUsual = song.layers.every(layer => (usual.get(layer.id) ?? []).join() === layer.wanted.join())
  const byLayer = song.layers.flatMap(layer => {
    const own = missing.filter(({ layerId }) => layerId === layer.id).length
    return own > 0 ? [`${layer.name} ${own}`] : []
  })
  return (
    <Card>
      <Flex align="center" gap={2} wrap="wrap">
        <CardTitle>What I want where</CardTitle>
        <Text color="ink.soft" role="status">
          {wanted === 0
            ? 'No plan yet. The faint hems are what a stack usually has.'
            : missing.length === 0
              ? `${count(wanted, 'patch', 'patches')} wanted, all of them there.`
              : `${count(wanted, 'patch', 'patches')} wanted, ${missing.length} still to sing: about ${Math.max(1, Math.round(seconds / 60))} min of singing.`}
        </Text>
      </Flex>
      {byLayer.length > 0 ? (
        <Text mt={1} color="ink.soft">
          {byLayer.join(' · ')}
        </Text>
      ) : null}
      <Flex mt={3} gap={2} align="center" wrap="wrap">
        <Pill disabled={isUsual} onClick={() => edit('take the usual plan', current => takePlan(current, { wanted: usualPlan(current) }))}>
          Take the usual plan
        </Pill>
        <Pill disabled={wanted === 0} onClick={() => edit('clear the plan', current => takePlan(current, { wanted: new Map() }))}>
          Want nothing
        </Pill>
      </Flex>
      <Text mt={2} color="ink.soft">
        Press a patch of the quilt to want it, or not; beside a section’s name, all of its lines. The usual plan: the lead everywhere, doubles and two of each
        harmony in the hooks, an octave in the last hook, ad-libs in turn where a line leaves room.
      </Text>
    </Card>
  )
}

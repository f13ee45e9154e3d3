/** With the lead: how tightly a layer follows its timing, and where each syllable of the line was and is. */
import { Box, Flex, Text } from '@chakra-ui/react'
import { leadOf, ledLines, offsOf, pathOf, setTogether } from '../../../core/align/led-paths'
import { nudgeLine } from './nudge-line'
import { checkPolicy } from '../../../core/edits/policies'
import type { Layer, LayerId, LineId } from '../../../core/song/schema'
import { currentComp, lineTitle, overlapFrames } from '../../../core/song/select'
import { TIGHTNESS_RANGE, USUAL_TIGHTNESS, type LedPath, type Together } from '../../../core/song/together-schema'
import { LayerSelect } from '../../shared/layer-select'
import { NumberField } from '../../shared/number-field'
import { Card, CardTitle, Pill } from '../../shared/parts'
import { edit, useSong } from '../../song/song-store'
import { selectedLines, useView } from '../../song/view-store'
import { ROLE_NAMES } from '../../theme/roles'
import { Threads } from './threads'

const STEPS: { name: string; tightness: number }[] = [
  { name: 'loosely', tightness: 0.4 },
  { name: 'as usual', tightness: USUAL_TIGHTNESS },
  { name: 'tightly', tightness: 1 },
]
/** More of them say no more at a glance. */
const MOST_LINES = 8

export function WithLeadCard() {
  const song = useSong(current => current)
  const selection = useView(state => state.selection)
  const layerId = useView(state => state.layerId)
  const others = song.layers.filter(layer => leadOf(song, layer) !== null)
  const layer = others.find(({ id }) => id === layerId) ?? others[0]
  if (!layer)
    return (
      <Card>
        <CardTitle>With the lead</CardTitle>
        <Text color="ink.soft" mt={2}>
          Once the lead plays something, doubles and harmonies can follow its timing here, syllable by syllable.
        </Text>
      </Card>
    )
  const { together } = layer
  const check = checkPolicy(song, [layer.id])
  const lay = (layerIds: readonly LayerId[], label: string, wanted: Together | null) =>
    edit(label, current => setTogether(current, { layerIds, together: wanted }))
  const tighten = (tightness: number, name: string) =>
    lay([layer.id], `${layer.name} with the lead, ${name}`, { apart: [], endsTogether: false, ...together, tightness })
  const alike = others.filter(({ role }) => role === layer.role)
  const isAlike = alike.every(other => other.together?.tightness === together?.tightness)
  const lines = selectedLines(song, selection)
    .filter(line => currentComp(layer).picks.some(pick => overlapFrames(pick, line) > 0))
    .slice(0, MOST_LINES)
  return (
    <Card>
      <Flex align="center" gap={2} wrap="wrap">
        <CardTitle>With the lead</CardTitle>
        <LayerSelect label="Layer that follows" size="xs" layerId={layer.id} layers={others} />
        <Box flex="1" />
        {together && !isAlike ? (
          <Pill
            size="xs"
            px={3}
            onClick={() =>
              lay(
                alike.map(({ id }) => id),
                `every ${ROLE_NAMES[layer.role].toLowerCase()} with the lead alike`,
                together,
              )
            }
          >
            All {alike.length} alike
          </Pill>
        ) : null}
      </Flex>
      <Flex gap="6px" mt={2} wrap="wrap" align="center" role="group" aria-label="How tightly it follows the lead">
        <Pill px={3} size="sm" chosen={!together} disabled={!check.ok} onClick={() => lay([layer.id], `${layer.name} in its own time`, null)}>
          as sung
        </Pill>
        {STEPS.map(({ name, tightness }) => (
          <Pill key={name} px={3} size="sm" chosen={together?.tightness === tightness} disabled={!check.ok} onClick={() => tighten(tightness, name)}>
            {name}
          </Pill>
        ))}
        {together ? (
          <NumberField
            label="How much of the way to the lead"
            value={100 * together.tightness}
            min={100 * TIGHTNESS_RANGE.min}
            max={100 * TIGHTNESS_RANGE.max}
            unit="%"
            digits={0}
            width="52px"
            onKeep={typed => tighten(typed / 100, `${typed} %`)}
          />
        ) : null}
        {together ? (
          <Pill
            px={3}
            size="sm"
            chosen={together.endsTogether}
            disabled={!check.ok}
            onClick={() =>
              lay([layer.id], `${layer.name}: ends ${together.endsTogether ? 'as the rest' : 'with the lead'}`, {
                ...together,
                endsTogether: !together.endsTogether,
              })
            }
          >
            ends together
          </Pill>
        ) : null}
      </Flex>
      {check.ok ? null : (
        <Text mt={2} color="warn">
          {check.compNames.join(' and ')} is locked, and sounds as it does. Unlock it in Comp first.
        </Text>
      )}
      {together ? (
        <LedLinesList layer={layer} together={together} lines={lines} />
      ) : (
        <Text mt={2} color="ink.soft">
          Each syllable moves towards the lead’s; vowels are stretched, consonants stay sharp, and the lead is never moved.
        </Text>
      )}
    </Card>
  )
}

function LedLinesList({ layer, together, lines }: { layer: Layer; together: Together; lines: ReturnType<typeof selectedLines> }) {
  const song = useSong(current => current)
  if (lines.length === 0) {
    return (
      <Text mt={2} color="ink.soft">
        {layer.name} plays nothing in the selected lines.
      </Text>
    )
  }
  const asked = ledLines(song).filter(({ layerId }) => layerId === layer.id)
  const setApart = (lineId: LineId, isApart: boolean, label: string) =>
    edit(label, current =>
      setTogether(current, {
        layerIds: [layer.id],
        together: { ...together, apart: isApart ? [...together.apart, lineId] : together.apart.filter(id => id !== lineId) },
      }),
    )
  return (
    <Box as="ul" listStyleType="none" mt={2} aria-label="Lines that follow the lead">
      {lines.map(placed => {
        const lineId = placed.line.id
        const isApart = together.apart.includes(lineId)
        const led = asked.filter(line => line.lineId === lineId)
        const paths = led.flatMap(line => pathOf(layer, line) ?? [])
        const title = lineTitle(placed)
        return (
          <Box as="li" key={lineId} mb={2}>
            <Flex align="center" gap={2}>
              <Text flex="1" minW={0} truncate>
                {title}
              </Text>
              <Text color="ink.soft" whiteSpace="nowrap" role="status">
                {isApart
                  ? 'as sung'
                  : led.length === 0
                    ? 'nothing to follow here'
                    : paths.length < led.length
                      ? 'comparing …'
                      : offWords(paths, together.tightness)}
              </Text>
              <Pill
                size="xs"
                px={3}
                chosen={!isApart}
                aria-label={`${title}: follows the lead`}
                onClick={() => setApart(lineId, !isApart, isApart ? `${title}: follows the lead` : `${title}: as sung`)}
              >
                follows
              </Pill>
            </Flex>
            {paths.length > 0 && !isApart ? <Threads range={placed} title={title} lines={led} paths={paths} layer={layer} /> : null}
            <LateAsAWhole layer={layer} lineId={lineId} title={title} paths={isApart ? [] : paths} />
          </Box>
        )
      })}
    </Box>
  )
}

function offWords(paths: readonly LedPath[], tightness: number): string {
  const offs = paths.flatMap(path => offsOf(path, tightness) ?? [])
  if (offs.length === 0) return 'nothing alike was found'
  const worst = offs.reduce((most, entry) => (entry.medianMilliseconds > most.medianMilliseconds ? entry : most))
  return `${Math.round(worst.medianMilliseconds)} ms off as sung, ${Math.round(worst.ledMilliseconds)} so`
}

/** Where all of it is late alike, a plain move does as well, and stretches nothing. */
function LateAsAWhole({ layer, lineId, title, paths }: { layer: Layer; lineId: LineId; title: string; paths: readonly LedPath[] }) {
  const whole = paths.length === 1 ? offsOf(paths[0]!, 1)?.asAWhole : null
  if (!whole) return null
  const by = `${Math.abs(Math.round(whole))} ms ${whole > 0 ? 'earlier' : 'later'}`
  return (
    <Flex align="center" gap={2} mt={1}>
      <Text color="ink.soft" flex="1" minW={0}>
        All of it is {Math.abs(Math.round(whole))} ms {whole > 0 ? 'late' : 'early'}: a plain move stretches nothing.
      </Text>
      <Pill size="xs" px={3} onClick={() => nudgeLine(layer.id, lineId, -Math.round(whole), `${title} ${by}`)}>
        Move it {by}
      </Pill>
    </Flex>
  )
}

/** The seam that is looked at, or the pick: how it sounds, in numbers that can be typed. */
import { Box, Flex, NativeSelect } from '@chakra-ui/react'
import { setAsSung } from '../../../core/edits/commands'
import { pitchInStretch } from '../../../core/edits/stretch-pitch'
import { joinPicks, reachesBeyond, setPickGain, setSeam } from '../../../core/comp/seams'
import { MAX_SEAM_MATCH_DECIBELS } from '../../../core/comp/level-match'
import type { Stretch } from '../../../core/comp/stretches'
import { SEAM_FRAMES } from '../../../core/mix/pick-spans'
import { SEAM_FRAMES_RANGE, type Layer, type Pick, type Song } from '../../../core/song/schema'
import { requireTake } from '../../../core/song/select'
import { SHIFT_RANGE_CENTS } from '../../../core/song/edit-schema'
import { hasEdits } from '../../../core/song/takes'
import { formatDecibels } from '../../shared/format'
import { NumberField } from '../../shared/number-field'
import { Card, KeyCap, Pill } from '../../shared/parts'
import { placeAt } from '../../../core/comp/pick-into'
import { storedSound } from '../../song/stored-sound'
import { allHeard, editComp, matchPick, nudgeIn, seamBySound, setPitch, type SeamPlace } from './comping'
import { copyText } from './row-facts'
import { usesOf } from './rows'
import { playSeam, toNextQuietPlace } from './use-comp-keys'

const PLACE_WORDS = { rest: 'in a rest', 'before-breath': 'before a breath', consonant: 'in a consonant', soft: 'at a soft spot' } as const

const ms = (frames: number) => frames / 48

interface SeamBarProps {
  song: Song
  layer: Layer
  place: SeamPlace | null
  stretch: Stretch
  pick: Pick | null
}

export function SeamBar({ song, layer, place, stretch, pick }: SeamBarProps) {
  return (
    <Card py="8px" px={4} mt={3}>
      {place ? (
        <SeamControls song={song} layer={layer} place={place} />
      ) : pick ? (
        <PickControls song={song} layer={layer} stretch={stretch} pick={pick} />
      ) : (
        <Box color="ink.soft">Nothing is picked here. Step through the takes with ↑ ↓, pick one with P.</Box>
      )}
    </Card>
  )
}

function SeamControls({ song, layer, place }: { song: Song; layer: Layer; place: SeamPlace }) {
  const { before, after } = place
  const crossed = before !== null && after !== null && before.takeId !== after.takeId
  const cut = before !== null && after !== null && before.takeId === after.takeId
  const playing = [before, after].filter((entry): entry is Pick => entry !== null)
  const found = placeAt(song, playing, place.frame, storedSound)
  const seam = after?.seam ?? { frames: SEAM_FRAMES, alike: false, byHand: false }
  const change = (next: Partial<typeof seam>) =>
    after &&
    editComp(layer.id, 'change a crossfade', current => setSeam(current, { layerId: layer.id, pickId: after.id, seam: { ...seam, ...next, byHand: true } }))
  const bySound = async () => {
    const chosen = await seamBySound(place)
    if (chosen && after) editComp(layer.id, 'crossfade by the sound', current => setSeam(current, { layerId: layer.id, pickId: after.id, seam: chosen }))
  }
  const title = cut
    ? `Cut in ${requireTake(song, after.takeId).name}`
    : crossed
      ? `${requireTake(song, before.takeId).name} to ${requireTake(song, after.takeId).name}`
      : after
        ? `${requireTake(song, after.takeId).name} begins`
        : `${requireTake(song, before!.takeId).name} ends`
  return (
    <Flex align="center" gap={2} wrap="wrap" minH="36px" role="group" aria-label="Seam">
      <Box fontFamily="heading" fontWeight={600}>
        {title}
      </Box>
      <Box color="ink.soft">{found ? PLACE_WORDS[found.reason] : allHeard(song, playing) ? 'in the voice' : ''}</Box>
      {crossed ? (
        <>
          <Flex align="center" gap={1} color="ink.soft">
            crossfade{' '}
            <NumberField
              label="Crossfade"
              value={ms(seam.frames)}
              min={ms(SEAM_FRAMES_RANGE.min)}
              max={ms(SEAM_FRAMES_RANGE.max)}
              unit="ms"
              width="52px"
              onKeep={value => change({ frames: Math.round(value * 48) })}
            />
          </Flex>
          <NativeSelect.Root size="xs" width="116px">
            <NativeSelect.Field
              aria-label="Shape of the crossfade"
              bg="card"
              borderColor="seamline"
              value={seam.alike ? 'gain' : 'power'}
              onChange={event => change({ alike: event.target.value === 'gain' })}
            >
              <option value="power">equal power</option>
              <option value="gain">equal gain</option>
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
          {seam.byHand ? (
            <Pill size="xs" onClick={() => void bySound()}>
              By the sound
            </Pill>
          ) : (
            <Box color="ink.soft" fontSize="12px">
              by the sound
            </Box>
          )}
        </>
      ) : null}
      {cut ? (
        <Pill size="xs" onClick={() => editComp(layer.id, 'join a cut', current => joinPicks(current, { layerId: layer.id, pickId: after.id }))}>
          Join it again
        </Pill>
      ) : null}
      <Flex ml="auto" gap={2}>
        <Pill size="xs" px={3} onClick={() => playSeam(place)}>
          Play the seam <KeyCap>J</KeyCap>
        </Pill>
        <Pill size="xs" px={3} onClick={() => void toNextQuietPlace(layer.id, place, 1)}>
          Next quiet spot <KeyCap>N</KeyCap>
        </Pill>
      </Flex>
    </Flex>
  )
}

function PickControls({ song, layer, stretch, pick }: Omit<SeamBarProps, 'place'> & { pick: Pick }) {
  const take = requireTake(song, pick.takeId)
  const uses = usesOf(song, layer.id, take.id, pick)
  const beyond = reachesBeyond(pick, stretch)
  return (
    <Flex align="center" gap={3} wrap="wrap" minH="36px" role="group" aria-label="Pick">
      <Box fontFamily="heading" fontWeight={600}>
        {take.name} is picked
      </Box>
      <Flex align="center" gap={1} color="ink.soft">
        level{' '}
        <NumberField
          label="Level of the pick"
          value={pick.gainDecibels}
          min={-24}
          max={12}
          unit="dB"
          width="52px"
          onKeep={gainDecibels =>
            editComp(layer.id, 'set a level', current => setPickGain(current, { layerId: layer.id, pickId: pick.id, gainDecibels, levelMatched: false }))
          }
        />
      </Flex>
      <Pill
        size="xs"
        chosen={pick.levelMatched}
        title={`As loud as what it meets at its seams, by at most ${MAX_SEAM_MATCH_DECIBELS} dB`}
        onClick={() => void matchPick(layer.id, pick.id, !pick.levelMatched)}
      >
        Level matched{pick.levelMatched && pick.gainDecibels !== 0 ? ` ${formatDecibels(pick.gainDecibels, -Infinity)}` : ''}
      </Pill>
      <Flex align="center" gap={1} color="ink.soft">
        {beyond.before || beyond.after ? `nudge this ${stretch.scope}` : 'nudge'}{' '}
        <NumberField
          label="Nudge"
          value={ms(pick.nudgeFrames)}
          min={-1_000}
          max={1_000}
          unit="ms"
          width="52px"
          onKeep={value => nudgeIn(layer.id, stretch, () => Math.round(value * 48))}
        />
        <KeyCap>-</KeyCap>
        <KeyCap>=</KeyCap>
      </Flex>
      {pick.nudgeFrames !== 0 ? (
        <Pill size="xs" onClick={() => nudgeIn(layer.id, stretch, () => 0)}>
          As sung <KeyCap>0</KeyCap>
        </Pill>
      ) : null}
      <Flex align="center" gap={1} color="ink.soft">
        pitch{' '}
        <NumberField
          label={`Pitch of this ${stretch.scope}`}
          value={pitchInStretch(song, pick, stretch)}
          {...SHIFT_RANGE_CENTS}
          digits={0}
          unit="cents"
          width="52px"
          onKeep={shiftCents => setPitch(layer.id, stretch, shiftCents)}
        />
      </Flex>
      {hasEdits(take) ? (
        <Pill
          size="xs"
          chosen={pick.asSung}
          title="Without what is laid over the take"
          onClick={() =>
            editComp(layer.id, pick.asSung ? 'with what is laid over the take' : 'the take as sung', current =>
              setAsSung(current, { layerId: layer.id, pickId: pick.id, asSung: !pick.asSung }),
            )
          }
        >
          Tone as sung
        </Pill>
      ) : null}
      {uses.length > 0 ? (
        <Box color="warn" fontSize="12px">
          {copyText(song, uses, take)}
        </Box>
      ) : null}
    </Flex>
  )
}

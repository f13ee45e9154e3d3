/** A part played in: on keys in view, on the computer's own, or on a MIDI keyboard; while the song plays as it sounds, otherwise note by note. */
import { Box, chakra, Flex, Text } from '@chakra-ui/react'
import { useCallback, useEffect, useEffectEvent, useRef, useState } from 'react'
import { makeTone } from '../../../core/made/make-tone'
import { setPart, setPartNote } from '../../../core/parts/commands'
import { noteOfKey, PIANO_KEYS, readKeyMessage, withPlayed, type HeldKey } from '../../../core/parts/played'
import { SAMPLE_RATE_HZ } from '../../../core/audio/frames'
import type { Layer } from '../../../core/song/schema'
import { requireLayer } from '../../../core/song/select'
import type { PlacedPartNote } from '../../../core/song/part-schema'
import { isTyping } from '../../frame/use-song-keys'
import { formatMidi } from '../../shared/format'
import { KeyCap, Pill } from '../../shared/parts'
import { ensureEngine, playheadFrame, useLive } from '../../song/live'
import { edit, useSong } from '../../song/song-store'

const LOWEST_C = 36
const HIGHEST_C = 84
const TONE_SECONDS = 4
const KEY_NAMES = Object.entries(PIANO_KEYS).filter(([, semitone]) => semitone <= 12)

const PianoKey = chakra('button', {
  base: {
    flex: '1 1 0',
    minW: '28px',
    height: '52px',
    borderWidth: '1px',
    borderColor: 'seamline',
    borderRadius: '8px',
    display: 'flex',
    flexDirection: 'column',
    justifyContent: 'flex-end',
    alignItems: 'center',
    pb: '3px',
    fontSize: '11px',
    touchAction: 'none',
    cursor: 'pointer',
    bg: 'card',
    color: 'ink',
    _pressed: { borderColor: 'brand', bg: 'brand', color: 'brand.ink' },
  },
})

const isBlack = (semitone: number) => [1, 3, 6, 8, 10].includes(semitone % 12)

/** While it is open, letters are its keys. */
export function PartKeys({ layer, notes, onEnd }: { layer: Layer; notes: readonly PlacedPartNote[]; onEnd: () => void }) {
  const [lowC, setLowC] = useState(60)
  const [down, setDown] = useState<number | null>(null)
  /** Which note the next key changes while the song stands. */
  const [at, setAt] = useState(0)
  const held = useRef<HeldKey | null>(null)
  const tuningCents = useSong(song => song.beat.tuningCents)
  const keyOfBeat = useSong(song => song.beat.key)
  const playing = useLive(state => state.playing)
  const [keyboards, setKeyboards] = useState<string[]>([])

  const sound = useCallback(
    async (midi: number | null) => {
      const engine = await ensureEngine()
      const frames = TONE_SECONDS * SAMPLE_RATE_HZ
      await engine?.playBeside(midi === null ? null : makeTone(frames, [{ startFrame: 0, endFrame: frames, midi }], tuningCents), false)
    },
    [tuningCents],
  )
  const letGo = (midi: number) => {
    if (held.current?.midi !== midi) return
    const note = useLive.getState().playing ? noteOfKey(held.current, playheadFrame()) : null
    held.current = null
    setDown(null)
    void sound(null)
    if (!note) return
    const range = {
      startFrame: Math.min(note.startFrame, ...notes.map(({ startFrame }) => startFrame)),
      endFrame: Math.max(note.endFrame, ...notes.map(({ endFrame }) => endFrame)),
    }
    edit(`${layer.name}: play ${formatMidi(note.midi, keyOfBeat)}`, song => {
      const inRange = requireLayer(song, layer.id).part.filter(entry => entry.endFrame > range.startFrame && entry.startFrame < range.endFrame)
      return setPart(song, { layerId: layer.id, range, notes: withPlayed(inRange, note) })
    })
  }
  const press = (midi: number) => {
    if (held.current) letGo(held.current.midi)
    held.current = { midi, startFrame: playheadFrame() }
    setDown(midi)
    void sound(midi)
    if (useLive.getState().playing) return
    const note = notes[Math.min(at, notes.length - 1)]
    if (!note) return
    edit(`${layer.name}: ${formatMidi(midi, keyOfBeat)}`, song => setPartNote(song, { layerId: layer.id, startFrame: note.startFrame, midi }))
    setAt((at + 1) % notes.length)
  }
  const end = useEffectEvent(onEnd)
  const shift = (octaves: number) => setLowC(Math.max(LOWEST_C, Math.min(HIGHEST_C, lowC + 12 * octaves)))
  const onPress = useEffectEvent(press)
  const onLetGo = useEffectEvent(letGo)
  const onShift = useEffectEvent(shift)
  const toMidi = useEffectEvent((semitone: number) => lowC + semitone)

  useEffect(() => {
    /** By the key that went down: the octave may be another one when it comes up. */
    const sounding = new Map<string, number>()
    const onDown = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return
      const name = event.key.toLowerCase()
      const semitone = PIANO_KEYS[name]
      if (semitone === undefined && name !== 'z' && name !== 'x' && name !== 'escape') return
      // While it is open the letters are the piano's, and no room's.
      event.stopPropagation()
      event.preventDefault()
      if (event.repeat) return
      if (name === 'escape') return end()
      if (semitone === undefined) return onShift(name === 'z' ? -1 : 1)
      const midi = toMidi(semitone)
      sounding.set(event.code, midi)
      onPress(midi)
    }
    const onUp = (event: KeyboardEvent) => {
      const midi = sounding.get(event.code)
      if (midi === undefined) return
      sounding.delete(event.code)
      onLetGo(midi)
    }
    const onBlur = () => held.current && onLetGo(held.current.midi)
    addEventListener('keydown', onDown, true)
    addEventListener('keyup', onUp, true)
    addEventListener('blur', onBlur)
    return () => {
      removeEventListener('keydown', onDown, true)
      removeEventListener('keyup', onUp, true)
      removeEventListener('blur', onBlur)
      onBlur()
    }
  }, [])

  useEffect(() => {
    let isGone = false
    let access: MIDIAccess | null = null
    const onMessage = (event: MIDIMessageEvent) => {
      const message = event.data && readKeyMessage(event.data)
      if (!message) return
      if (message.isDown) onPress(message.midi)
      else onLetGo(message.midi)
    }
    const listen = () => {
      if (!access || isGone) return
      const inputs = [...access.inputs.values()]
      for (const input of inputs) input.onmidimessage = onMessage
      setKeyboards(inputs.map(input => input.name ?? 'a keyboard'))
    }
    // A browser without MIDI, or a singer who does not allow it, has the keys in view.
    void navigator.requestMIDIAccess?.().then(
      given => {
        access = given
        access.onstatechange = listen
        listen()
      },
      () => {},
    )
    return () => {
      isGone = true
      if (access) {
        access.onstatechange = null
        for (const input of access.inputs.values()) input.onmidimessage = null
      }
    }
  }, [])

  return (
    <Box mt={2}>
      <Text color="ink.soft" mb={1}>
        {playing
          ? 'What you play is written where it sounds.'
          : notes.length > 0
            ? 'While the song stands, each key changes a note and goes to the next; while it plays, it is written where it sounds.'
            : 'Start the song with Space, then play.'}
      </Text>
      <Flex gap="3px" role="group" aria-label="Keys to play the part on">
        {KEY_NAMES.map(([name, semitone]) => {
          const midi = lowC + semitone
          return (
            <PianoKey
              key={name}
              type="button"
              aria-pressed={down === midi}
              aria-label={formatMidi(midi, keyOfBeat)}
              style={isBlack(semitone) && down !== midi ? { background: 'var(--chakra-colors-ink)', color: 'var(--chakra-colors-card)' } : {}}
              onPointerDown={event => {
                event.currentTarget.setPointerCapture(event.pointerId)
                press(midi)
              }}
              onPointerUp={() => letGo(midi)}
              onPointerCancel={() => letGo(midi)}
              onKeyDown={event => {
                if (event.key !== 'Enter' && event.key !== ' ') return
                event.preventDefault()
                event.stopPropagation()
                if (!event.repeat) press(midi)
              }}
              onKeyUp={event => (event.key === 'Enter' || event.key === ' ') && letGo(midi)}
            >
              <span>{formatMidi(midi, keyOfBeat)}</span>
              <span aria-hidden>{name.toUpperCase()}</span>
            </PianoKey>
          )
        })}
      </Flex>
      <Flex gap={2} mt={1} align="center" wrap="wrap" color="ink.soft" fontSize="13px">
        <Pill size="xs" px={3} disabled={lowC <= LOWEST_C} onClick={() => shift(-1)}>
          Lower <KeyCap>Z</KeyCap>
        </Pill>
        <Pill size="xs" px={3} disabled={lowC >= HIGHEST_C} onClick={() => shift(1)}>
          Higher <KeyCap>X</KeyCap>
        </Pill>
        <Pill size="xs" px={3} onClick={onEnd}>
          Enough <KeyCap>Esc</KeyCap>
        </Pill>
        {notes.length > 0 ? <Text role="status">{`next: note ${Math.min(at, notes.length - 1) + 1} of ${notes.length}`}</Text> : null}
        {keyboards.length > 0 ? <Text>{`${keyboards.join(', ')} plays too`}</Text> : null}
      </Flex>
    </Box>
  )
}

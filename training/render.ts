/** Plays a composition with FluidSynth and the General MIDI sound font, then masters it as the composition says. */
import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { writeMidi, type MidiData, type MidiEvent } from 'midi-file'
import { gaussian, makeRandom } from '../src/core/audio/random'
import { SAMPLE_RATE_HZ, type Mono } from '../src/core/audio/frames'
import type { Composition, Master } from './compose'

const SOUND_FONT = process.env.SOUND_FONT ?? '/usr/share/sounds/sf2/FluidR3_GM.sf2'
const TICKS_PER_SECOND = 19_200

/** Mono at 48 kHz. Needs `fluidsynth` and a General MIDI sound font. */
export function render(composition: Composition, seed: number): Mono {
  const folder = mkdtempSync(join(tmpdir(), 'beat-'))
  try {
    const midi = join(folder, 'beat.mid')
    const raw = join(folder, 'beat.raw')
    writeFileSync(midi, Buffer.from(writeMidi(toMidi(composition))))
    const { status, stderr } = spawnSync(
      'fluidsynth',
      [
        '-ni',
        '-g',
        '0.4',
        '-r',
        String(SAMPLE_RATE_HZ),
        '-R',
        seed % 3 === 0 ? '0' : '1',
        '-C',
        '0',
        '-T',
        'raw',
        '-O',
        'float',
        '-E',
        'little',
        '-F',
        raw,
        SOUND_FONT,
        midi,
      ],
      { encoding: 'utf8' },
    )
    if (status !== 0) throw new Error(`fluidsynth: ${stderr}`)
    const bytes = readFileSync(raw)
    const stereo = new Float32Array(bytes.buffer, bytes.byteOffset, bytes.byteLength >> 2)
    const mono = new Float32Array(stereo.length >> 1)
    for (let i = 0; i < mono.length; i++) mono[i] = 0.5 * (stereo[2 * i] + stereo[2 * i + 1])
    return masterSound(inFile(mono, composition), composition, makeRandom(seed + 99))
  } finally {
    rmSync(folder, { recursive: true })
  }
}

function toMidi({ notes, programs, truth }: Composition): MidiData {
  const bend = 8_192 + Math.round((truth.tuningCents / 100) * 8_192)
  const setup: MidiEvent[] = [{ deltaTime: 0, meta: true, type: 'setTempo', microsecondsPerBeat: 500_000 }]
  for (const { channel, program, volume } of programs) {
    setup.push({ deltaTime: 0, type: 'programChange', channel, programNumber: program })
    setup.push({ deltaTime: 0, type: 'controller', channel, controllerType: 7, value: Math.round(volume) })
    for (const [controllerType, value] of [
      [101, 0],
      [100, 1],
      [6, bend >> 7],
      [38, bend & 127],
    ] as const)
      if (channel !== 9) setup.push({ deltaTime: 0, type: 'controller', channel, controllerType, value })
  }
  const events = notes.flatMap(({ seconds, lengthSeconds, channel, pitch, velocity }) => [
    { at: Math.round(seconds * TICKS_PER_SECOND), event: { deltaTime: 0, type: 'noteOn', channel, noteNumber: pitch, velocity } as MidiEvent },
    {
      at: Math.round((seconds + lengthSeconds) * TICKS_PER_SECOND),
      event: { deltaTime: 0, type: 'noteOff', channel, noteNumber: pitch, velocity: 0 } as MidiEvent,
    },
  ])
  events.sort((a, b) => a.at - b.at)
  let before = 0
  const track = [...setup]
  for (const { at, event } of events) {
    track.push({ ...event, deltaTime: at - before })
    before = at
  }
  track.push({ deltaTime: 0, meta: true, type: 'endOfTrack' })
  return { header: { format: 0, numTracks: 1, ticksPerBeat: TICKS_PER_SECOND / 2 }, tracks: [track] }
}

/** What was played, in the file's time: after its leading silence, or from where it is cut. */
function inFile(played: Mono, { master, seconds }: Composition): Mono {
  const shift = master.leadSilenceSeconds - master.cutSeconds
  const sound = new Float32Array(Math.round((seconds + shift) * SAMPLE_RATE_HZ))
  const offset = Math.round(shift * SAMPLE_RATE_HZ)
  for (let i = 0; i < sound.length; i++) sound[i] = played[i - offset] ?? 0
  return sound
}

/** Everything that happens to a beat after its instruments, in place. */
export function masterSound(sound: Mono, { master, truth }: Composition, random: () => number): Mono {
  const { length } = sound
  const shift = master.leadSilenceSeconds - master.cutSeconds
  if (master.duck > 0) duck(sound, truth.beats, master.duck)
  if (master.riser) addRiser(sound, master, shift, random)
  if (master.lowPassHz) for (let pass = 0; pass < 2; pass++) lowPass(sound, master.lowPassHz)
  let peak = 1e-9
  for (const x of sound) peak = Math.max(peak, Math.abs(x))
  for (let i = 0; i < length; i++) sound[i] = (Math.tanh((master.drive * sound[i]) / peak) / Math.tanh(master.drive)) * master.level
  const fade = master.fadeOutSeconds * SAMPLE_RATE_HZ
  for (let i = 0; i < fade && i < length; i++) sound[length - 1 - i] *= i / fade
  if (master.hiss > 0)
    for (let i = 0; i < length; i++)
      sound[i] += master.level * master.hiss * gaussian(random) + (random() < 1e-4 ? master.level * master.hiss * 20 * (random() - 0.5) : 0)
  return sound
}

function duck(sound: Mono, beats: number[], depth: number): void {
  for (const beat of beats) {
    const from = Math.round(beat * SAMPLE_RATE_HZ)
    for (let i = 0; i < 12_000; i++) if (from + i >= 0 && from + i < sound.length) sound[from + i] *= 1 - depth * (1 - i / 12_000)
  }
}

function addRiser(sound: Mono, { riser }: Master, shift: number, random: () => number): void {
  const from = Math.round((riser!.fromSeconds + shift) * SAMPLE_RATE_HZ)
  const to = Math.round((riser!.toSeconds + shift) * SAMPLE_RATE_HZ)
  let before = 0
  for (let i = Math.max(0, from); i < Math.min(to, sound.length); i++) {
    const white = random() * 2 - 1
    sound[i] += 0.12 * ((i - from) / (to - from)) ** 2 * (white - 0.7 * before)
    before = white
  }
}

function lowPass(sound: Mono, hz: number): void {
  const a = 1 - Math.exp((-2 * Math.PI * hz) / SAMPLE_RATE_HZ)
  let state = 0
  for (let i = 0; i < sound.length; i++) sound[i] = state += a * (sound[i] - state)
}

/** `plush tune`: a voice drawn to a key or to written notes, and what was moved, as JSON. */
import { z } from 'zod'
import { mixToMono } from '../src/core/audio/frames'
import { parseKey } from '../src/core/files/tags'
import { shiftsOf, isMoved } from '../src/core/tune/shifts'
import { toScale, type TargetedNote } from '../src/core/tune/targets'
import { toWritten, type WrittenNote } from '../src/core/tune/written'
import { tune } from '../src/core/tune/tune'
import { TUNE_RANGES, type TuneSettings } from '../src/core/song/tidy-schema'
import { analyseVoice } from '../src/core/voice/analyse-voice'
import { HOP_SECONDS } from '../src/core/voice/hop'
import { readNotes } from '../src/core/voice/notes'
import { writeWav } from './decode'
import { fail } from './failure'
import { loadSound } from './file-source'
import { readJson } from './read-json'

interface TuneOptions {
  out: string
  key?: string
  notes?: string
  tuningCents: number
  speed: number
  amount: number
  tolerance: number
  vibrato: number
  glides: number
  throat: number
}

const NotesSchema = z.array(z.object({ start: z.number(), end: z.number(), midi: z.number().min(0).max(127) })).max(100_000)

export async function tuneFile(file: string, options: TuneOptions): Promise<void> {
  if ((options.key === undefined) === (options.notes === undefined)) fail('either --key or --notes is needed')
  const key = options.key === undefined ? null : (parseKey(options.key) ?? fail(`"${options.key}" is no key: one like "F major" or "C# minor" is needed`))
  const written = options.notes === undefined ? [] : await readWritten(options.notes)
  const loaded = await loadSound(file)
  if (!loaded.ok) fail(`${file}: ${loaded.error}`)
  const settings = settingsOf(options)
  const voice = mixToMono(loaded.planes)
  const heard = analyseVoice(voice)
  const sung = readNotes(heard)
  const notes = key ? toScale(sung, { key, colour: null, tuningCents: options.tuningCents }) : toWritten(sung, written, heard)
  const tuned = tune(voice, heard, notes, settings)
  await writeWav(options.out, [tuned], 'float32')
  const shifts = shiftsOf(heard, notes, settings)
  console.log(JSON.stringify({ file, settings, notes: notes.map(note => describe(note, settings, shifts)) }))
}

function describe(note: TargetedNote, settings: TuneSettings, shifts: Float32Array) {
  const held = shifts.subarray(Math.round(note.heldFromSeconds / HOP_SECONDS), Math.round(note.heldToSeconds / HOP_SECONDS))
  const moved = isMoved(note, settings)
  const shift = held.reduce((sum, cents) => sum + cents, 0) / Math.max(1, held.length)
  const before = round(note.cents)
  return {
    start: round(note.startSeconds, 3),
    end: round(note.endSeconds, 3),
    target: note.targetCents,
    before,
    after: moved ? round(note.cents + shift) : before,
    ...(moved ? {} : { left: note.targetCents === null ? 'nothing is written for it' : 'it is as near as the tolerance' }),
  }
}

function settingsOf({ speed, amount, tolerance, vibrato, glides, throat }: TuneOptions): TuneSettings {
  const settings = {
    speedMilliseconds: speed,
    amount,
    toleranceCents: tolerance,
    vibratoKept: vibrato,
    glidesKept: glides,
    throatSemitones: throat,
  }
  for (const key of Object.keys(TUNE_RANGES) as (keyof TuneSettings)[]) {
    const { min, max } = TUNE_RANGES[key]
    if (!(settings[key] >= min && settings[key] <= max)) fail(`${key} must lie from ${min} to ${max}, got ${settings[key]}`)
  }
  return settings
}

async function readWritten(path: string): Promise<WrittenNote[]> {
  const written = await readJson(path, NotesSchema, 'a list of {"start", "end", "midi"}')
  return written.map(({ start, end, midi }) => ({ startSeconds: start, endSeconds: end, midi })).sort((a, b) => a.startSeconds - b.startSeconds)
}

function round(value: number, digits = 1): number {
  return Math.round(value * 10 ** digits) / 10 ** digits
}

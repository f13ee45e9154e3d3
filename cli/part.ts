/** `plush part`: a part for another voice from a sung lead, as a MIDI file or as JSON. */
import { writeFile } from 'node:fs/promises'
import { z } from 'zod'
import { mixToMono } from '../src/core/audio/frames'
import { CHORD_QUALITIES } from '../src/core/beat/chord-names'
import { parseChord } from '../src/core/beat/parse-chord'
import { parseKey } from '../src/core/files/tags'
import { writePartMidi } from '../src/core/parts/midi'
import { leadNotes, makePart, PART_KINDS, type PartKind, type PlacedChord } from '../src/core/parts/part'
import { toScale } from '../src/core/tune/targets'
import { analyseVoice } from '../src/core/voice/analyse-voice'
import { readNotes } from '../src/core/voice/notes'
import { fail } from './failure'
import { loadSound } from './file-source'
import { readJson } from './read-json'

interface PartOptionsGiven {
  key: string
  chords?: string
  part: string
  out?: string
  json?: true
}

/** At the tempo of a MIDI file that names none. */
const BEATS_A_SECOND = 2

export async function writePart(file: string, { key: keyText, chords, part, out, json }: PartOptionsGiven): Promise<void> {
  const key = parseKey(keyText) ?? fail(`"${keyText}" is no key: one like "F major" or "C# minor" is needed`)
  const kind = PART_KINDS.find(name => name === part) ?? fail(`there is no part "${part}"; one of ${PART_KINDS.join(', ')}`)
  if (!out && !json) fail('--out or --json is needed')
  const placed = chords ? await readChords(chords) : []
  const loaded = await loadSound(file)
  if (!loaded.ok) fail(`${file}: ${loaded.error}`)
  const sung = readNotes(analyseVoice(mixToMono(loaded.planes)))
  const lead = leadNotes(toScale(sung, { key, colour: null, tuningCents: 0 }))
  const notes = makePart(lead, kind as PartKind, { key, chords: placed })
  if (out) {
    const track = {
      name: kind.replace('-', ' '),
      notes: notes.map(({ startSeconds, endSeconds, midi }) => ({ startBeat: startSeconds * BEATS_A_SECOND, endBeat: endSeconds * BEATS_A_SECOND, midi })),
    }
    await writeFile(out, writePartMidi([track]))
  }
  if (json) console.log(JSON.stringify(notes.map(({ startSeconds, endSeconds, midi }) => ({ start: round(startSeconds), end: round(endSeconds), midi }))))
  else console.log(JSON.stringify({ file, part: kind, notes: notes.length, out }))
}

const ChordsSchema = z
  .array(
    z.union([
      z.object({ start: z.number(), end: z.number(), chord: z.string() }),
      z.object({ start: z.number(), end: z.number(), name: z.string() }).transform(({ name, ...at }) => ({ ...at, chord: name })),
      z.object({ start: z.number(), end: z.number(), root: z.number().int().min(0).max(11), quality: z.enum(CHORD_QUALITIES) }),
    ]),
  )
  .max(10_000)

async function readChords(path: string): Promise<PlacedChord[]> {
  const chords = await readJson(path, ChordsSchema, 'a list of {"start", "end", "chord": "Am"}')
  return chords
    .map(entry => {
      const chord = 'chord' in entry ? (parseChord(entry.chord) ?? fail(`${path}: "${entry.chord}" is no chord that is known here`)) : entry
      return { startSeconds: entry.start, endSeconds: entry.end, root: chord.root, quality: chord.quality }
    })
    .sort((a, b) => a.startSeconds - b.startSeconds)
}

function round(seconds: number): number {
  return Math.round(seconds * 1e4) / 1e4
}

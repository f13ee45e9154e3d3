/** `plush made`: a voice that nobody sang, from a sung lead and a part, on the lead's time line. */
import { readFile } from 'node:fs/promises'
import { mixToMono } from '../src/core/audio/frames'
import { makeVoice } from '../src/core/made/make-voice'
import { readPartMidi } from '../src/core/parts/midi'
import { TUNE_RANGES } from '../src/core/song/tidy-schema'
import { analyseVoice } from '../src/core/voice/analyse-voice'
import { readNotes } from '../src/core/voice/notes'
import { writeWav } from './decode'
import { fail } from './failure'
import { loadSound } from './file-source'

export async function writeMade(file: string, { notes: path, out, throat, seed }: { notes: string; out: string; throat: number; seed: number }): Promise<void> {
  const { min, max } = TUNE_RANGES.throatSemitones
  if (!(throat >= min && throat <= max)) fail(`throat must lie from ${min} to ${max}, got ${throat}`)
  const bytes = await readFile(path).catch((error: Error) => fail(`${path}: ${error.message}`))
  const notes = readPart(bytes, path)
  const loaded = await loadSound(file)
  if (!loaded.ok) fail(`${file}: ${loaded.error}`)
  const lead = mixToMono(loaded.planes)
  const heard = analyseVoice(lead)
  await writeWav(out, [makeVoice(lead, { ...heard, sung: readNotes(heard), notes, throatSemitones: throat, seed })], 'float32')
  console.log(JSON.stringify({ file, notes: notes.length, throat, seed, out }))
}

function readPart(bytes: Uint8Array, path: string) {
  try {
    return readPartMidi(bytes)
  } catch (error) {
    fail(`${path}: ${(error as Error).message}`)
  }
}

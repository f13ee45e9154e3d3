/** `plush voice`: what is read off sung takes, as JSON. */
import { mixToMono } from '../src/core/audio/frames'
import { analyseVoice } from '../src/core/voice/analyse-voice'
import { readNotes } from '../src/core/voice/notes'
import type { Stretch } from '../src/core/voice/phrases'
import { loadSound } from './file-source'

export async function analyseVoices(files: string[]): Promise<void> {
  const results = []
  for (const file of files) results.push(await analyseFile(file))
  console.log(JSON.stringify(results))
  if (results.every(result => 'error' in result)) process.exitCode = 1
}

async function analyseFile(file: string) {
  const loaded = await loadSound(file)
  if (!loaded.ok) return { file, error: loaded.error }
  const heard = analyseVoice(mixToMono(loaded.planes))
  const { hopSeconds, f0Hz, phrases, onsetSeconds, clipped, breaths, esses, pops, clicks, noises, finals, noiseFloorDbfs } = heard
  const pairs = (stretches: Stretch[]) => stretches.map(({ startSeconds, endSeconds }) => [round(startSeconds, 4), round(endSeconds, 4)])
  return {
    file,
    hopSeconds,
    f0Hz: Array.from(f0Hz, hz => round(hz, 3)),
    phrases: pairs(phrases),
    onsets: onsetSeconds.map(onset => round(onset, 4)),
    clipped: pairs(clipped),
    breaths: pairs(breaths),
    esses: pairs(esses),
    pops: pairs(pops),
    clicks: pairs(clicks),
    noises: pairs(noises),
    finals: pairs(finals),
    notes: readNotes(heard).map(({ startSeconds, endSeconds, cents }) => ({
      start: round(startSeconds, 4),
      end: round(endSeconds, 4),
      cents: round(cents, 1),
    })),
    noiseFloorDbfs: Number.isFinite(noiseFloorDbfs) ? round(noiseFloorDbfs, 2) : null,
    ...(loaded.warning ? { warning: loaded.warning } : {}),
  }
}

function round(value: number, digits: number): number {
  return Math.round(value * 10 ** digits) / 10 ** digits
}

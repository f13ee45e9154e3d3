/** `plush analyse`: the facts of beats as JSON. */
import { framesToSeconds } from '../src/core/audio/frames'
import { analyseBeat } from '../src/core/beat/analyse'
import { TONICS } from '../src/core/beat/key-names'
import { beatTimes } from '../src/core/beat/tempo'
import { loadSound } from './file-source'

export async function analyseFiles(files: string[]): Promise<void> {
  const results = []
  for (const file of files) results.push(await analyseFile(file))
  console.log(JSON.stringify(results, null, 1))
  if (results.every(result => 'error' in result)) process.exitCode = 1
}

async function analyseFile(file: string) {
  const loaded = await loadSound(file)
  if (!loaded.ok) return { file, error: loaded.error }
  const seconds = framesToSeconds(loaded.planes[0].length)
  const { tempo, key, level, chords, sections } = analyseBeat(loaded.planes)
  const best = tempo.readings[0]
  const finite = (value: number) => (Number.isFinite(value) ? round(value, 2) : null)
  return {
    file,
    seconds: round(seconds, 4),
    tempo: best ? round(best.tempoBpm, 4) : null,
    firstDownbeat: best ? round(best.barOnes[0].seconds, 4) : null,
    beats: best ? beatTimes(best, seconds).seconds.map(beat => round(beat, 4)) : [],
    meter: best ? best.meter : null,
    key: key.readings[0]?.key ?? null,
    tuningCents: key.readings[0] ? round(key.tuningCents, 2) : null,
    confidence: {
      tempo: round(best?.confidence ?? 0, 3),
      meter: round(best?.meterConfidence ?? 0, 3),
      firstDownbeat: round(best?.barOnes[0].confidence ?? 0, 3),
      key: round(key.readings[0]?.confidence ?? 0, 3),
    },
    candidates: {
      tempo: tempo.readings.map(reading => ({ tempo: round(reading.tempoBpm, 4), meter: reading.meter, confidence: round(reading.confidence, 3) })),
      firstDownbeat: best?.barOnes.map(reading => ({ seconds: round(reading.seconds, 4), confidence: round(reading.confidence, 3) })) ?? [],
      key: key.readings.map(reading => ({ ...reading.key, confidence: round(reading.confidence, 3) })),
    },
    swing: best?.swing && { unit: best.swing.unit, ratio: round(best.swing.ratio, 3) },
    colour: key.readings[0]?.colour ?? null,
    chords: chords.map(({ startBeat, beatCount, chord, confidence }) => ({
      startBeat,
      beatCount,
      chord: chord && { root: TONICS[chord.root], quality: chord.quality },
      confidence: round(confidence, 3),
    })),
    sections,
    loudness: { integratedLufs: finite(level.integratedLufs), truePeakDbtp: finite(level.truePeakDbtp) },
    ...(loaded.warning ? { warning: loaded.warning } : {}),
  }
}

function round(value: number, digits: number): number {
  return Math.round(value * 10 ** digits) / 10 ** digits
}

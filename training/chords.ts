/**
 * `tsx training/chords.ts FROM TO FOLDER [plain]`: composes beats FROM..TO-1, plays them (`plain` by our own synthesis, else by FluidSynth) and
 * writes FOLDER/SEED.json: the evidence for a chord in each half bar, with the chord that was written.
 */
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { framesToSeconds } from '../src/core/audio/frames'
import { makeRandom } from '../src/core/audio/random'
import { CHORD_QUALITIES, type ChordQuality } from '../src/core/beat/chord-names'
import { chordEvidence, halfBars } from '../src/core/beat/chords'
import { readFeatures } from '../src/core/beat/features'
import { compose, type Truth } from './compose'
import { masterSound, render } from './render'
import { playPlainly } from './synth'

const QUALITIES: Record<Truth['chords'][number]['quality'], ChordQuality> = {
  maj: 'major',
  min: 'minor',
  dom7: 'seventh',
  maj7: 'major seventh',
  min7: 'minor seventh',
  sus4: 'suspended',
  dim: 'diminished',
}

const [from, to, folder] = [Number(process.argv[2]), Number(process.argv[3]), process.argv[4]]
mkdirSync(folder, { recursive: true })
for (let seed = from; seed < to; seed++) {
  const composition = compose(seed)
  const { truth } = composition
  const sound = process.argv[5] === 'plain' ? masterSound(playPlainly(composition, seed), composition, makeRandom(seed)) : render(composition, seed)
  const seconds = framesToSeconds(sound.length)
  const beats = truth.beats.filter(beat => beat < seconds)
  const spans = halfBars([...beats, seconds], -truth.firstDownbeatIndex, truth.beatsPerBar)
  const evidence = chordEvidence(readFeatures(sound).pitches, spans)
  const answers = spans.map(span => answerFor(truth, span))
  writeFileSync(
    join(folder, `${seed}.json`),
    JSON.stringify({
      tonic: truth.tonic,
      mode: truth.mode,
      spans: spans.map((_, i) => ({
        evidence: [...evidence[i].treble, ...evidence[i].bass].map(value => Math.round(value * 1e4) / 1e4),
        energy: evidence[i].energy,
        ...answers[i],
      })),
    }),
  )
  if (seed % 20 === 0) console.log(seed, truth.style, spans.length)
}

/** -1 where no one chord fills the half bar or the chords are not played. */
function answerFor({ chords, sections }: Truth, { from: start, to: end }: { from: number; to: number }): { root: number; quality: number } {
  const none = { root: -1, quality: -1 }
  const chord = chords.findLast(({ seconds }) => seconds <= start + 0.06)
  const next = chords.find(({ seconds }) => seconds > start + 0.06)
  const section = sections.findLast(({ seconds }) => seconds <= start + 0.06)
  if (!chord || !section || (next && next.seconds < end - 0.06)) return none
  const isPlayed = section.plays === 'end' || (JSON.parse(section.plays) as unknown[])[2] === true
  return isPlayed ? { root: chord.root % 12, quality: CHORD_QUALITIES.indexOf(QUALITIES[chord.quality]) } : none
}

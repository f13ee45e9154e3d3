import { mkdirSync, writeFileSync, existsSync } from 'node:fs'
import { join } from 'node:path'
import { framesToSeconds } from '../src/core/audio/frames'
import { FEATURE_RATE_HZ } from '../src/core/beat/features'
import { viewBars } from '../src/core/beat/bar-views'
import { readFeatures } from '../src/core/beat/features'
import { compose, type Truth } from './compose'
import { render } from './render'
const [from, to, folder] = [Number(process.argv[2]), Number(process.argv[3]), process.argv[4]!]
mkdirSync(folder, { recursive: true })
for (let seed = from; seed < to; seed++) {
  const file = join(folder, `${seed}.json`)
  if (existsSync(file)) continue
  const composition = compose(seed)
  const sound = render(composition, seed)
  const { truth } = composition
  const seconds = framesToSeconds(sound.length)
  let bars = truth.beats.filter((beat, i) => i >= truth.firstDownbeatIndex && (i - truth.firstDownbeatIndex) % truth.beatsPerBar === 0 && beat < seconds)
  if (seconds - bars.at(-1)! >= (30 / truth.tempoBpm) * truth.beatsPerBar) bars = [...bars, seconds]
  const features = readFeatures(sound)
  const views = viewBars(features, bars).map(v => v.map(r => Array.from(r, x => Math.round(x * 1e4) / 1e4)))
  const energies = bars.slice(0, -1).map((b, i) => { const f = Math.round(b * FEATURE_RATE_HZ), e = Math.max(f + 1, Math.round(bars[i + 1]! * FEATURE_RATE_HZ)); return features.levels.reduce((t, l) => t + l.subarray(f, e).reduce((a, c) => a + c, 0), 0) / ((e - f) * features.levels.length) })
  const barOf = (s: number) => bars.reduce((best, bar, i) => (Math.abs(bar - s) < Math.abs(bars[best]! - s) ? i : best), 0)
  const sections = truth.sections.filter(s => s.name !== 'end').map((s, i, all) => ({ name: s.name, plays: s.plays, start: barOf(s.seconds), end: all[i + 1] ? barOf(all[i + 1]!.seconds) : bars.length - 1 })).filter(s => s.end > s.start)
  writeFileSync(file, JSON.stringify({ seed, style: truth.style, bpb: truth.beatsPerBar, views, energies, sections }))
}

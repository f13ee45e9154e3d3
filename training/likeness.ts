/**
 * `tsx training/likeness.ts FROM TO FOLDER`: composes beats FROM..TO-1, plays them with FluidSynth and writes FOLDER/SEED.json:
 * the evidence for the likeness of each two sections, with what is true.
 */
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { framesToSeconds } from '../src/core/audio/frames'
import { meanRow, viewBars } from '../src/core/beat/bar-views'
import { readFeatures } from '../src/core/beat/features'
import { likenessEvidence } from '../src/core/beat/shape'
import { compose, type Truth } from './compose'
import { render } from './render'

const [from, to, folder] = [Number(process.argv[2]), Number(process.argv[3]), process.argv[4]]
mkdirSync(folder, { recursive: true })
for (let seed = from; seed < to; seed++) {
  const composition = compose(seed)
  const sound = render(composition, seed)
  const bars = trueBars(composition.truth, framesToSeconds(sound.length))
  const views = viewBars(readFeatures(sound), bars)
  const sections = sectionsByBar(composition.truth, bars)
  writeFileSync(join(folder, `${seed}.json`), JSON.stringify(likenesses(views, sections)))
  if (seed % 20 === 0) console.log(seed, composition.truth.style, bars.length, sections.length)
}

function trueBars({ beats, firstDownbeatIndex, beatsPerBar, tempoBpm }: Truth, seconds: number): number[] {
  const bars = beats.filter((beat, i) => i >= firstDownbeatIndex && (i - firstDownbeatIndex) % beatsPerBar === 0 && beat < seconds)
  return seconds - bars.at(-1)! < (30 / tempoBpm) * beatsPerBar ? bars : [...bars, seconds]
}

type Placed = Truth['sections'][number] & { start: number; end: number }

function sectionsByBar({ sections }: Truth, bars: number[]): Placed[] {
  const barOf = (seconds: number) => bars.reduce((best, bar, i) => (Math.abs(bar - seconds) < Math.abs(bars[best] - seconds) ? i : best), 0)
  return sections
    .map((section, i) => ({ ...section, start: barOf(section.seconds), end: sections[i + 1] ? barOf(sections[i + 1].seconds) : bars.length - 1 }))
    .filter(({ start, end }) => end > start)
}

/** Only pairs that are alike or not whichever way one looks at it: by their names and by what plays. */
function likenesses(views: ReturnType<typeof viewBars>, sections: Placed[]) {
  const means = sections.map(({ start, end }) => views.map(view => meanRow(view.slice(start, end))))
  return sections.flatMap((section, i) =>
    sections.slice(0, i).flatMap((other, j) => {
      const [sameName, samePlays] = [section.name === other.name, section.plays === other.plays]
      return sameName === samePlays ? [{ evidence: likenessEvidence(means[j], means[i], i === j + 1), alike: Number(sameName) }] : []
    }),
  )
}

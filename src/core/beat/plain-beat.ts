/** What one sings over where there is no beat yet: a click, or a drone, at a tempo. */
import { SAMPLE_RATE_HZ, type Planar } from '../audio/frames'
import { addClickInto } from './click'
import { frameOfBar, type Grid } from './grid'
import { TONICS, type Key } from './key-names'

export interface PlainBeat {
  tempoBpm: number
  beatsPerBar: number
  bars: number
  click: boolean
  /** Held under the click; null for none. */
  drone: Key | null
  /** Of the song that is begun with it. */
  key?: Key
}
export const PLAIN_BEAT_RANGES = { tempoBpm: { min: 40, max: 240 }, beatsPerBar: { min: 2, max: 12 }, bars: { min: 4, max: 400 } } as const
/** As long as an import may be. */
const MOST_FRAMES = 20 * 60 * SAMPLE_RATE_HZ

export function plainGrid({ tempoBpm, beatsPerBar }: Pick<PlainBeat, 'tempoBpm' | 'beatsPerBar'>): Grid {
  return { tempoBpm, barOneFrame: 0, beatsPerBar, beatUnit: 'quarter', map: null }
}

const CLICK_GAIN = 0.4
const ACCENT_GAIN = 1.4
/** Root, fifth and octave, the root low enough to sing over; each softer than the one below. */
const DRONE_SEMITONES = [0, 7, 12] as const
const DRONE_GAIN = 0.08
/** Two strings a little apart, so that the tone lives; cents. */
const APART_CENTS = 3
const SWELL_SECONDS = 2
const ROOT_MIDI = 45

/** Stereo at 48 kHz, from bar one on. Of whole 16-bit steps, so that it packs well. */
export function makePlainBeat({ click, drone, bars, ...of }: PlainBeat): Planar {
  const grid = plainGrid(of)
  const frames = Math.min(MOST_FRAMES, frameOfBar(grid, bars + 1))
  const planes = [new Float32Array(frames), new Float32Array(frames)]
  if (drone) planes.forEach((plane, side) => addDrone(plane, drone, side === 0 ? APART_CENTS : -APART_CENTS))
  if (click) addClickInto(planes[0], planes[1], grid, 0, CLICK_GAIN, ACCENT_GAIN)
  for (const plane of planes) for (let i = 0; i < frames; i++) plane[i] = Math.round(plane[i] * 32_768) / 32_768
  return planes
}

function addDrone(plane: Float32Array, { tonic }: Key, cents: number): void {
  const root = ROOT_MIDI + ((TONICS.indexOf(tonic) + 3) % 12)
  const swell = SWELL_SECONDS * SAMPLE_RATE_HZ
  DRONE_SEMITONES.forEach((semitones, n) => {
    const hz = 440 * 2 ** ((root + semitones - 69 + (n % 2 === 0 ? cents : -cents) / 100) / 12)
    const step = (2 * Math.PI * hz) / SAMPLE_RATE_HZ
    const gain = DRONE_GAIN / (1 + 0.6 * n)
    for (let i = 0; i < plane.length; i++) {
      const level = gain * Math.min(1, i / swell, (plane.length - i) / swell)
      plane[i] += level * (Math.sin(step * i) + 0.4 * Math.sin(2 * step * i) + 0.15 * Math.sin(3 * step * i))
    }
  })
}

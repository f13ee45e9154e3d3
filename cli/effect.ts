/** `plush effect`: puts a sound through one effect, so that it can be measured from outside. */
import { BLOCK_FRAMES, SAMPLE_RATE_HZ, type Planar } from '../src/core/audio/frames'
import { describeEffect, EFFECT_KINDS, makeEffectOf, type EffectKind } from '../src/core/effects/catalogue'
import type { Effect } from '../src/core/effects/effect'
import { writeWav } from './decode'
import { fail } from './failure'
import { loadSound } from './file-source'

interface EffectOptions {
  list?: true
  settings?: string
  out?: string
  /** Of silence after the sound, for what rings on. */
  tail: number
}

export async function runEffect(kind: string | undefined, file: string | undefined, { list, settings, out, tail }: EffectOptions): Promise<void> {
  if (list) return console.log(JSON.stringify(EFFECT_KINDS.map(describeEffect), null, 1))
  if (!isEffectKind(kind)) fail(`${kind === undefined ? 'which effect?' : `there is no effect "${kind}";`} one of ${EFFECT_KINDS.join(', ')}`)
  if (file === undefined || out === undefined) fail('a sound file and --out are needed')
  const made = makeEffectOf(kind, parse(settings ?? '{}'))
  if (!made.ok) fail(made.problems.map(({ setting, expected }) => (setting ? `${setting}: ${expected}` : expected)).join('; '))
  const loaded = await loadSound(file)
  if (!loaded.ok) fail(`${file}: ${loaded.error}`)
  await writeWav(out, putThrough(made.effect, loaded.planes, Math.round(tail * SAMPLE_RATE_HZ)), 'float32')
}

function isEffectKind(kind: string | undefined): kind is EffectKind {
  return (EFFECT_KINDS as (string | undefined)[]).includes(kind)
}

function parse(json: string): unknown {
  try {
    return JSON.parse(json)
  } catch {
    return fail(`the settings are no JSON: ${json}`)
  }
}

/** Two channels; what the effect delays is taken off again, so that frame n of the output belongs to frame n of the input. */
function putThrough(effect: Effect<never>, planes: Planar, tailFrames: number): Planar {
  const frames = planes[0].length + tailFrames
  const blocks = Math.ceil((frames + effect.latencyFrames) / BLOCK_FRAMES)
  const sound = [planes[0], planes.at(-1)!].map(plane => {
    const padded = new Float32Array(blocks * BLOCK_FRAMES)
    padded.set(plane)
    return padded
  })
  effect.reset()
  for (let at = 0; at < sound[0].length; at += BLOCK_FRAMES) effect.process(sound[0].subarray(at, at + BLOCK_FRAMES), sound[1].subarray(at, at + BLOCK_FRAMES))
  return sound.map(plane => plane.slice(effect.latencyFrames, effect.latencyFrames + frames))
}

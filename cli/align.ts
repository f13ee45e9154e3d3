/** `plush align`: a double, harmony or ad-lib brought to the lead's timing, and how far it was off before and after, as JSON. */
import { mixToMono } from '../src/core/audio/frames'
import { quantile } from '../src/core/audio/statistics'
import { align } from '../src/core/align/align'
import { writeWav } from './decode'
import { fail } from './failure'
import { loadSound } from './file-source'

export async function alignFile(leadFile: string, otherFile: string, { out, tightness }: { out: string; tightness: number }): Promise<void> {
  if (!(tightness >= 0 && tightness <= 1)) fail(`tightness must lie from 0 to 1, got ${tightness}`)
  const [lead, other] = [await loadSound(leadFile), await loadSound(otherFile)]
  if (!lead.ok) fail(`${leadFile}: ${lead.error}`)
  if (!other.ok) fail(`${otherFile}: ${other.error}`)
  const { sound, anchors, afterSeconds } = align(mixToMono(lead.planes), mixToMono(other.planes), tightness)
  await writeWav(out, [sound], 'float32')
  const places = anchors.map(({ leadSeconds, otherSeconds, certainty }, i) => ({
    lead: round(leadSeconds, 4),
    before: round(1_000 * (otherSeconds - leadSeconds), 1),
    after: round(1_000 * (afterSeconds[i]! - leadSeconds), 1),
    certainty: round(certainty, 2),
  }))
  console.log(JSON.stringify({ lead: leadFile, file: otherFile, tightness, before: offs(places, 'before'), after: offs(places, 'after'), places }))
}

/** In milliseconds. */
function offs(places: readonly { before: number; after: number }[], which: 'before' | 'after') {
  const all = Float32Array.from(places, place => Math.abs(place[which]))
  return { medianMs: round(quantile(all, 0.5), 1), p90Ms: round(quantile(all, 0.9), 1) }
}

function round(value: number, digits: number): number {
  return Math.round(value * 10 ** digits) / 10 ** digits
}

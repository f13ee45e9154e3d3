/** A share of the stems of a full song: `tsx bench/stems.ts SHARE OF`; what it took, as JSON. */
import { SAMPLE_RATE_HZ } from '../src/core/audio/frames'
import { renderDelivery } from '../src/core/deliver/delivery'
import { usualFormat } from '../src/core/deliver/encoders'
import { planPart, type Part } from '../src/core/deliver/parts'
import { addLayer } from '../src/core/layers/commands'
import { planMix } from '../src/core/mix/plan'
import type { Song } from '../src/core/song/schema'
import { demo, store } from './demo'

export interface StemsTook {
  soundSeconds: number
  tookSeconds: number
}

const SECONDS = 15
const LAYERS = 12

const [share, of] = process.argv.slice(2).map(Number)
let count = 0
const makeId = () => `bench-${count++}`
let song: Song = demo.song
while (song.layers.length < LAYERS) song = addLayer(song, { name: `Voice ${song.layers.length + 1}`, role: 'double', makeId })
// Every layer plays what the demo's lead does.
const spans = planMix(song).channels[0]!.spans
const parts: Part[] = [{ kind: 'beat' }, ...song.layers.map(({ id }): Part => ({ kind: 'layer', layerId: id }))]
let soundSeconds = 0
const began = performance.now()
for (const part of parts.filter((_, i) => i % of! === share)) {
  const plan = planPart(song, part)
  const singing = { ...plan, channels: plan.channels.map(channel => (channel.id === 'beat' ? channel : { ...channel, spans })) }
  const result = await renderDelivery({ plan: singing, store, format: usualFormat('wav'), range: { startFrame: 0, endFrame: SECONDS * SAMPLE_RATE_HZ } })
  if (result.kind === 'delivered') soundSeconds += result.report.seconds
}
const took: StemsTook = { soundSeconds, tookSeconds: (performance.now() - began) / 1_000 }
console.log(JSON.stringify(took))

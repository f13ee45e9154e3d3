/** A plan as the audio thread takes it over: without what has not changed, and without a list that it would have to build. */
import type { Channel, MixPlan } from './plan'
import { packSpans, type PackedSpans, type Span } from './spans'

/** A plan in which channels whose spans are as before do not have them: null. */
export type SparsePlan = Omit<MixPlan, 'layers' | 'beat'> & { layers: SparseChannel<Span[]>[]; beat: SparseChannel<Span[]> }
export type SparseChannel<S> = Omit<Channel, 'spans'> & { spans: S | null }
export type PackedChannel = SparseChannel<PackedSpans>
export type PackedPlan = Omit<MixPlan, 'layers' | 'beat' | 'standby'> & { isPacked: true; layers: PackedChannel[]; beat: PackedChannel }

const channelsOf = (plan: MixPlan) => new Map([plan.beat, ...plan.layers].map(channel => [channel.id, channel.spans]))

/** @param former What the other side has; null if nothing. Spans that are one array in both are as before. */
export function withoutKnown(plan: MixPlan, former: MixPlan | null): SparsePlan {
  const known = former ? channelsOf(former) : null
  const sparse = (channel: Channel) => ({ ...channel, spans: known?.get(channel.id) === channel.spans ? null : channel.spans })
  return { ...plan, beat: sparse(plan.beat), layers: plan.layers.map(sparse) }
}

/** @param former What `withoutKnown` was given. */
export function withKnown(plan: SparsePlan, former: MixPlan | null): MixPlan {
  const known = former ? channelsOf(former) : null
  const whole = (channel: SparseChannel<Span[]>): Channel => ({ ...channel, spans: channel.spans ?? known?.get(channel.id) ?? [] })
  return { ...plan, beat: whole(plan.beat), layers: plan.layers.map(whole) }
}

export function packPlan({ standby: _, ...plan }: MixPlan | SparsePlan): PackedPlan {
  const packed = ({ spans, ...channel }: SparseChannel<Span[]>): PackedChannel => ({ ...channel, spans: spans && packSpans(spans) })
  return { ...plan, isPacked: true, beat: packed(plan.beat), layers: plan.layers.map(packed) }
}

/** What can be handed over without a copy. */
export function buffersOf(plan: PackedPlan): ArrayBuffer[] {
  return [plan.beat, ...plan.layers].flatMap(channel => (channel.spans ? [channel.spans.numbers.buffer as ArrayBuffer] : []))
}

/** A plan as the audio thread takes it over: without what has not changed, and without a list that it would have to build. */
import type { Channel, MixPlan } from './plan'
import { packSpans, type PackedSpans, type Span } from './spans'

/** A plan in which channels whose spans are as before do not have them: null. */
export type SparsePlan = Omit<MixPlan, 'channels'> & { channels: SparseChannel<Span[]>[] }
export type SparseChannel<S> = Omit<Channel, 'spans'> & { spans: S | null }
export type PackedChannel = SparseChannel<PackedSpans>
export type PackedPlan = Omit<MixPlan, 'channels' | 'standby'> & { isPacked: true; channels: PackedChannel[] }

const spansById = (plan: MixPlan) => new Map(plan.channels.map(channel => [channel.id, channel.spans]))

/** @param former What the other side has; null if nothing. Spans that are one array in both are as before. */
export function withoutKnown(plan: MixPlan, former: MixPlan | null): SparsePlan {
  const known = former && spansById(former)
  return { ...plan, channels: plan.channels.map(channel => ({ ...channel, spans: known?.get(channel.id) === channel.spans ? null : channel.spans })) }
}

/** @param former What `withoutKnown` was given. */
export function withKnown(plan: SparsePlan, former: MixPlan | null): MixPlan {
  const known = former && spansById(former)
  return { ...plan, channels: plan.channels.map(channel => ({ ...channel, spans: channel.spans ?? known?.get(channel.id) ?? [] })) }
}

export function packPlan({ standby: _, ...plan }: MixPlan | SparsePlan): PackedPlan {
  return { ...plan, isPacked: true, channels: plan.channels.map(({ spans, ...channel }) => ({ ...channel, spans: spans && packSpans(spans) })) }
}

/** What can be handed over without a copy. */
export function buffersOf(plan: PackedPlan): ArrayBuffer[] {
  return plan.channels.flatMap(channel => (channel.spans ? [channel.spans.numbers.buffer as ArrayBuffer, channel.spans.points.buffer as ArrayBuffer] : []))
}

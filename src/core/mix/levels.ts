/** All levels and places of a plan in one array: of a fader that moves, this is all that has to be told. */
import { isSameLane } from './lane'
import type { Channel, MixPlan, SendPlan } from './plan'

type Levelled = Pick<MixPlan, 'buses' | 'spaces' | 'output'> & { channels: readonly Omit<Channel, 'spans'>[] }

/**
 * In a fixed order: of each channel its gain, its place and its sends; of each bus its dry part and its gain; of each space its gain; the ceiling
 * and the width.
 */
export function levelsOf({ channels, buses, spaces, output }: Levelled): Float64Array<ArrayBuffer> {
  return Float64Array.from([
    ...channels.flatMap(({ gain, pan, sends }) => [gain, pan, ...sends.map(send => send.gain)]),
    ...buses.flatMap(({ dry, gain }) => [dry, gain]),
    ...spaces.map(({ gain }) => gain),
    output.ceiling,
    output.width,
  ])
}

/** The plan with other levels, which are those of one of its shape. */
export function withLevels(plan: MixPlan, levels: Float64Array): MixPlan {
  let at = 0
  const next = () => levels[at++]
  return {
    ...plan,
    channels: plan.channels.map(channel => ({
      ...channel,
      gain: next(),
      pan: next(),
      sends: channel.sends.map((send): SendPlan => ({ ...send, gain: next() })),
    })),
    buses: plan.buses.map(bus => ({ ...bus, dry: next(), gain: next() })),
    spaces: plan.spaces.map(space => ({ ...space, gain: next() })),
    output: { ...plan.output, ceiling: next(), width: next() },
  }
}

/** Whether two plans are one but for their levels: the same sounds go the same ways through the same effects. */
export function isSameShape(a: MixPlan, b: MixPlan): boolean {
  const all = <T>(some: readonly T[], others: readonly T[], isSame: (x: T, y: T) => boolean) =>
    some.length === others.length && some.every((entry, i) => isSame(entry, others[i]))
  return (
    a.stem === undefined &&
    b.stem === undefined &&
    a.standby.length + b.standby.length === 0 &&
    isSameData(a.room, b.room) &&
    a.output.isSmall === b.output.isSmall &&
    isSameData(a.output.steps, b.output.steps) &&
    all(a.channels, b.channels, (x, y) => {
      const isOneVoice = x.id === y.id && x.into === y.into && x.spans === y.spans
      const isRiddenAlike = isSameLane(x.ride, y.ride) && isSameLane(x.panRide, y.panRide) && all(x.sends, y.sends, (s, t) => isSameLane(s.ride, t.ride))
      const isColouredAlike = all(x.colours, y.colours, (c, d) => c.id === d.id && isSameLane(c.share, d.share) && isSameData(c.steps, d.steps))
      return isOneVoice && isRiddenAlike && isColouredAlike && isSameData(x.steps, y.steps)
    }) &&
    all(a.buses, b.buses, (x, y) => x.id === y.id && x.into === y.into && isSameData(x.steps, y.steps)) &&
    all(a.spaces, b.spaces, (x, y) => {
      const isOneSpace = x.id === y.id && x.into === y.into && isSameLane(x.ride, y.ride) && isSameLane(x.delays, y.delays)
      return isOneSpace && isSameData([x.settings, x.duck, x.feeds], [y.settings, y.duck, y.feeds])
    })
  )
}

function isSameData(a: unknown, b: unknown): boolean {
  return JSON.stringify(a) === JSON.stringify(b)
}

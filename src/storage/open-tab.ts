/** Tabs that are open: the first of them clears up before anything new is stored; no other does while one is open. */
import { sweepLeftovers } from './songs'

const OPEN_TABS = 'plush-layer-tabs'

let opened: Promise<void> | null = null

/** Settles once this tab counts as open. Whoever stores sound that no song names yet waits for it: to a sweep such sound looks like a leftover. */
export function whenOpen(): Promise<void> {
  return (opened ??= open())
}

async function open(): Promise<void> {
  const { locks } = navigator
  // Clearing up can wait for another start; what the singer does cannot.
  await locks.request(OPEN_TABS, { ifAvailable: true }, lock => (lock ? sweepLeftovers().catch(() => 0) : undefined))
  // Held as long as the tab is there. Another tab may be clearing up at this moment.
  await new Promise<void>(isHeld => {
    void locks.request(OPEN_TABS, { mode: 'shared' }, () => {
      isHeld()
      return new Promise(() => {})
    })
  })
}

/** How many tabs beside this one are open. */
export async function otherTabs(): Promise<number> {
  await whenOpen()
  const { held = [] } = await navigator.locks.query()
  return held.filter(lock => lock.name === OPEN_TABS).length - 1
}

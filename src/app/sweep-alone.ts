/** Clears up at the start, if no other tab is open; then says that this one is. */
import { sweepLeftovers } from '../storage/songs'

const OPEN_TABS = 'plush-layer-tabs'

export async function sweepAlone(): Promise<void> {
  await navigator.locks.request(OPEN_TABS, { ifAvailable: true }, lock => (lock ? sweepLeftovers() : undefined))
  void navigator.locks.request(OPEN_TABS, { mode: 'shared' }, () => new Promise(() => {}))
}

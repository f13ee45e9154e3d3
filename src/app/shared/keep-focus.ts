/**
 * Focus never falls to the page: where what had it goes, or can no longer have it (a card that is done, a button that is busy, a song that
 * was binned), the room takes it, and with it the room's keys and the place from which a screen reader reads on.
 */

let last: HTMLElement | null = null

/** Once, for as long as the page lives. */
export function keepFocus(): void {
  addEventListener('focusin', event => (last = event.target as HTMLElement))
  new MutationObserver(takeOver).observe(document.body, { subtree: true, childList: true, attributes: true, attributeFilter: ['disabled', 'hidden'] })
}

function takeOver(): void {
  if (document.activeElement !== document.body || !last) return
  // Who clicked beside everything meant to leave it.
  if (last.isConnected && !last.matches(':disabled') && last.checkVisibility()) return
  const room = document.querySelector<HTMLElement>('[role=dialog] , main')
  if (!room) return
  last = null
  room.focus({ preventScroll: true })
}

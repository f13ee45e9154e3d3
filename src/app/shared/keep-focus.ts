/**
 * Focus never falls to the page: where what had it goes, or can no longer have it (a card that is done, a button that is busy, a song that
 * was binned), the room takes it, and with it the room's keys and the place from which a screen reader reads on.
 */

const OPEN_DIALOG = ':is([role=dialog], [role=alertdialog])[data-state=open]'

let last: HTMLElement | null = null
/** Was disabled while it had the focus. */
let lost: HTMLElement | null = null

/** Once, for as long as the page lives. */
export function keepFocus(): void {
  addEventListener('focusin', event => (last = event.target as HTMLElement))
  new MutationObserver(lookSoon).observe(document.body, { subtree: true, childList: true, attributes: true, attributeFilter: ['disabled', 'hidden'] })
}

let looking = false

/** A control that is disabled loses the focus only with the next picture; by then it may not be so any more. */
function lookSoon(): void {
  if (last?.matches(':disabled') && last === document.activeElement) lost = last
  takeOver()
  if (looking) return
  looking = true
  requestAnimationFrame(() =>
    requestAnimationFrame(() => {
      looking = false
      takeOver()
      lost = null
    }),
  )
}

function takeOver(): void {
  if (document.activeElement !== document.body || !last) return
  // Who clicked beside everything meant to leave it.
  if (last !== lost && last.isConnected && !last.matches(':disabled') && last.checkVisibility()) return
  const room = document.querySelector<HTMLElement>(OPEN_DIALOG) ?? document.querySelector('main')
  if (!room) return
  last = null
  room.focus({ preventScroll: true })
}

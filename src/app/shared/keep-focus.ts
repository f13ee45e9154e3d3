/**
 * Focus never falls to the page: where what had it goes, or can no longer have it (a card that is done, a button that is busy, a song that
 * was binned), the room takes it, and with it the room's keys and the place from which a screen reader reads on.
 */

const OPEN_DIALOG = ':is([role=dialog], [role=alertdialog])[data-state=open]'

let last: HTMLElement | null = null
/** Was disabled while it had the focus. */
let lost: HTMLElement | null = null
/** Where the pointer was pressed: it may be gone before it has the focus, when a field that is left changes what is shown. */
let pressed: Element | null = null

/** Once, for as long as the page lives. */
export function keepFocus(): void {
  addEventListener('focusin', event => (last = event.target as HTMLElement))
  addEventListener('pointerdown', event => (pressed = event.target as Element), true)
  new MutationObserver(lookSoon).observe(document.body, { subtree: true, childList: true, attributes: true, attributeFilter: ['disabled', 'hidden'] })
}

let looking = false

/** A control that is disabled loses the focus in a task of its own, pictures later on a busy machine; by then it may not be so any more. */
function lookSoon(): void {
  if (last?.matches(':disabled') && last === document.activeElement) lost = last
  takeOver()
  if (looking) return
  looking = true
  requestAnimationFrame(() => requestAnimationFrame(lookAgain))
}

function lookAgain(): void {
  takeOver()
  if (lost === document.activeElement && lost?.matches(':disabled')) return void requestAnimationFrame(lookAgain)
  looking = false
  lost = null
}

/** The open dialog, or else the room, gets the focus: what had it is done with, and the next key is the room's. */
export function focusRoom(): void {
  findRoom()?.focus({ preventScroll: true })
}

function findRoom(): HTMLElement | null {
  return document.querySelector<HTMLElement>(OPEN_DIALOG) ?? document.querySelector('main')
}

function takeOver(): void {
  if (document.activeElement !== document.body || !last) return
  // Who clicked beside everything meant to leave it.
  const isPressedGone = pressed !== null && !pressed.isConnected
  if (last !== lost && !isPressedGone && last.isConnected && !last.matches(':disabled') && last.checkVisibility()) return
  const room = findRoom()
  // Between two rooms there is none: the next change is looked at again.
  if (!room) return
  last = pressed = null
  room.focus({ preventScroll: true })
}

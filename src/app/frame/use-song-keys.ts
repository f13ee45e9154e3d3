/** The keys that work in every room of a song. */
import { useEffect } from 'react'
import { useNavigate, useParams } from 'react-router'
import { focusRoom } from '../shared/keep-focus'
import { seek, togglePlaying } from '../song/live'
import { currentSong, redoStep, undoStep } from '../song/song-store'
import { rangeOf, useView } from '../song/view-store'
import { singAgain } from '../recording/recorder'
import { useLineDialog } from './line-dialog'
import { ROOMS } from './rooms'
import { useStepsDialog } from './steps-dialog'
import { useWordsDialog } from './words-dialog'

/** Keys with which a slider is moved. All others are the room's, whatever slider has the focus. */
const SLIDER_KEYS = new Set(['ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight', 'Home', 'End', 'PageUp', 'PageDown'])

/** Keys typed into a field, or used by a control that has the focus, are not ours. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement
  if (target.matches('[role=slider]')) return SLIDER_KEYS.has(event.key)
  return target.matches('input, textarea, select, [contenteditable]') || target.closest('[role=dialog], [role=alertdialog]') !== null
}

/** Text has an undo of its own. */
function isText(event: KeyboardEvent): boolean {
  return (event.target as HTMLElement).matches('textarea, [contenteditable], input:not([type=checkbox], [type=radio], [type=range])')
}

/** The button that got the focus by being clicked, until the focus is moved by keys. */
let clicked: Element | null = null
addEventListener('pointerdown', event => (clicked = (event.target as Element).closest('button, a, summary')), true)
addEventListener('keydown', event => event.key === 'Tab' && (clicked = null), true)

/** Space and Enter belong to a button that was reached by keys; one that was clicked has done its work. */
export function isOnButton(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement
  return target.matches('button, a, summary') && target !== clicked
}

/** The focus goes to the next card of the room, or the one before; past the last to the first. */
function stepCard(by: 1 | -1): void {
  const cards = [...document.querySelectorAll<HTMLElement>('main [data-card], [aria-label="Notices"] [role=alert]')].filter(card => card.checkVisibility())
  if (cards.length === 0) return
  const at = cards.findIndex(card => card.contains(document.activeElement))
  const next = cards[at < 0 ? (by > 0 ? 0 : cards.length - 1) : (at + by + cards.length) % cards.length]!
  next.tabIndex = -1
  next.focus()
  next.scrollIntoView({ block: 'nearest' })
}

/** Opens a dialog by a key, whose letter, held, is not typed into the field that gets the focus. */
function openBy(event: KeyboardEvent, open: () => void): void {
  event.preventDefault()
  const swallow = (again: KeyboardEvent) => again.repeat && again.key === event.key && again.preventDefault()
  addEventListener('keydown', swallow, true)
  addEventListener('keyup', () => removeEventListener('keydown', swallow, true), { once: true })
  open()
}

export function useSongKeys(): void {
  const navigate = useNavigate()
  const { songId } = useParams()
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const command = event.ctrlKey || event.metaKey
      if (command && event.key.toLowerCase() === 'z' && !isText(event)) {
        event.preventDefault()
        if (event.shiftKey) redoStep()
        else undoStep()
        return
      }
      // A choice made by keys is left as a typed number is: the next key is the room's again.
      if ((event.key === 'Enter' || event.key === 'Escape') && (event.target as HTMLElement).matches('main select, header select, footer select')) focusRoom()
      if (command || event.altKey || isTyping(event)) return
      const room = ROOMS[Number(event.key) - 1]
      if (event.key === ' ' && !isOnButton(event)) {
        event.preventDefault()
        togglePlaying()
      } else if (event.key === 'Home') {
        event.preventDefault()
        seek(rangeOf(currentSong(), useView.getState().selection).startFrame)
      } else if (event.key === 'l') useView.setState(state => ({ looping: !state.looping }))
      else if (event.key === 'k') useView.setState(state => ({ clicking: !state.clicking }))
      else if (event.key.toLowerCase() === 'g' && !event.repeat) singAgain(event.shiftKey ? 'word' : 'line', () => navigate(`/song/${songId}/booth`))
      else if (event.key.toLowerCase() === 'q') stepCard(event.shiftKey ? -1 : 1)
      else if (event.key === 'w') openBy(event, () => useWordsDialog.setState({ open: true }))
      else if (event.key === 'd') openBy(event, () => useLineDialog.setState({ open: true }))
      else if (event.key === 'u') openBy(event, () => useStepsDialog.setState({ open: true }))
      else if (room) void navigate(`/song/${songId}/${room.path}`)
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  }, [navigate, songId])
}

import { beforeEach, expect, jest, test } from '@jest/globals'
import type * as Gesture from './gesture'

let page: EventTarget
let gesture: typeof Gesture

const key = (name: 'keydown' | 'keyup', repeat = false) => page.dispatchEvent(Object.assign(new Event(name), { repeat }))

beforeEach(async () => {
  jest.resetModules()
  page = new EventTarget()
  globalThis.addEventListener = page.addEventListener.bind(page)
  gesture = await import('./gesture')
})

test('what a held key repeats is one gesture; it is held until it is let go', () => {
  key('keydown')
  const pressed = gesture.currentGesture()
  // The first press itself repeats nothing.
  expect(gesture.isHeldFrom(pressed)).toBe(false)
  for (let i = 0; i < 5; i++) key('keydown', true)
  expect(gesture.currentGesture()).toBe(pressed)
  expect(gesture.isHeldFrom(pressed)).toBe(true)
  key('keyup')
  expect(gesture.isHeldFrom(pressed)).toBe(false)
})

test('each new press, and each press of the pointer, is a gesture of its own', () => {
  const seen = new Set<number>()
  for (let i = 0; i < 3; i++) {
    key('keydown')
    seen.add(gesture.currentGesture())
    key('keyup')
  }
  page.dispatchEvent(new Event('pointerdown'))
  seen.add(gesture.currentGesture())
  expect(seen.size).toBe(4)
})

test('a step of an earlier press is not taken up by a key that is held now, and a pointer ends what was held', () => {
  key('keydown')
  const earlier = gesture.currentGesture()
  key('keyup')
  key('keydown')
  key('keydown', true)
  const now = gesture.currentGesture()
  expect([gesture.isHeldFrom(earlier), gesture.isHeldFrom(null), gesture.isHeldFrom(now)]).toEqual([false, false, true])
  page.dispatchEvent(new Event('pointerdown'))
  expect(gesture.isHeldFrom(now)).toBe(false)
})

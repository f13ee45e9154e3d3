import { describe, expect, test } from '@jest/globals'
import { laneOf, valueAt } from '../mix/lane'
import { placedLines } from '../song/select'
import { smallSong } from '../song/song.test-kit'
import { proposeRide } from './ride'

const song = smallSong()
const lines = placedLines(song)
const over = (values: readonly number[]) => new Map(values.map((value, i) => [lines[i]!.line.id, value]))
const middleOf = (i: number) => (lines[i]!.startFrame + lines[i]!.endFrame) / 2

describe('a ride', () => {
  test('brings every line to where the usual one is, in the middle of the line and from its beginning', () => {
    const { points, spreadLu, leftLu } = proposeRide(song, over([2, 5, 3]))!
    const lane = laneOf(points)
    expect([0, 1, 2].map(i => valueAt(lane, middleOf(i)))).toEqual([1, -2, 0])
    expect(valueAt(lane, lines[1]!.startFrame)).toBe(-2)
    expect([spreadLu, leftLu]).toEqual([3, 0])
    expect(points.every((point, i) => i === 0 || point.frame > points[i - 1]!.frame)).toBe(true)
  })

  test('goes no further than it may, and says what is left', () => {
    const { points, leftLu } = proposeRide(song, over([0, 10, 0]), { limitDecibels: 4 })!
    expect(valueAt(laneOf(points), middleOf(1))).toBe(-4)
    expect(leftLu).toBe(6)
  })

  test('brings a soft line up by half of that at most, with the breaths in it', () => {
    const { points } = proposeRide(song, over([0, -10, 0]))!
    expect(valueAt(laneOf(points), middleOf(1))).toBe(3)
  })

  test('goes on where it was given back a part, as far as it may, and tells how far the lines lay apart without it', () => {
    const values = over([0, 6, 3, 20])
    const left = over([-0.5, 1.5, 0, 15])
    const { points, spreadLu, leftLu } = proposeRide(song, values, { left })!
    const lane = laneOf(points)
    // The usual is 4.5: +3 and half a decibel more than may be, -1.5 and 1.5 more, +1.5, -6 at most.
    expect([0, 1, 2, 3].map(i => valueAt(lane, middleOf(i)))).toEqual([3, -3, 1.5, -6])
    expect(spreadLu).toBe(20)
    expect(leftLu).toBe(15.5)
  })

  test('of a send is added to what is sent', () => {
    const { points } = proposeRide(song, over([0, 3, 0]), { base: -18 })!
    expect([0, 1].map(i => valueAt(laneOf(points), middleOf(i)))).toEqual([-18, -21])
  })

  test.each([
    ['lie together', [1, 1.4, 0.8]],
    ['are but one', [4]],
    ['are silent', [-Infinity, -Infinity]],
  ])('is not proposed where lines %s', (_, values) => expect(proposeRide(song, over(values))).toBeNull())
})

import { describe, expect, test } from '@jest/globals'
import type { SpaceId } from '../song/mix-schema'
import type { Song } from '../song/schema'
import { layerOf } from '../song/song.test-kit'
import { setBeatMix } from './commands'
import { bare, offline, sung } from './mix.test-kit'
import { planMix } from './plan'
import { setSend, setSpace } from './spaces'

const base = sung()
const lead = layerOf(base, 'Lead')
const quiet = (song: Song) => setBeatMix(song, { muted: true })

describe('an echo of a song whose tempo drifts', () => {
  const ECHO = 'echo' as SpaceId
  /** From 2 Hz on each beat is a little longer than the one before it: 24 000 frames, then 200 more each. */
  const frames = Array.from({ length: 60 }, (_, beat) => 24_000 * beat + 100 * beat * (beat - 1))
  const drifting = (song: Song): Song => ({ ...song, beat: { ...song.beat, grid: { ...song.beat.grid, map: { firstBeat: 0, frames } } } })
  const takeFrom = (beat: number) => {
    const song = quiet(bare(base))
    const [pick] = song.layers[0].comps[0].picks
    const layers = song.layers.map(layer =>
      layer.id === lead ? { ...layer, comps: layer.comps.map(comp => ({ ...comp, picks: [{ ...pick, startFrame: frames[beat] }] })) } : layer,
    )
    return setSend(drifting({ ...song, layers }), { layerId: lead, spaceId: ECHO, gainDecibels: 0 })
  }

  test.each([1, 0.5, 1.5])('of %d beats: what begins on a beat comes back so many beats later', async beats => {
    const song = setSpace(takeFrom(17), { spaceId: ECHO, delayBeats: beats })
    const startFrame = frames[16]
    const [heard] = await offline(planMix(song, { kind: 'space', spaceId: ECHO }), { startFrame, endFrame: frames[20] })
    const onset = startFrame + heard.findIndex(x => Math.abs(x) > 0.02)
    const due = beats === 1 ? frames[18] : beats === 0.5 ? (frames[17] + frames[18]) / 2 : (frames[18] + frames[19]) / 2
    // It rises within 5 ms; on a beat its time is exact, between beats that of the beat before, of which 200 frames differ.
    expect(Math.abs(onset - due)).toBeLessThan(240 + (beats === 1 ? 60 : 200))
  })

  test('with a time of its own, or a steady tempo, nothing of it moves', () => {
    const own = setSpace(takeFrom(17), { spaceId: ECHO, delayBeats: null })
    const echoOf = (song: Song) => planMix(song).spaces.find(({ id }) => id === ECHO)!
    expect(echoOf(own).delays.length).toBe(0)
    expect(echoOf(quiet(bare(base))).delays.length).toBe(0)
    expect(echoOf(takeFrom(17)).delays.length).toBeGreaterThan(20)
  })
})

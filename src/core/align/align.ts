/** A voice brought to the lead's timing. */
import { SAMPLE_RATE_HZ, type Mono } from '../audio/frames'
import { resynthesise } from '../tune/resynthesise'
import { soundingAt, timeMapOf } from '../tune/time-map'
import { trackPitch } from '../voice/pitch'
import { findAnchors, placeOf, type Anchor } from './follow'
import { timesOf } from './times'

/**
 * @param lead One channel at 48 kHz; so is the other, whose frame 0 sounds with the lead's.
 * @param tightness 0: as sung, to the bit; 1: every syllable where the lead's is.
 * @returns the other on the lead's time line, as long as the lead; and where each anchor was and comes to be.
 */
export function align(lead: Mono, other: Mono, tightness: number): { sound: Mono; anchors: Anchor[]; afterSeconds: number[] } {
  const anchors = findAnchors(lead, other)
  const times = timesOf(anchors.map(placeOf), tightness)
  const time = timeMapOf(times)
  const laid = new Float32Array(Math.max(lead.length, other.length))
  laid.set(other)
  const isMoved = times.some(({ laterFrames }) => laterFrames !== 0)
  const sound = isMoved ? resynthesise(laid, { pitch: pitchOf(laid), centsAt: () => 0, time }) : laid
  const afterSeconds = anchors.map(({ otherSeconds }) => soundingAt(time, otherSeconds * SAMPLE_RATE_HZ) / SAMPLE_RATE_HZ)
  return { sound: sound.subarray(0, lead.length) as Mono, anchors, afterSeconds }
}

function pitchOf(voice: Mono) {
  const { f0Hz, hopSeconds } = trackPitch(voice)
  return { f0Hz, hopFrames: Math.round(hopSeconds * SAMPLE_RATE_HZ) }
}

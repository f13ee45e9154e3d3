/** The beat gives way while voices sound: a dip where they live, and a little of all of it. */
import { decibelsToGain } from '../audio/decibels'
import { BLOCK_FRAMES } from '../audio/frames'
import { bandPass, StereoBiquad } from '../effects/biquad'
import { Glide } from '../effects/glide'
import type { BeatRoom } from '../song/beat-room'
import { makePair } from './bus'
import { VoiceShare } from './voice-share'

/** A beat that leaps out of the way is heard to do so. */
const ATTACK_SECONDS = 0.04

/** Block by block; where no voice sounds, the beat passes to the bit. A band lowered by g has the response |1 - (1 - g) H|. */
export class BeatDip {
  /** The beat of the block, to be written before `soften`. */
  readonly beat = makePair()
  private readonly band = makePair()
  private readonly filter: StereoBiquad
  private readonly dip: Glide
  private readonly level: Glide
  private readonly voices: VoiceShare
  private wasAsked = false

  constructor(private room: BeatRoom) {
    this.filter = new StereoBiquad(bandPass(room.frequencyHz, room.bandQ))
    this.dip = new Glide(room.dipDecibels)
    this.level = new Glide(room.levelDecibels)
    this.voices = new VoiceShare(ATTACK_SECONDS, room.releaseSeconds)
  }

  set(room: BeatRoom): void {
    if (room.frequencyHz !== this.room.frequencyHz || room.bandQ !== this.room.bandQ) this.filter.set(bandPass(room.frequencyHz, room.bandQ))
    this.room = room
    this.dip.set(room.dipDecibels)
    this.level.set(room.levelDecibels)
    this.voices.set(room.releaseSeconds)
  }

  reset(): void {
    this.filter.reset()
    this.dip.settle()
    this.level.settle()
    this.voices.reset()
    this.wasAsked = false
  }

  /** Nothing gives way, whatever is sung. */
  get isIdle(): boolean {
    const { dip, level } = this
    return dip.from === 0 && dip.to === 0 && dip.isSettled && level.from === 0 && level.to === 0 && level.isSettled
  }

  /** All voices together, by their peak. */
  hear(peak: number): void {
    this.voices.hear(peak)
  }

  /** Takes from the beat what gives way. */
  soften(): void {
    const { beat, band, voices, dip, level } = this
    dip.advance()
    level.advance()
    voices.advance()
    const isAsked = voices.to > 0 || voices.from > 0
    if (!isAsked && !this.wasAsked) return
    this.wasAsked = isAsked
    const takenAt = (share: number, decibels: number) => 1 - decibelsToGain(-decibels * share)
    const [fromDip, fromLevel] = [takenAt(voices.from, dip.from), decibelsToGain(-level.from * voices.from)]
    const [toDip, toLevel] = [takenAt(voices.to, dip.to), decibelsToGain(-level.to * voices.to)]
    for (let side = 0; side < 2; side++) band[side].set(beat[side])
    this.filter.process(band[0], band[1])
    for (let side = 0; side < 2; side++) {
      for (let i = 0; i < BLOCK_FRAMES; i++) {
        const part = i / BLOCK_FRAMES
        const taken = fromDip + part * (toDip - fromDip)
        beat[side][i] = (fromLevel + part * (toLevel - fromLevel)) * (beat[side][i] - taken * band[side][i])
      }
    }
  }
}

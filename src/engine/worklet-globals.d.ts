/** What the audio worklet's scope offers; TypeScript's DOM library leaves it out. */
declare const currentFrame: number
declare const sampleRate: number
declare class AudioWorkletProcessor {
  readonly port: MessagePort
}
declare function registerProcessor(name: string, processor: unknown): void

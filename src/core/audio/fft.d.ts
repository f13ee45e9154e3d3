declare module 'fft.js' {
  export default class FFT {
    constructor(size: number)
    readonly size: number
    createComplexArray(): number[]
    realTransform(out: number[] | Float64Array, data: ArrayLike<number>): void
    transform(out: number[] | Float64Array, data: ArrayLike<number>): void
    inverseTransform(out: number[] | Float64Array, data: ArrayLike<number>): void
    completeSpectrum(out: number[] | Float64Array): void
  }
}

/** fft.js ships no types. Complex arrays hold real and imaginary parts in turn. */
declare module 'fft.js' {
  export default class FFT {
    constructor(size: number);
    createComplexArray(): number[];
    realTransform(out: number[], input: ArrayLike<number>): void;
    completeSpectrum(spectrum: number[]): void;
    inverseTransform(out: number[], spectrum: ArrayLike<number>): void;
  }
}

/** Hertz on the mel scale (O'Shaughnessy 1987). */
export const melOf = (hertz: number): number => 2595 * Math.log10(1 + hertz / 700);
/** What is at a place of the mel scale, in hertz. */
export const hertzOf = (mel: number): number => 700 * (10 ** (mel / 2595) - 1);

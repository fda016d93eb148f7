/** What a CTC network says of each frame: natural logarithms of how likely each token is, frame by frame. */
export interface Posteriors {
  readonly logProbabilities: Float32Array;
  readonly frames: number;
  readonly classes: number;
}

/** Frames `[from, to)` at which a token is said. */
export interface TokenFrames {
  readonly from: number;
  readonly to: number;
}

/** More than this is not gone through: states of some minutes of speech. */
const MOST_CELLS = 60_000_000;

/** The tokens that are likeliest at each frame, repeats and blanks left out. */
export function likeliestTokens({ logProbabilities, frames, classes }: Posteriors, blank: number): number[] {
  const found: number[] = [];
  let before = blank;
  for (let frame = 0; frame < frames; frame++) {
    let best = 0;
    for (let k = 1; k < classes; k++)
      if ((logProbabilities[frame * classes + k] as number) > (logProbabilities[frame * classes + best] as number)) best = k;
    if (best !== blank && best !== before) found.push(best);
    before = best;
  }
  return found;
}

/**
 * Puts tokens under the frames of a CTC network: the likeliest of all paths that read like them (Graves et al. 2006; as forced alignment
 * Kürzinger et al. 2020).
 * @returns undefined where there are too few frames for so many tokens, or too much to go through
 */
export function alignTokens(posteriors: Posteriors, tokens: readonly number[], blank: number): TokenFrames[] | undefined {
  const { logProbabilities, frames, classes } = posteriors;
  // Before, between and behind the tokens stands a blank that may be left out, but between two that are the same.
  const states = 2 * tokens.length + 1;
  if (tokens.length === 0) return [];
  if (frames < tokens.length || frames * states > MOST_CELLS) return undefined;
  const tokenAt = (state: number): number => (state % 2 === 0 ? blank : (tokens[state >> 1] as number));
  const mayLeap = Array.from(
    { length: states },
    (_, state) => state > 1 && state % 2 === 1 && tokenAt(state) !== tokenAt(state - 2),
  );
  let best = new Float64Array(states).fill(Number.NEGATIVE_INFINITY);
  let next = new Float64Array(states);
  const steps = new Uint8Array(frames * states);
  for (const state of [0, 1]) best[state] = logProbabilities[tokenAt(state)] as number;
  for (let frame = 1; frame < frames; frame++) {
    const row = frame * classes;
    for (let state = 0; state < states; state++) {
      let [from, step] = [best[state] as number, 0];
      if (state > 0 && (best[state - 1] as number) > from) [from, step] = [best[state - 1] as number, 1];
      if (mayLeap[state] && (best[state - 2] as number) > from) [from, step] = [best[state - 2] as number, 2];
      next[state] = from + (logProbabilities[row + tokenAt(state)] as number);
      steps[frame * states + state] = step;
    }
    [best, next] = [next, best];
  }
  let state = (best[states - 1] as number) >= (best[states - 2] as number) ? states - 1 : states - 2;
  if (best[state] === Number.NEGATIVE_INFINITY) return undefined;
  const places = tokens.map(() => ({ from: frames, to: 0 }));
  for (let frame = frames - 1; frame >= 0; frame--) {
    const place = state % 2 === 1 ? places[state >> 1] : undefined;
    if (place) {
      place.from = frame;
      place.to = Math.max(place.to, frame + 1);
    }
    state -= steps[frame * states + state] as number;
  }
  return places;
}

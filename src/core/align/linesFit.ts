import { totalLength, union } from '../time/range.ts';
import type { Passage } from '../transcript/roughTranscript.ts';
import { Beginnings } from './beginnings.ts';
import { MOST_OVER_BY_LINE } from './fitted.ts';
import { shareOut } from './share.ts';
import type { SoundToFit } from './wordsClock.ts';

/** Fewer lines say nothing ... */
const ENOUGH = 20;
/** ... nor do those that follow one another without a pause. */
const MOST_COVERED = 0.92;

/**
 * Whether lines stand where they are said, as far as that can be told: words that are shared out over a line, whatever is silent in it, begin
 * over silence less often than by chance. Lines of another recording do not.
 */
export function linesFit(passages: readonly Passage[], { duration, silences }: SoundToFit): boolean {
  const over = overSilenceOfLines(passages, { duration, silences });
  return over === undefined || over <= MOST_OVER_BY_LINE;
}

/** How often the words of all lines begin over silence, beside chance; undefined where that says nothing. */
export function overSilenceOfLines(passages: readonly Passage[], { duration, silences }: SoundToFit): number | undefined {
  const lines = passages.flatMap(({ start, end, tokens }) =>
    start !== undefined && end !== undefined && tokens[0]?.start === undefined ? [{ start, end, tokens }] : [],
  );
  const covered = union(lines);
  const [first, last] = [covered[0], covered.at(-1)];
  if (lines.length < ENOUGH || !first || !last || totalLength(covered) > MOST_COVERED * (last.end - first.start))
    return undefined;
  const words = lines.flatMap(({ tokens, ...line }) =>
    shareOut(
      tokens.map(({ text }) => text),
      line,
      [],
    ),
  );
  return new Beginnings(silences, duration).leastOverSilence(words);
}

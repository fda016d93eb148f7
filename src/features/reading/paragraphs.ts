import type { Layout } from '@/core/decisions/layout.ts';
import { paragraphsOf } from '@/core/interchange/transcripts/lines.ts';
import { arrangeAll } from '@/core/programme/arrangement.ts';
import { indexAt, type Recording } from '@/core/sources/recording.ts';
import type { Seconds } from '@/core/time/range.ts';
import type { Word } from '@/core/transcript/word.ts';
import { wordsIn } from '@/core/transcript/wordsIn.ts';

/** A pause of this length, after a sentence, starts a paragraph. */
const PARAGRAPH_PAUSE: Seconds = 1.5;
/** Decisions carry whole milliseconds. */
const SAME: Seconds = 0.002;

export type SetParagraph = ReturnType<typeof paragraphsOf>[number] & {
  /** index of its first word among all words */
  readonly first: number;
  /** another recording begins with it, at this moment of the clock */
  readonly begins: Seconds | undefined;
  /** it stands elsewhere than it was said */
  readonly isMoved: boolean;
};

/** The words as they are heard: what was moved stands where it went, and what was removed is not there. */
export function paragraphsAsHeard(
  words: readonly Word[],
  recordings: readonly Recording[],
  { removed, moves }: Pick<Layout, 'removed' | 'moves'>,
): SetParagraph[] {
  let before = -1;
  return arrangeAll(recordings, { removed, moves }).flatMap((passage) => {
    const recording = indexAt(recordings, passage.start);
    const begins = recordings.length > 1 && recording !== before ? passage.start : undefined;
    const isMoved = moves.some(({ about }) => Math.abs(about.start - passage.start) < SAME);
    const [first, last] = wordsIn(words, passage);
    before = recording;
    let next = first;
    return paragraphsOf(words.slice(first, last), PARAGRAPH_PAUSE).map((paragraph, k): SetParagraph => {
      const from = next;
      next += paragraph.words.length;
      return { ...paragraph, first: from, begins: k === 0 ? begins : undefined, isMoved: k === 0 && isMoved };
    });
  });
}

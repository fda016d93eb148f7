import type { TextStep } from '../align/corrections.ts';
import { overlapOf, type Range, type Seconds, toMillis } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import { wordsIn } from '../transcript/wordsIn.ts';

/** A range moved along the time axis. */
export const shiftRange = ({ start, end }: Range, by: Seconds): Range => ({ start: start + by, end: end + by });

/** Words carry whole milliseconds: a sum of two of them is rounded back to one. */
export const shiftWord = (word: Word, by: Seconds): Word => ({
  ...word,
  start: toMillis(word.start + by),
  end: toMillis(word.end + by),
});

/** The words of a recording, in its own time. */
export function wordsOf(words: readonly Word[], recording: Range): readonly Word[] {
  const [first, last] = wordsIn(words, recording);
  const own = words.slice(first, last);
  return recording.start === 0 ? own : own.map((word) => shiftWord(word, -recording.start));
}

/** The words on the clock with those of one recording put in place of what it has. Words past its end are left out. */
export function replaceWords(words: readonly Word[], recording: Range, fresh: readonly Word[]): Word[] {
  const middle = ({ start, end }: Word): Seconds => (start + end) / 2;
  const own = fresh.map((word) => shiftWord(word, recording.start)).filter((word) => middle(word) < recording.end);
  return [
    ...words.filter((word) => middle(word) < recording.start),
    ...own,
    ...words.filter((word) => middle(word) >= recording.end),
  ];
}

/** Corrections as far as they are about a recording, in its own time. */
export function stepsOf(steps: readonly TextStep[], recording: Range): readonly TextStep[] {
  const isHere = (about: Range) => overlapOf(about, recording) > 0;
  const own = <T extends Range>(about: T): T => ({ ...about, ...shiftRange(about, -recording.start) });
  return steps.flatMap((step): TextStep[] => {
    if (step.type === 'speaker') {
      if (!step.about) return [step];
      return isHere(step.about) ? [{ ...step, about: own(step.about) }] : [];
    }
    if (step.type === 'found')
      return isHere(step.about) ? [{ ...step, about: own(step.about), places: step.places.map(own) }] : [];
    const changes = step.changes.filter(({ about }) => isHere(about));
    return changes.length === 0 ? [] : [{ ...step, changes: changes.map((change) => ({ ...change, about: own(change.about) })) }];
  });
}

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EXACT_TIMES } from '../align/timing.ts';
import { DEFAULT_SETTINGS } from '../detect/settings.ts';
import { mapIncrementally, searchIncrementally } from '../transcript/incrementalSearch.ts';
import { Memory } from '../transcript/memory.ts';
import type { Word } from '../transcript/word.ts';
import { curve, quiet, SPEECH_PARTS, said, VOICE } from './made.test-help.ts';
import { fillers, judgedFillers } from './words/fillers.ts';
import { repeats } from './words/repeats.ts';
import { spokenOf } from './words/spoken.ts';

const SPOKEN = ['um', 'the', 'the', 'you', 'know,', 'like', 'so', 'I', 'mean', 'clock.', 'and', 'then', 'very', 'spring', '|'];
const text = (most: number) => fc.array(fc.constantFrom(...SPOKEN), { maxLength: most }).map((parts) => parts.join(' '));
/** A text, then the same after corrections at several places, one after another. */
const texts = fc
  .tuple(text(60), fc.array(fc.tuple(fc.nat(60), fc.nat(4), text(5)), { minLength: 1, maxLength: 4 }))
  .map(([before, changes]) =>
    changes.reduce<(readonly Word[])[]>(
      (all, [at, gone, fresh]) => all.concat([(all.at(-1) ?? []).toSpliced(at, gone, ...said(fresh))]),
      [said(before)],
    ),
  );
/** Others than the same words: nothing of them can be taken over. */
const copied = (words: readonly Word[]) => words.map((word) => ({ ...word }));

describe('what is worked out again after a correction', () => {
  it('finds the fillers and repeats that are found afresh', () => {
    const material = { ...quiet, levels: [curve([1, VOICE])], words: [] };
    const sound = () => ({ silences: [], timing: EXACT_TIMES });
    const preparedWith = (words: readonly Word[], memory = new Memory()) => {
      const spoken = spokenOf(words, 'en', sound, memory, SPEECH_PARTS.of);
      return { fillers: fillers.prepare(material, () => spoken), repeats: repeats.prepare(material, () => spoken) };
    };
    const found = (prepared: ReturnType<typeof preparedWith>) => ({
      fillers: judgedFillers(prepared.fillers, DEFAULT_SETTINGS),
      repeats: repeats.detect(prepared.repeats, DEFAULT_SETTINGS, { takes: [], removed: [] }),
    });
    /** What is found in one text after the other, each worked out from the one before. */
    const inTurn = (texts: readonly (readonly Word[])[]) => {
      const memory = new Memory();
      let prepared = preparedWith(texts[0] ?? [], memory);
      return texts.map((words, k) => {
        const spoken = spokenOf(words, 'en', sound, memory, SPEECH_PARTS.of);
        if (k > 0)
          prepared = {
            fillers: fillers.reword?.(prepared.fillers, spoken) ?? prepared.fillers,
            repeats: repeats.reword?.(prepared.repeats, spoken) ?? prepared.repeats,
          };
        return found(prepared);
      });
    };
    let hits = 0;
    fc.assert(
      fc.property(texts, (steps) => {
        const again = inTurn(steps);
        const afresh = steps.map((words) => found(preparedWith(copied(words))));
        expect(again).toEqual(afresh);
        hits += afresh.reduce((sum, { fillers, repeats }) => sum + fillers.length + repeats.length, 0);
      }),
    );
    expect(hits).toBeGreaterThan(100);
  });

  it('maps only the words that were written anew', () => {
    const words = said('one two three four five');
    let mapped = 0;
    const lengths = mapIncrementally(({ text }) => {
      mapped++;
      return text.length;
    });
    expect(lengths(words)).toEqual([3, 3, 5, 4, 4]);
    expect(lengths(words.toSpliced(1, 2, ...said('twenty')))).toEqual([3, 6, 4, 4]);
    expect(mapped).toBe(6);
    expect(lengths([])).toEqual([]);
  });

  it('looks only within reach of them, and goes on until both searches are at the same', () => {
    const words = said(Array.from({ length: 40 }, (_, k) => (k % 4 === 0 ? 'um' : 'oil')).join(' '));
    const looked: number[] = [];
    const search = (list: readonly Word[], last: Parameters<typeof searchIncrementally>[1]) =>
      searchIncrementally(list, last, {
        reach: 2,
        at: (k) => {
          looked.push(k);
          return list[k]?.text === 'um' ? { first: k, next: k + 2 } : undefined;
        },
        moved: ({ first, next }, by) => ({ first: first + by, next: next + by }),
      });
    const hits = search(words, undefined);
    expect(hits.map(({ first }) => first)).toEqual([0, 4, 8, 12, 16, 20, 24, 28, 32, 36]);
    looked.length = 0;
    const longer = words.toSpliced(21, 1, ...said('um um'));
    expect(search(longer, { words, hits }).map(({ first }) => first)).toEqual([0, 4, 8, 12, 16, 20, 22, 25, 29, 33, 37]);
    expect(looked.length).toBeLessThan(10);
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { said } from '../detect/made.test-help.ts';
import { sentenceAt, spanOf, WordFinder, writtenLike } from './find.ts';

const words = said('Émile oiled the clock. Then Emile, the clock man, went home to the Clocks.');
const finder = new WordFinder();
const at = (wanted: string, whole = false) => finder.find(words, wanted, whole).firsts;

describe('finding words', () => {
  it('is blind to case, accents and signs, and takes the last word as begun', () => {
    expect(at('emile')).toEqual([0, 5]);
    expect(at('THE CLOCK')).toEqual([2, 6, 12]);
    expect(at('the clock', true)).toEqual([2, 6]);
    expect(at('cl')).toEqual([3, 7, 13]);
  });

  it('finds nothing for nothing, and nothing that is not said in a row', () => {
    expect(at('')).toEqual([]);
    expect(at(' … ')).toEqual([]);
    expect(at('oiled clock')).toEqual([]);
  });

  it('tells the time of a place, and the sentence round a word', () => {
    expect(spanOf(words, 2, 2)).toEqual({ start: 1.5, end: 2 });
    expect(sentenceAt(words, 2)).toEqual([0, 4]);
    expect(sentenceAt(words, 7)).toEqual([4, words.length]);
  });

  it('writes a replacement as what it replaces was written', () => {
    expect(writtenLike(words.slice(5, 6), 'emil')).toBe('Emil,');
    expect(writtenLike(words.slice(3, 4), 'watch')).toBe('watch.');
    expect(writtenLike(words.slice(3, 4), 'watch!')).toBe('watch!');
  });
});

describe('finding in words of which some were written anew', () => {
  it('is the same as finding in all of them afresh', () => {
    const some = fc.array(fc.constantFrom('the', 'clock', 'oil', 'Émile', 'man'), { maxLength: 12 });
    fc.assert(
      fc.property(some, some, fc.nat(12), fc.nat(12), (old, fresh, at, gone) => {
        const before = said(old.join(' '));
        const after = before.toSpliced(at, gone, ...said(fresh.join(' ')));
        finder.find(before, 'the');
        const copied = after.map((word) => ({ ...word }));
        for (const wanted of ['the', 'cl', 'emile man'])
          expect(finder.find(after, wanted)).toEqual(new WordFinder().find(copied, wanted));
        const plainly = (text: string) => text.toLowerCase().replace('é', 'e');
        const counted = after.filter(({ text }) => plainly(text) === 'emile').length;
        expect(finder.find(after, 'emile', true).firsts).toHaveLength(counted);
      }),
    );
  });
});

import { describe, expect, it } from 'vitest';
import { FILLER_RULES } from '@/core/detect/words/fillerRules.ts';
import { reasonsFor } from './reasons.ts';
import { FILLER_REASONS } from './reasonWords.ts';

describe('why something is proposed, in words', () => {
  it('has words for every rule, and for none that is gone', () => {
    expect(Object.keys(FILLER_REASONS).sort()).toEqual([...FILLER_RULES].sort());
  });

  it('says of a retake what is the same, what is said otherwise, and what the ear says', () => {
    const evidence = { matches: 7, broken: 1, cue: 1, listened: 1, heardAlike: 1, worst: 0.3, 'otherwise nine / twelve': 1 };
    expect(reasonsFor({ kind: 'retake', evidence })).toEqual([
      '7 words the same',
      'but said otherwise: nine / twelve',
      'one of them breaks off',
      'a word to whoever cuts stands between',
      'sounds alike all through',
    ]);
    expect(reasonsFor({ kind: 'retake', evidence: { matches: 7, equal: 1, listened: 1, wordsBetween: 4 } })).toEqual([
      'word for word the same',
      'but something else is said between',
      'but it does not sound alike',
    ]);
  });

  it('says of a hesitation whether it sounds like one, and whether the recogniser was sure', () => {
    expect(reasonsFor({ kind: 'filler', evidence: { hesitation: 1, listened: 1, soundsLike: 0.4, sure: 0.5 } })).toEqual([
      'a hesitation, whatever stands round it',
      'it sounds like hesitating',
      'the recogniser was not sure of it',
    ]);
    expect(
      reasonsFor({ kind: 'filler', evidence: { heldSeconds: 0.4, listened: 1, soundsLike: -7, wordsMissing: 0.1 } }),
    ).toEqual([
      'voiced sound held for 0.4 s where no word is written',
      'it does not sound like hesitating',
      'but this transcript leaves out other words as well',
    ]);
    expect(reasonsFor({ kind: 'filler', evidence: { underWord: 1, listened: 1, soundsLike: 0 } })).toEqual([
      'under a written word',
      'it sounds like hesitating',
    ]);
  });
});

import { describe, expect, it } from 'vitest';
import { EMBEDDING_RATE } from '../../curves/embedding.ts';
import { word } from '../made.test-help.ts';
import { checkedHesitations } from './writtenHesitations.ts';

describe('hesitations that a recogniser heard', () => {
  // The sound is like hesitating from 2 to 2.5 s, and nowhere else.
  const codes = Uint8Array.from({ length: 10 * EMBEDDING_RATE }, (_, k) =>
    k >= 2 * EMBEDDING_RATE - 3 && k <= 2.5 * EMBEDDING_RATE + 3 ? 160 : 0,
  );
  const unsure = (text: string, start: number, end: number) => ({ ...word(text, start, end), confidence: 0.6 });

  it('are written where the sound is like hesitating, and not over a breath', () => {
    const words = [word('the', 1, 1.2), unsure('uh', 2, 2.5), word('wheel', 3, 3.4), unsure('uh', 5, 5.3), word('turns', 6, 6.4)];
    expect(checkedHesitations(words, 'en', [{ codes }]).map(({ text, start }) => `${text} ${start}`)).toEqual([
      'the 1',
      'uh 2',
      'wheel 3',
      'turns 6',
    ]);
  });

  it('are the only words that are checked', () => {
    const words = [word('right', 5, 5.3), word('so', 6, 6.2)];
    expect(checkedHesitations(words, 'en', [{ codes }])).toEqual(words);
  });
});

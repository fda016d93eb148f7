import { describe, expect, it } from 'vitest';
import { wordsOfTokens } from './tokenWords.ts';

const texts = (tokens: readonly string[]) =>
  wordsOfTokens({ tokens, timestamps: tokens.map((_, k) => k / 5) }, 100).map(({ text }) => text);

describe('words of tokens', () => {
  it.each<[string, string[], string[]]>([
    [
      'pieces that begin with a mark',
      ['▁the', '▁main', 'spring', ',', '▁lets', '▁go', '.'],
      ['the', 'mainspring,', 'lets', 'go.'],
    ],
    ['pieces that begin with a space', [' tick', ' tock', 'ing'], ['tick', 'tocking']],
    ['pieces that are marked where they go on', ['main@@', 'spring', 'lets', 'go'], ['mainspring', 'lets', 'go']],
    ['letters with spaces between them', ['a', ' ', 'o', 'i', 'l', ' ', 'c', 'a', 'n'], ['a', 'oil', 'can']],
    ['a script without spaces', ['钟', '表', '很', '准'], ['钟', '表', '很', '准']],
    ['two scripts', ['▁the', '钟', '▁is', '▁right'], ['the', '钟', 'is', 'right']],
    ['tokens that are no text', ['<|en|>', '▁oil', '<unk>', '[noise]', '▁it'], ['oil', 'it']],
    ['a mark of its own', ['▁', 'o', 'il', '▁', 'it'], ['oil', 'it']],
    ['nothing', [], []],
    ['a comma alone', [','], []],
  ])('are told by the tokens: %s', (_, tokens, words) => {
    expect(texts(tokens)).toEqual(words);
  });

  it('have the times of their tokens, end before the next begins, and are as likely as their tokens', () => {
    const words = wordsOfTokens(
      {
        tokens: ['▁main', 'spring', '▁go', '▁now'],
        timestamps: [1, 1.2, 1.4, 3],
        logProbabilities: [Math.log(0.9), Math.log(0.7), Math.log(0.5), 0],
      },
      3.1,
    );
    expect(words.map(({ start, end }) => [start, end])).toEqual([
      [1, 1.4],
      [1.4, 1.7],
      [3, 3.1],
    ]);
    expect(words.map(({ confidence }) => confidence)).toEqual([expect.closeTo(0.8), expect.closeTo(0.5), 1]);
    const lasting = wordsOfTokens({ tokens: ['▁go'], timestamps: [1], durations: [0.08] }, 5);
    expect(lasting).toEqual([{ text: 'go', start: 1, end: 1.08 }]);
  });
});

import { describe, expect, it } from 'vitest';
import { dictionaryOf, placesInChain, type Segment, spokenForm, wordChain } from './wordChain.ts';

const says = dictionaryOf(
  new Map([
    ['the', ['DH AH', 'DH IY']],
    ['mainspring', ['M EY N S P R IH NG']],
    ["isn't", ['IH Z AH N T']],
    ['wound', ['W UW N D']],
    ['well', ['W EH L']],
  ]),
);
const segments = (...found: readonly [word: string, seconds: number][]): Segment[] => {
  let at = 0;
  return found.map(([word, seconds]) => {
    const start = at;
    at += seconds;
    return { word, start, end: at, frames: Math.round(100 * seconds), score: -1000 * seconds };
  });
};

describe('how a written word is said', () => {
  it.each([
    ['The', ['the']],
    ['mainspring,', ['mainspring']],
    ['“isn’t', ["isn't"]],
    ['well-wound', ['well', 'wound']],
    ['escapement', []],
    ['well-oiled', []],
    ['1840', []],
    ['</s>', []],
    ['the\nFSG_END', []],
  ])('%j', (text, form) => {
    expect(spokenForm(text, says)).toEqual(form);
  });
});

describe('the grammar of a line', () => {
  it('is a chain of its words, with every way to say them', () => {
    const { grammar, dictionary } = wordChain([['the'], ['mainspring']], says);
    expect(grammar.split('\n').filter((line) => line.startsWith('TRANSITION'))).toEqual([
      'TRANSITION 0 1 1 the',
      'TRANSITION 1 2 1 mainspring',
    ]);
    expect(grammar).toContain('FINAL_STATE 2\n');
    expect(dictionary).toBe('the DH AH\nthe(2) DH IY\nmainspring M EY N S P R IH NG\n');
  });

  it('lets any row of sounds stand for a word that the dictionary lacks', () => {
    const { grammar, dictionary } = wordChain([['the'], [], ['well']], says);
    expect(grammar).toContain('TRANSITION 1 2 0.02 -M\n');
    expect(grammar).toContain('TRANSITION 2 2 0.02 -M\n');
    expect(grammar).toContain('TRANSITION 2 3 1\nTRANSITION 3 4 1 well\n');
    expect(dictionary).toContain('-M M\n');
  });
});

describe('what a decoder found by it', () => {
  it('tells where each word is, with what else sounds beside it', () => {
    const found = segments(['<sil>', 0.5], ['the', 0.2], ['[UH]', 0.3], ['well', 0.4], ['wound', 0.3], ['<sil>', 1]);
    const places = placesInChain(found, [['the'], ['well', 'wound']]);
    expect(places).toMatchObject([
      { start: 0.5, sounds: 1, isKnown: true },
      { start: 1, sounds: 1, isKnown: true },
    ]);
    expect(places?.[1]?.end).toBeCloseTo(1.7);
    expect(places?.[1]?.likeness).toBeCloseTo(-10);
  });

  it('gives a hesitation that is written all that is held there', () => {
    const found = segments(['the', 0.2], ['[ER]', 0.3], ['er', 0.1], ['[UH]', 0.2], ['well', 0.4]);
    const places = placesInChain(found, [['the'], ['er'], ['well']]);
    expect(places?.map(({ start, end }) => [start, end].map((at) => Math.round(10 * at)))).toEqual([
      [0, 2],
      [2, 8],
      [8, 12],
    ]);
    expect(places?.[1]?.sounds).toBe(0);
  });

  it('tells unknown words beside one another apart', () => {
    const found = segments(['-M', 0.1], ['-EY', 0.2], ['=W', 0.1], ['<sil>', 0.1], ['=D', 0.2], ['-M', 0.2]);
    const places = placesInChain(found, [[], [], []]);
    expect(places?.map(({ start, end }) => [start, end].map((at) => Math.round(10 * at)))).toEqual([
      [0, 3],
      [3, 7],
      [7, 9],
    ]);
  });

  it('is nothing where a word is missing, or another one is there', () => {
    expect(placesInChain(segments(['the', 0.2]), [['the'], ['well']])).toBeUndefined();
    expect(placesInChain(segments(['the', 0.2], ['well', 0.2]), [['the']])).toBeUndefined();
    expect(placesInChain(segments(['well', 0.2]), [['well', 'wound']])).toBeUndefined();
    expect(placesInChain([], [['the']])).toBeUndefined();
    expect(placesInChain(segments(['<sil>', 1]), [])).toEqual([]);
  });
});

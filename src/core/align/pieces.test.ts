import { describe, expect, it } from 'vitest';
import { piecesOf, readTokenNumbers } from './pieces.ts';

const numbers = readTokenNumbers("<blk> 0\n▁LAN 1\n▁ 2\nL 3\nA 4\nN 5\nT 6\nERN 7\nE 8\nR 9\n▁LANTERN 10\n▁D 11\nON 12\n' 13\n");

describe('the tokens of a word', () => {
  it('are as few as there can be, in letters that the network writes', () => {
    expect(piecesOf('lantern,', numbers)).toEqual([10]);
    expect(piecesOf('Lant', numbers)).toEqual([1, 6]);
    expect(piecesOf('eel', numbers)).toEqual([2, 8, 8, 3]);
  });

  it('keep an apostrophe where the network writes it', () => {
    expect(piecesOf('don’t', numbers)).toEqual([11, 12, 13, 6]);
  });

  it('follow what stands between words, in networks of letters', () => {
    for (const between of [' ', '|']) {
      const letters = readTokenNumbers(`${between} 0\na 1\nb 2\n<blk> 3\n`);
      expect(piecesOf('Ab', letters)).toEqual([0, 1, 2]);
    }
  });

  it('are none where a letter is not written by it, or there are no letters', () => {
    expect(piecesOf('fog', numbers)).toBeUndefined();
    expect(piecesOf('–', numbers)).toBeUndefined();
  });
});

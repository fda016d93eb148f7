import { describe, expect, it } from 'vitest';
import type { Word } from '@/core/transcript/word.ts';
import { withHeard } from './arriving.ts';

const word = (text: string, start: number): Word => ({
  text,
  start,
  end: start + 0.5,
  confidence: 1,
  speaker: '',
  timing: 'measured',
});

describe('words that arrive', () => {
  it('take the place of those of the same stretch, and the rest stays until it is heard', () => {
    const before = [word('old', 1), word('older', 12), word('oldest', 30)];
    const heard = [word('new', 1.1), word('newer', 31)];
    const stretches = [
      { start: 0, end: 10 },
      { start: 25, end: 40 },
    ];
    expect(withHeard(before, heard, stretches).map(({ text }) => text)).toEqual(['new', 'older', 'newer']);
    expect(withHeard(before, [], [{ start: 0, end: 20 }]).map(({ text }) => text)).toEqual(['oldest']);
    expect(withHeard([], heard, stretches)).toEqual(heard);
  });
});

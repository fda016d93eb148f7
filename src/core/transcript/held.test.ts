import { describe, expect, it } from 'vitest';
import { isHeld } from './held.ts';

describe('words that are held while one thinks', () => {
  it.each(['um', 'Umm,', 'uh', 'uhm', 'er...', 'errr', 'erm', 'hmm', 'mm', 'ah', 'eh', 'oh'])('“%s” is one', (word) => {
    expect(isHeld(word)).toBe(true);
  });

  it.each(['a', 'am', 'her', 'hum', 'm', 'o', 'ohm', 'the', 'umbrella', ''])('“%s” is none', (word) => {
    expect(isHeld(word)).toBe(false);
  });
});

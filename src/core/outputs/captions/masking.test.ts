import { describe, expect, it } from 'vitest';
import { said } from '../../detect/made.test-help.ts';
import { masked } from './masking.ts';

const words = said('so the damned um clock stopped');

describe('words of the list', () => {
  it('are masked but for their first letter, whatever their case and signs', () => {
    expect(masked(said('Damned! the DAMNED thing, damnedest'), ['damned']).map(({ text }) => text)).toEqual([
      'D*****!',
      'the',
      'D*****',
      'thing,',
      'damnedest',
    ]);
    expect(masked(words, [])).toEqual(words);
  });
});

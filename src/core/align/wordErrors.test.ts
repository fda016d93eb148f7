import { describe, expect, it } from 'vitest';
import { wordErrors } from './wordErrors.ts';

const errors = (said: string, heard: string) => wordErrors(said.split(' '), heard.split(' '));

describe('words heard wrong', () => {
  it('are what has to be replaced, put in and taken out, as a share of what was said', () => {
    expect(errors('the clock is right', 'The clock is right.')).toBe(0);
    expect(errors('the clock is right', 'the clock was right')).toBe(0.25);
    expect(errors('the clock is right', 'the is right')).toBe(0.25);
    expect(errors('the clock is right', 'the the clock is right now')).toBe(0.5);
    expect(errors('the clock', '')).toBe(1);
    expect(errors('', 'clock')).toBe(1);
    expect(errors('oil', 'a drop of oil')).toBe(3);
    expect(wordErrors([], [])).toBe(0);
  });
});

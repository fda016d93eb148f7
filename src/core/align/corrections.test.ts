import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { said } from '../detect/made.test-help.ts';
import { Memory } from '../transcript/memory.ts';
import type { Word } from '../transcript/word.ts';
import { wordsIn } from '../transcript/wordsIn.ts';
import { applyText, openCorrections, type TextStep } from './corrections.ts';

const id = '00000000-0000-4000-8000-000000000001';
const correct = (start: number, end: number, text: string): TextStep => ({
  id,
  type: 'correct',
  changes: [{ about: { start, end }, text }],
});
const words = said('turn the tea slowly');
const made = (...steps: TextStep[]) => applyText(words, steps);

describe('correcting words', () => {
  it('keeps the time of as many words as before', () => {
    const now = made(correct(1.5, 1.75, 'key'));
    expect(now.map(({ text }) => text)).toEqual(['turn', 'the', 'key', 'slowly']);
    expect(now.map(({ start, end }) => [start, end])).toEqual(words.map(({ start, end }) => [start, end]));
  });

  it('shares the time of those that it replaces among more, and gives it to fewer', () => {
    const more = made(correct(1.5, 1.75, 'small brass key'));
    expect(more.map(({ text }) => text)).toEqual(['turn', 'the', 'small', 'brass', 'key', 'slowly']);
    expect(more[2]?.start).toBe(1.5);
    expect(more[4]?.end).toBe(1.75);
    const fewer = made(correct(1.25, 2, 'them'));
    expect(fewer.map(({ text, start, end }) => [text, start, end])).toEqual([
      ['turn', 1, 1.25],
      ['them', 1.25, 2],
    ]);
  });

  it('gives the very same words when asked again, so that what is known about them still holds', () => {
    const another = { ...correct(1.75, 2, 'fast'), id: id.replace('1', '2') };
    const steps = [correct(1.5, 1.75, 'brass key'), another, { id, type: 'speaker', to: 'Isolde' } as const];
    const memory = new Memory();
    const made = (...steps: TextStep[]) => applyText(words, steps, memory);
    const [once, again] = [made(...steps), made(...structuredClone(steps))];
    expect(again.map((word, k) => word === once[k])).toEqual(once.map(() => true));
    const other = made(correct(1.5, 1.75, 'brass keys'), ...steps.slice(1));
    expect(other.map((word, k) => word === once[k])).toEqual([true, true, false, false, true]);
  });

  it('to nothing leaves them unwritten', () => {
    const now = made(correct(1.5, 1.75, ''));
    expect(now.map(({ text }) => text)).toEqual(['turn', 'the', 'slowly']);
  });

  it('comes on top of earlier corrections, and meets nothing where nothing is said', () => {
    expect(made(correct(1.5, 1.75, 'brass key'), correct(1.5, 1.75, 'key')).map(({ text }) => text)).toEqual([
      'turn',
      'the',
      'key',
      'slowly',
    ]);
    expect(made(correct(20, 21, 'nobody'))).toEqual(words);
  });

  it('finds a word where its middle is, in one of two stretches that share it', () => {
    expect(wordsIn(words, { start: 1, end: 1.3 })).toEqual([0, 1]);
    expect(wordsIn(words, { start: 1.3, end: 2 })).toEqual([1, 4]);
    expect(wordsIn(words, { start: 1, end: 1.125 })).toEqual([0, 0]);
    expect(wordsIn(words, { start: 1.125, end: 1.3 })).toEqual([0, 1]);
  });

  it('gives speakers other names, of a stretch or of all', () => {
    const named = made(
      { id, type: 'speaker', from: '', to: 'Isolde' },
      { id, type: 'speaker', about: { start: 1.4, end: 3 }, to: 'Tobit' },
    );
    expect(named.map(({ speaker }) => speaker)).toEqual(['Isolde', 'Isolde', 'Tobit', 'Tobit']);
  });

  it('never changes what time the words cover together', () => {
    const step = fc
      .tuple(
        fc.integer({ min: 900, max: 2100 }),
        fc.integer({ min: 50, max: 900 }),
        fc.stringMatching(/^[a-z]{1,5}( [a-z]{1,5}){0,3}$/),
      )
      .map(([start, length, text]) => correct(start / 1000, (start + length) / 1000, text));
    fc.assert(
      fc.property(fc.array(step, { maxLength: 5 }), (steps) => {
        const now = made(...steps);
        expect(now[0]?.start).toBe(1);
        expect(now.at(-1)?.end).toBe(2);
        for (let k = 1; k < now.length; k++) expect(now[k]?.start).toBeCloseTo(now[k - 1]?.end ?? 0, 3);
      }),
    );
  });
});

describe('words of a correction that were found in the sound', () => {
  const about = { start: 1.5, end: 1.75 };
  const correction = correct(about.start, about.end, 'small brass key');
  const places = [1.5, 1.6, 1.72].map((start, k) => ({ start, end: start + 0.08, error: 0.01, isLike: k !== 1 }));
  const found = (more: object = {}): TextStep => ({
    id: id.replace('1', '9'),
    type: 'found',
    correction: id,
    about,
    places,
    ...more,
  });
  const times = (list: readonly Word[]) => list.map(({ text, start, end, timing }) => [text, start, end, timing]);

  it('stand there, and are as good as measured where the sound is like them', () => {
    const now = made(correction, found());
    expect(times(now).slice(2, 5)).toEqual([
      ['small', 1.5, 1.58, 'measured'],
      ['brass', 1.6, 1.68, 'estimated'],
      ['key', 1.72, 1.8, 'measured'],
    ]);
    expect(now[2]).toMatchObject({ error: 0.01, confidence: 1 });
    expect(times([...now.slice(0, 2), ...now.slice(5)])).toEqual(times([...words.slice(0, 2), ...words.slice(3)]));
  });

  it('are the very same words when asked again, whoever is said to say them', () => {
    const memory = new Memory();
    const steps = [correction, { id, type: 'speaker', to: 'Isolde' } as const, found()];
    const [once, again] = [applyText(words, steps, memory), applyText(words, structuredClone(steps), memory)];
    expect(again.every((word, k) => word === once[k])).toBe(true);
    expect(once[4]).toMatchObject({ speaker: 'Isolde', start: 1.72 });
  });

  it.each([
    ['what was found is of another correction', [correction, found({ correction: id.replace('1', '3') })]],
    ['what was found is of another stretch', [correction, found({ about: { start: 1.5, end: 1.8 } })]],
    ['nobody could tell', [correction, found({ places: [] })]],
    [
      'one would stand before the word that it follows',
      [correction, found({ places: [{ ...places[0], start: 1.1, end: 1.2 }, ...places.slice(1)] })],
    ],
    ['they would not stand in their order', [correction, found({ places: [...places].reverse() })]],
  ])('share their time as before where %s', (_, steps) => {
    expect(times(applyText(words, steps as TextStep[]))).toEqual(times(made(correction)));
  });

  it('that were written over since are left as they were written last', () => {
    const over: TextStep = { ...correct(1.5, 1.6, 'large'), id: id.replace('1', '5') };
    const texts = ['turn', 'the', 'large', 'brass', 'key', 'slowly'];
    for (const steps of [
      [correction, over, found()],
      [correction, found(), over],
    ])
      expect(made(...steps).map(({ text }) => text)).toEqual(texts);
    expect(times(made(correction, over, found()))).toEqual(times(made(correction, over)));
    expect(times(made(correction, found(), over))[4]).toEqual(['key', 1.72, 1.8, 'measured']);
  });

  it('are looked for once, and only those that have no times of their own', () => {
    const same: TextStep = { ...correct(1, 1.25, 'turns'), id: id.replace('1', '6') };
    const { words: all, open } = openCorrections(words, [correction, same, { id, type: 'speaker', to: 'Isolde' }]);
    expect(open).toEqual([{ correction: id, about, words: [2, 3, 4] }]);
    expect(all.map(({ timing }) => timing)).toEqual(['measured', 'measured', 'estimated', 'estimated', 'estimated', 'measured']);
    expect(openCorrections(words, [correction, found({ places: [] })]).open).toEqual([]);
    const over: TextStep = { ...correct(1.5, 1.6, 'large'), id: id.replace('1', '5') };
    const both = openCorrections(words, [correction, over]);
    expect(both.open).toEqual([{ correction: over.id, about: { start: 1.5, end: 1.6 }, words: [2] }]);
    expect(both.words.map(({ timing }) => timing)).toEqual(all.map(({ timing }) => timing));
  });
});

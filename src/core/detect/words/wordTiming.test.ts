import { describe, expect, it } from 'vitest';
import { EXACT_TIMES, timingFit } from '../../align/timing.ts';
import { curve, find, ROOM, SPEECH_PARTS, VOICE, word } from '../made.test-help.ts';
import { prepare } from '../registry.ts';
import { guardsOf, wordsOverSilence } from './wordTiming.ts';

const silences = Array.from({ length: 20 }, (_, k) => ({ start: k * 3 + 2, end: k * 3 + 3 }));
/** Words between the silences, each edge off by some seconds. */
const words = (startOff: (k: number) => number, endOff: (k: number) => number = startOff) =>
  Array.from({ length: 20 }, (_, k) => word('so', k * 3 + startOff(k), k * 3 + 2 + endOff(k)));
const waver = (k: number) => 0.12 * Math.sin(k * 2.3);

describe('how well word times fit the sound', () => {
  it('is exact when onsets agree', () => {
    expect(
      timingFit(
        silences,
        words(() => 0.005),
        60,
      ).exact,
    ).toBe(true);
    expect(timingFit(silences, words(waver), 60).exact).toBe(false);
  });

  it('does not blame words for endings that sink under the room or go on as an echo', () => {
    const soft = words(
      () => 0.01,
      (k) => 0.05 + 0.1 * (k % 2),
    );
    const echoing = words(
      () => 0.01,
      () => -0.2,
    );
    expect(timingFit(silences, soft, 60).exact).toBe(true);
    expect(timingFit(silences, echoing, 60).exact).toBe(true);
  });

  it('tells ends that last on into silences from those that sink under the room', () => {
    const ends = (of: (k: number) => number) =>
      timingFit(
        silences,
        words(() => 0.01, of),
        60,
      );
    expect(ends((k) => 0.05 + 0.08 * (k % 2)).endsExact).toBe(true);
    expect(ends((k) => (k === 7 ? 0.4 : 0.02)).endsExact).toBe(true);
    for (const lasts of [0.4, 1, 1.01])
      expect(ends((k) => (k % 5 === 0 ? lasts : 0.02))).toMatchObject({ exact: true, endsExact: false });
  });

  it('notices words that all start late', () => {
    expect(
      timingFit(
        silences,
        words(() => 0.15),
        60,
      ).exact,
    ).toBe(false);
  });

  it('gives the error that four in five edges stay under', () => {
    const fit = timingFit(
      silences,
      words((k) => (k % 5 === 0 ? 0.4 : 0.08)),
      60,
    );
    expect(fit.error).toBeCloseTo(0.08);
  });

  it('says nothing of a few words', () => {
    expect(timingFit(silences.slice(0, 3), words(waver).slice(0, 3), 9)).toEqual(EXACT_TIMES);
  });
});

describe('what words hold', () => {
  const inexact = { exact: false, endsExact: false, error: 0.1 };
  const everywhere = () => true;

  it('is all of a sure word with an exact time, and the sound under any other', () => {
    const [soft] = [word('soft', 1.5, 2.5)];
    expect(guardsOf([soft], EXACT_TIMES, silences, everywhere).all).toEqual([{ start: 1.5, end: 2.5 }]);
    expect(guardsOf([soft], inexact, silences, everywhere).all).toEqual([{ start: 1.5, end: 2 }]);
  });

  it('is no more of a silence than may be soft, where words last on into silences', () => {
    const stretched = { ...EXACT_TIMES, endsExact: false };
    const lasting = word('lasting', 1.5, 2.9);
    expect(guardsOf([lasting], EXACT_TIMES, silences, everywhere).all).toEqual([{ start: 1.5, end: 2.9 }]);
    expect(guardsOf([lasting], stretched, silences, everywhere).all).toEqual([{ start: 1.5, end: 2.15 }]);
    const [early, inside] = [
      { ...lasting, end: 2.1 },
      { ...lasting, start: 2.2, end: 2.6 },
    ];
    expect(guardsOf([{ ...lasting, end: 3.02 }], stretched, silences, everywhere).all).toEqual([{ start: 1.5, end: 2.15 }]);
    expect(guardsOf([early], stretched, silences, everywhere).all).toEqual([{ start: 1.5, end: 2.1 }]);
    expect(guardsOf([inside], stretched, silences, everywhere).all).toEqual([{ start: 2.2, end: 2.6 }]);
  });

  it('is nothing where nobody is heard, as over a breath', () => {
    const breath = { ...word("it's", 2.2, 2.6), confidence: 0.92 };
    expect(guardsOf([breath], EXACT_TIMES, silences, () => false).all).toEqual([]);
  });

  it('lets pauses be found as without words when the times stray', () => {
    const spoken = Array.from(
      { length: 20 },
      () =>
        [
          [2, VOICE],
          [1, ROOM],
        ] as const,
    ).flat();
    const stretched = words(waver, (k) => 0.3 + waver(k));
    const [none, strayed] = [[], stretched].map((said) =>
      find({ levels: [curve(...spoken)], words: said }, { takes: 'off', fillers: 'leave', repeats: 'leave', asides: 'leave' }),
    );
    const ranges = (found: typeof none) => found?.map(({ start, end }) => ({ start, end }));
    expect(ranges(strayed)).toEqual(ranges(none));
  });
});

describe('words over silence', () => {
  const said = word('said', 0.5, 1.2);
  const soft = word('soft', 5.2, 5.6);
  const line = [word('thanks', 2.1, 2.3), word('for', 2.35, 2.6), word('watching', 2.62, 2.9)];

  it('are those behind one another in one silence, however sure the recogniser was', () => {
    expect(wordsOverSilence([said, ...line], EXACT_TIMES, silences)).toEqual([1, 2, 3]);
  });

  it('is one alone unless it may be soft: certain, and with an exact time', () => {
    expect(wordsOverSilence([said, soft], EXACT_TIMES, silences)).toEqual([]);
    expect(wordsOverSilence([said, { ...soft, confidence: 0.8 }], EXACT_TIMES, silences)).toEqual([1]);
    expect(wordsOverSilence([said, soft], { ...EXACT_TIMES, exact: false, error: 0.1 }, silences)).toEqual([1]);
  });
});

describe('a transcript of another recording', () => {
  it('finds nothing, holds no pause, and is written out all the same', () => {
    // Phrases of two seconds with a second between them, and words that begin in the silences as often as in the phrases.
    const levels = [
      curve(
        ...Array.from(
          { length: 20 },
          () =>
            [
              [1, ROOM],
              [2, VOICE],
            ] as [number, number][],
        ).flat(),
      ),
    ];
    const line = (step: number) =>
      Array.from({ length: 60 }, (_, k) => word(k % 6 === 2 ? 'um,' : 'so', 1.02 + k * step, 1.02 + k * step + 0.3));
    const own = line(0.9).filter(({ start }) => start % 3 >= 1 && start % 3 < 2.7);
    const fillers = (words: ReturnType<typeof word>[]) => find({ levels, words }).filter(({ kind }) => kind === 'filler');
    const pauses = (words: ReturnType<typeof word>[]) => find({ levels, words }).filter(({ kind }) => kind === 'pause').length;
    expect(fillers(own).length).toBeGreaterThan(3);
    const other = line(0.87);
    expect(fillers(other)).toEqual([]);
    expect(pauses(other)).toBe(pauses([]));
    const prepared = prepare({ levels, duration: 60, words: other, speechParts: SPEECH_PARTS });
    expect(prepared.stray().size).toBe(other.length);
    expect(prepared.words()).toHaveLength(other.length);
    expect(prepared.spoken().words).toEqual([]);
  });
});

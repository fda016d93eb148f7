import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { MAX_WORDS, type Word } from '../transcript/word.ts';
import { SURE_OF_PLACED } from './fittedPlaces.ts';
import { matchWords } from './matching.ts';
import { partsOf } from './parts.ts';
import { shareOut } from './share.ts';
import { timeTranscript } from './timeTranscript.ts';
import { spokenWeight } from './weight.ts';

const heard = (text: string, start: number, end: number): Word => ({
  text,
  start,
  end,
  confidence: 0.8,
  speaker: '',
  timing: 'measured',
});

describe('how long a word takes to say', () => {
  it('grows with its syllables, in any script', () => {
    for (const [short, long] of [
      ['it', 'escapement'],
      ['Uhr', 'Wanduhrenmacher'],
      ['час', 'часовщик'],
      ['時', '時計職人'],
      ['7', '1875'],
    ] as const)
      expect(spokenWeight(long)).toBeGreaterThan(1.5 * spokenWeight(short));
  });
});

describe('a line shared out among its words', () => {
  it('fills its sound in order, and leaves its silences alone', () => {
    const silence = { start: 2, end: 3 };
    const places = shareOut(['turn', 'the', 'key,', 'then', 'wait'], { start: 1, end: 4 }, [silence]);
    expect(places[0]?.start).toBe(1);
    expect(places.at(-1)?.end).toBeCloseTo(4, 9);
    for (const { start, end } of places) expect(end <= 2 + 1e-9 || start >= 3 - 1e-9).toBe(true);
    expect(places[3]?.start).toBeCloseTo(3, 9);
  });

  it('never loses a word, turns none round and leaves none outside, whatever the silences', () => {
    const silences = fc
      .array(fc.tuple(fc.integer({ min: 50, max: 900 }), fc.integer({ min: 50, max: 900 })), { maxLength: 12 })
      .map((list) => {
        let at = 0;
        return list.map(([sound, silence]) => {
          const start = at + sound;
          at = start + silence;
          return { start: start / 1000, end: at / 1000 };
        });
      });
    fc.assert(
      fc.property(fc.array(fc.stringMatching(/^[a-z]{1,12}[.,]?$/), { minLength: 1, maxLength: 70 }), silences, (texts, gaps) => {
        const places = shareOut(texts, { start: 0, end: 12 }, gaps);
        expect(places).toHaveLength(texts.length);
        let before = 0;
        for (const { start, end } of places) {
          expect(start).toBeGreaterThanOrEqual(before - 1e-9);
          expect(end).toBeGreaterThanOrEqual(start);
          before = end;
        }
        expect(before).toBeLessThanOrEqual(12 + 1e-9);
      }),
    );
  });
});

describe('matching what was said with what was heard', () => {
  it('finds the same words in order through others that were added, lost and misheard', () => {
    const said = 'the spring is let down before the plate comes off'.split(' ');
    const was = 'the string is let down uh before plate comes of'.split(' ');
    expect([...matchWords(said, was)]).toEqual([0, -1, 2, 3, 4, 6, -1, 7, 8, -1]);
  });

  it('holds for long texts that are the same but for a part', () => {
    const said = Array.from({ length: 3000 }, (_, k) => `w${(k * 7919) % 977}`);
    const was = said.filter((_, k) => k < 1000 || k >= 1100);
    const matches = matchWords(said, was);
    expect(matches[500]).toBe(500);
    expect(matches[2500]).toBe(2400);
  });
});

describe('words with times of their own', () => {
  it('keep what their file says of them', () => {
    const word = {
      text: 'fog',
      start: 1,
      end: 1.4,
      confidence: 0.6,
      timing: 'estimated',
      error: 0.03,
      overlapped: true,
    } as const;
    const rough = { passages: [{ speaker: 'Tobit', tokens: [word] }], notes: [] };
    expect(timeTranscript(rough, { duration: 5, silences: [] }).words).toEqual([{ ...word, speaker: 'Tobit' }]);
  });
});

describe('lines', () => {
  const line = (speaker: string, start: number, end: number, ...texts: string[]) => ({
    speaker,
    start,
    end,
    tokens: texts.map((text) => ({ text })),
  });
  const inOrder = (...passages: ReturnType<typeof line>[]) =>
    timeTranscript({ passages, notes: [] }, { duration: 9, silences: [] }).words.map(({ text }) => text);

  it('that come early and go late keep their words in order, and what two say at once stays so', () => {
    const [first, second] = [line('', 1, 3.3, 'wind', 'it', 'by', 'hand'), line('', 2.7, 5, 'the', 'key', 'turns', 'left')];
    expect(inOrder(first, second)).toEqual([...first.tokens, ...second.tokens].map(({ text }) => text));
    const both = [line('Isolde', 1, 3, 'yes', 'yes'), line('Tobit', 1.2, 3, 'no', 'no')] as const;
    const { words } = timeTranscript({ passages: both, notes: [] }, { duration: 9, silences: [] });
    expect(words.map(({ speaker, start }) => [speaker, start])).toContainEqual(['Tobit', 1.2]);
    expect(words.filter(({ end }) => end === 3)).toHaveLength(2);
    expect(inOrder(line('', 4, 6, 'behind'), line('', 1, 3, 'before'))).toEqual(['before', 'behind']);
  });
});

describe('text without times', () => {
  const recognised = [
    heard('turn', 1, 1.3),
    heard('the', 1.3, 1.4),
    heard('tea', 1.5, 1.9),
    heard('and', 4, 4.2),
    heard('wait', 4.2, 4.6),
  ];
  const passages = [{ speaker: 'Isolde', tokens: ['Turn', 'the', 'key', 'slowly', 'and', 'wait.'].map((text) => ({ text })) }];

  it('may be as long as a transcript may be', () => {
    const long = [{ speaker: '', tokens: Array.from({ length: MAX_WORDS }, () => ({ text: 'tick' })) }];
    const { words } = timeTranscript({ passages: long, notes: [] }, { duration: 90_000, silences: [] });
    expect(words).toHaveLength(MAX_WORDS);
    expect(words.at(-1)?.end).toBeLessThanOrEqual(90_000);
  });

  it('takes the times of words that were heard as well, and lies between them otherwise', () => {
    const { words } = timeTranscript({ passages, notes: [] }, { duration: 6, silences: [{ start: 2.4, end: 4 }], recognised });
    expect(words.map(({ text, timing }) => `${text} ${timing}`)).toEqual([
      'Turn measured',
      'the measured',
      'key estimated',
      'slowly estimated',
      'and measured',
      'wait. measured',
    ]);
    expect(words[0]).toMatchObject({ start: 1, end: 1.3, speaker: 'Isolde', confidence: SURE_OF_PLACED });
    expect(words[2]?.start).toBeGreaterThanOrEqual(1.4);
    expect(words[3]?.end).toBeLessThanOrEqual(4);
  });

  it('is spread over the sound when nothing was heard', () => {
    const { words } = timeTranscript({ passages, notes: [] }, { duration: 6, silences: [{ start: 0, end: 3 }] });
    expect(words[0]?.start).toBeGreaterThanOrEqual(3);
    expect(words).toHaveLength(6);
  });
});

describe('parts for a recogniser', () => {
  it('are short, leave long silences out, and hold all sound', () => {
    const silences = Array.from({ length: 40 }, (_, k) => ({ start: 10 * k + 8, end: 10 * k + 10 }));
    const parts = partsOf(400, silences);
    expect(parts.every(({ start, end }) => end - start <= 46)).toBe(true);
    for (let at = 0; at < 400; at += 10) expect(parts.some(({ start, end }) => start <= at && end >= at + 8)).toBe(true);
    expect(partsOf(400, [{ start: 20, end: 390 }]).length).toBe(2);
  });

  it('of what is soon done are as many as are worked on at a time, about equally long', () => {
    const silences = Array.from({ length: 19 }, (_, k) => ({ start: 5 * k + 4.5, end: 5 * k + 5 }));
    const lengths = partsOf(35, silences.slice(0, 7), { parallel: 2 }).map(({ start, end }) => end - start);
    expect(lengths).toHaveLength(2);
    expect(Math.max(...lengths) - Math.min(...lengths)).toBeLessThan(6);
    expect(partsOf(20, silences.slice(0, 3), { parallel: 8 }).length).toBeLessThanOrEqual(2);
  });

  it('begin with short ones and grow from round to round, so that it soon shows how it goes on', () => {
    const silences = Array.from({ length: 400 }, (_, k) => ({ start: 3 * k + 2.5, end: 3 * k + 3 }));
    for (const duration of [60, 95, 1200]) {
      const lengths = partsOf(duration, silences.slice(0, duration / 3), { parallel: 2 }).map(({ start, end }) => end - start);
      for (const first of lengths.slice(0, 2)) expect(first).toBeLessThan(7);
      for (const second of lengths.slice(2, 4)) expect(second).toBeLessThan(10);
      expect(Math.max(...lengths)).toBeLessThanOrEqual(46);
    }
    const long = partsOf(1200, silences, { parallel: 2 });
    expect(long.length).toBeLessThanOrEqual(34);
  });

  it('are short where it is heard first, wherever that is, and those before it are long', () => {
    const silences = Array.from({ length: 400 }, (_, k) => ({ start: 3 * k + 2.5, end: 3 * k + 3 }));
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1190, noNaN: true }), fc.integer({ min: 1, max: 4 }), (from, parallel) => {
        const parts = partsOf(1200, silences, { parallel, from });
        const first = parts.findIndex(({ end }) => end > from + 0.25);
        for (const { start, end } of parts.slice(first, first + parallel)) expect(end - start).toBeLessThan(7);
        expect(parts[first]?.start).toBeLessThanOrEqual(Math.max(from, 0.25) + 0.5);
        expect(parts.slice(0, first).filter(({ start, end }) => end - start < 30).length).toBeLessThanOrEqual(1);
        // Nothing that is spoken is left out.
        for (let k = 0; k < 400; k++) expect(parts.some(({ start, end }) => start <= 3 * k && end >= 3 * k + 2.5)).toBe(true);
      }),
    );
    // What is soon done is done in one round, wherever it begins.
    expect(partsOf(24, silences.slice(0, 8), { parallel: 2, from: 15 })).toEqual(
      partsOf(24, silences.slice(0, 8), { parallel: 2 }),
    );
  });

  it('without any silence are cut all the same', () => {
    const parts = partsOf(100, []);
    expect(parts.map(({ end, start }) => Math.round(end - start))).toEqual([34, 35, 34]);
    expect([parts[0]?.start, parts.at(-1)?.end]).toEqual([0, 100]);
  });

  it('share a silence that is too short for both, and hear nothing twice', () => {
    const silences = Array.from({ length: 30 }, (_, k) => ({ start: 3 * k + 2.8, end: 3 * k + 3 }));
    const parts = partsOf(72, silences.slice(0, 24), { parallel: 4 });
    expect(parts).toHaveLength(4);
    for (let k = 1; k < parts.length; k++) {
      const [end, start] = [parts[k - 1]?.end ?? 0, parts[k]?.start ?? 0];
      expect(start).toBeCloseTo(end, 9);
      expect(start % 3).toBeCloseTo(2.9, 9);
    }
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { NO_STEPS } from '../../decisions/replay.ts';
import { readSettingsFile } from '../../interchange/settingsFile.ts';
import { assemble } from '../../programme/assemble.ts';
import { computeCut } from '../../programme/cutlist.ts';
import { programmeOf } from '../../programme/programme.ts';
import { seamRisk } from '../../programme/risk.ts';
import { curve, find, ROOM, SPEECH_PARTS, VOICE, word } from '../made.test-help.ts';
import { prepare, preparedPauses } from '../registry.ts';
import { detectWithSections } from '../sections.ts';
import { DEFAULT_SETTINGS, parseSetting, type Settings, SettingsError, writeSettingsFile } from '../settings.ts';
import { levelHistogram } from './levelOverview.ts';
import { rhythmOf } from './rhythm.ts';
import { TEMPI, tempoOf, tempoSettings, tempoSteps } from './tempo.ts';

/** Talk whose silences have the given lengths, each after two seconds of voice. */
const talk = (silences: readonly number[]) =>
  curve(...silences.flatMap((s) => [[2, VOICE] as const, [s, ROOM] as const]), [2, VOICE]);
const materialOf = (silences: readonly number[], words: ReturnType<typeof word>[] = []) => {
  const level = talk(silences);
  return prepare({ duration: level.codes.length / 100, levels: [level], words, speechParts: SPEECH_PARTS });
};
const USUAL = [0.3, 0.9, 0.25, 1.4, 0.4, 0.2, 0.8, 0.35, 2.2, 0.6, 0.28, 1.1];

describe('treatments', () => {
  const levels = [talk([1.5, 6])];

  it('shorten a pause to the length asked for, never to less than its air', () => {
    const [first] = find({ levels }, { treatment: 'shorten', shortenTo: 0.5 });
    expect(first?.treatment).toBe('shorten');
    const kept = (first?.found.end ?? 0) - (first?.found.start ?? 0) - ((first?.end ?? 0) - (first?.start ?? 0));
    expect(kept).toBeCloseTo(0.5, 1);
    const [airy] = find({ levels }, { treatment: 'shorten', shortenTo: 0, airAfter: 0.3, airBefore: 0.3 });
    expect((airy?.start ?? 0) - (airy?.found.start ?? 0)).toBeGreaterThanOrEqual(0.2999);
  });

  it('hurry long pauses and take the short ones out', () => {
    const found = find({ levels }, { treatment: 'hurry', hurryRate: 4, hurryFrom: 3 });
    expect(found.map(({ treatment, amount }) => [treatment, amount])).toEqual([
      ['remove', undefined],
      ['hurry', 4],
    ]);
  });

  it('become pieces: what is hurried runs faster, a hole keeps its time, what goes is gone', () => {
    const out = (start: number, end: number, treatment: Settings['treatment'], amount?: number) => ({
      start,
      end,
      treatment,
      amount,
      verdict: 'out' as const,
    });
    const programme = assemble(
      [{ start: 0, end: 20 }],
      [out(2, 4, 'remove'), out(6, 10, 'hurry', 4), out(12, 13, 'hole')],
      'pitch',
    );
    expect(programme.pieces).toEqual([
      { start: 0, end: 2, rate: 1 },
      { start: 4, end: 6, rate: 1 },
      { start: 6, end: 10, rate: 4, sound: 'pitch' },
      { start: 10, end: 12, rate: 1 },
      { start: 12, end: 13, rate: 1, hole: true },
      { start: 13, end: 20, rate: 1 },
    ]);
    expect(programme.length).toBeCloseTo(20 - 2 - 3, 9);
  });

  it('that overlap never show anything twice: going comes before a hole, a hole before hurrying', () => {
    const ranges = fc.array(
      fc.record({
        start: fc.integer({ min: 0, max: 90 }),
        length: fc.integer({ min: 1, max: 30 }),
        treatment: fc.constantFrom('remove', 'shorten', 'hurry', 'hole'),
      }),
      { maxLength: 12 },
    );
    fc.assert(
      fc.property(ranges, (list) => {
        const proposals = list
          .map(({ start, length, treatment }) => ({
            start,
            end: Math.min(100, start + length),
            treatment: treatment as Settings['treatment'],
            amount: 2,
            verdict: 'out' as const,
          }))
          .sort((a, b) => a.start - b.start);
        const { pieces, length } = assemble([{ start: 0, end: 100 }], proposals);
        let at = 0;
        for (const piece of pieces) {
          expect(piece.start).toBeGreaterThanOrEqual(at);
          at = piece.end;
          const middle = (piece.start + piece.end) / 2;
          const over = proposals.filter(({ start, end }) => start < middle && middle < end).map(({ treatment }) => treatment);
          expect(over.includes('remove') || over.includes('shorten')).toBe(false);
          expect(piece.hole === true).toBe(over.includes('hole'));
          expect(piece.rate).toBe(over.includes('hurry') && !over.includes('hole') ? 2 : 1);
        }
        expect(programmeOf(pieces).length).toBeCloseTo(length, 9);
      }),
    );
  });
});

describe('tempo', () => {
  it('gives five steps, each tighter than the one before, whoever speaks', () => {
    const silences = fc.array(
      fc.integer({ min: 10, max: 350 }).map((hundredths) => hundredths / 100),
      { minLength: 1, maxLength: 25 },
    );
    fc.assert(
      fc.property(silences, (lengths) => {
        const prepared = materialOf(lengths);
        const rhythm = rhythmOf(preparedPauses(prepared), DEFAULT_SETTINGS);
        const steps = TEMPI.map((tempo) => tempoSettings(tempo, rhythm));
        const outcomes = steps.map(
          (step) => computeCut(prepared, { ...NO_STEPS, settings: { ...DEFAULT_SETTINGS, ...step } }).programme.length,
        );
        for (let k = 1; k < steps.length; k++) {
          for (const name of ['minPause', 'airAfter', 'airBefore', 'airSentence', 'shortenTo'] as const)
            expect(steps[k]?.[name]).toBeLessThanOrEqual(steps[k - 1]?.[name] as number);
          expect(outcomes[k]).toBeLessThanOrEqual((outcomes[k - 1] as number) + 0.07);
        }
        for (let k = 2; k < steps.length; k++) expect(steps[k]?.minPause).toBeLessThan(steps[k - 2]?.minPause as number);
      }),
      { numRuns: 40 },
    );
  });

  it('two steps apart finds more pauses and leaves a shorter programme', () => {
    const prepared = materialOf(USUAL);
    const rhythm = rhythmOf(preparedPauses(prepared), DEFAULT_SETTINGS);
    const outcome = (k: number) =>
      computeCut(prepared, { ...NO_STEPS, settings: { ...DEFAULT_SETTINGS, ...tempoSettings(TEMPI[k] as 'even', rhythm) } });
    for (const k of [0, 1, 2]) {
      expect(outcome(k + 2).proposals.length).toBeGreaterThan(outcome(k).proposals.length);
      expect(outcome(k + 2).programme.length).toBeLessThan(outcome(k).programme.length - 0.3);
    }
  });

  it('knows its own settings again', () => {
    const rhythm = rhythmOf(preparedPauses(materialOf(USUAL)), DEFAULT_SETTINGS);
    for (const tempo of TEMPI)
      expect(tempoOf({ ...DEFAULT_SETTINGS, ...tempoSettings(tempo, rhythm) }, tempoSteps(rhythm))).toBe(tempo);
    expect(tempoOf({ ...DEFAULT_SETTINGS, minPause: 7 }, tempoSteps(rhythm))).toBeUndefined();
  });

  it('hears how long this speaker rests inside a sentence and after one', () => {
    const silences = Array.from({ length: 16 }, (_, k) => (k % 2 === 0 ? 0.3 : 1.2));
    let at = 0;
    const words = silences.map((silence, k) => {
      const said = word(k % 2 === 0 ? 'first' : 'second.', at, at + 2);
      at += 2 + silence;
      return said;
    });
    const rhythm = rhythmOf(preparedPauses(materialOf(silences, words)), DEFAULT_SETTINGS);
    expect(rhythm.inside).toBeCloseTo(0.3, 1);
    expect(rhythm.sentence).toBeCloseTo(1.2, 1);
  });
});

describe('air after a sentence', () => {
  it('may differ from air inside one', () => {
    const words = [word('the', 0, 2), word('end.', 3, 5), word('Then', 6, 8)];
    const found = find({ levels: [talk([1, 1])], words }, { airAfter: 0.1, airSentence: 0.4 });
    expect((found[0]?.start ?? 0) - 2).toBeCloseTo(0.1, 1);
    expect((found[1]?.start ?? 0) - 5).toBeCloseTo(0.4, 1);
  });
});

describe('air between two speakers', () => {
  const words = [word('the', 0, 2), word('end.', 3, 5), { ...word('Yes', 6, 8), speaker: 'keeper' }];
  const taken = (settings: Partial<Settings>) =>
    find({ levels: [talk([1, 1])], words }, { airAfter: 0.1, airBefore: 0.1, ...settings }).map(({ start, end }) => end - start);

  it('is left in all where another speaks next, and that of one speaker stays as it is', () => {
    const [within, between] = taken({ airTurn: 0.8, airSentence: 0.4 });
    expect(within).toBeCloseTo(0.8, 1);
    expect(between).toBeCloseTo(0.2, 1);
    expect(taken({ airTurn: 3 })).toHaveLength(1);
    expect(taken({ airTurn: 'same' })[1]).toBeCloseTo(0.8, 1);
  });
});

describe('marked ranges', () => {
  const prepared = materialOf([1, 1, 1, 1]);
  const section = (start: number, end: number, values: Partial<Settings>) => ({ id: `${start}`, about: { start, end }, values });

  it('have settings of their own, and the rest keeps those of the whole', () => {
    const found = detectWithSections(prepared, DEFAULT_SETTINGS, [section(4.5, 9, { minPause: 2 })], NO_STEPS);
    expect(found.map(({ start }) => Math.floor(start))).toEqual([2, 11]);
  });

  it('can be the only place where anything is taken', () => {
    const only = { ...DEFAULT_SETTINGS, where: 'marked' as const };
    expect(detectWithSections(prepared, only, [section(4.5, 9, {})], NO_STEPS).map(({ start }) => Math.floor(start))).toEqual([
      5, 8,
    ]);
    expect(detectWithSections(prepared, only, [], NO_STEPS)).toEqual([]);
  });

  it('cut a pause at their mark, so that nothing outside is taken', () => {
    const only = { ...DEFAULT_SETTINGS, where: 'marked' as const };
    const [pause, ...more] = detectWithSections(prepared, only, [section(2.5, 4, {})], NO_STEPS);
    expect(more).toHaveLength(0);
    expect(pause?.start).toBe(2.5);
    expect(pause?.end).toBeLessThanOrEqual(3);
  });

  it('that overlap give way to the one that starts later', () => {
    const found = detectWithSections(
      prepared,
      DEFAULT_SETTINGS,
      [section(0, 14, { minPause: 5 }), section(4.5, 7, { minPause: 0.4 })],
      NO_STEPS,
    );
    expect(found.map(({ start }) => Math.floor(start))).toEqual([5]);
  });
});

describe('what the tray shows', () => {
  it('the histogram holds all of the time, with room, threshold and voice in that order', () => {
    const { shares, floor, threshold, speech } = levelHistogram(preparedPauses(materialOf(USUAL)), DEFAULT_SETTINGS);
    expect(shares.reduce((sum, share) => sum + share, 0)).toBeCloseTo(1, 9);
    expect(floor).toBeLessThan(threshold);
    expect(threshold).toBeLessThan(speech);
  });

  it('a seam that swallowed a sound is doubted for what is inside, one that did not is not', () => {
    const level = curve([2, VOICE], [1, ROOM], [2, VOICE], [1, ROOM], [0.05, -25], [1, ROOM], [2, VOICE], [1, ROOM], [2, VOICE]);
    const prepared = prepare({ duration: level.codes.length / 100, levels: [level], words: [], speechParts: SPEECH_PARTS });
    const { proposals } = computeCut(prepared, NO_STEPS);
    const doubts = proposals.map((proposal) => seamRisk(preparedPauses(prepared), proposal).doubt);
    expect(doubts.map((doubt) => doubt === 'inside')).toEqual(proposals.map(({ evidence }) => evidence.specks === 1));
    expect(doubts.filter((doubt) => doubt === 'inside')).toHaveLength(1);
  });
});

describe('settings', () => {
  it('of words and lists are checked like numbers', () => {
    expect(parseSetting('listen', '1,3')).toEqual({ listen: '1,3' });
    expect(() => parseSetting('listen', '0')).toThrow(/track numbers/);
    expect(() => parseSetting('treatment', 'delete')).toThrow(/“remove”/);
    expect(parseSetting('airSentence', 'same')).toEqual({ airSentence: 'same' });
  });

  it('come back from a file as they were, and a file of something else is refused', () => {
    const values = { minPause: 0.35, treatment: 'shorten' as const };
    expect(readSettingsFile(writeSettingsFile('Bench', values))).toEqual({ name: 'Bench', settings: values });
    expect(() => readSettingsFile('{"schema":"other"}')).toThrow(SettingsError);
    expect(() => readSettingsFile('{')).toThrow(/not JSON/);
    expect(() => readSettingsFile(writeSettingsFile('Bad', { minPause: 99 }))).toThrow(/0\.1 to 10 s/);
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { applyDecisions, type DecidedProposal } from '../decisions/matching.ts';
import type { Proposal } from '../detect/detector.ts';
import { DEFAULT_SETTINGS } from '../detect/settings.ts';
import { lessonsOf } from '../docket/examples.ts';
import { mergedLessons, writeLessonsFile } from './book.ts';
import { correctionFrom, STAYS_UNDER } from './correction.ts';
import { classesOf, type Lesson } from './lesson.ts';

const SO = ['filler', 'filler/so', 'filler/so/opens'];
const taught = (told: number, right: number, wrong: number): Lesson[] => SO.map((about) => ({ about, told, right, wrong }));

const proposal = (over: Partial<Proposal>): Proposal => ({
  id: 'filler-1000-1300',
  kind: 'filler',
  start: 1,
  end: 1.3,
  found: { start: 1, end: 1.3 },
  taken: { start: 1, end: 1.3 },
  treatment: 'remove',
  confidence: 0.9,
  group: 'so',
  evidence: { opens: 1.2, clean: 1 },
  ...over,
});

describe('the classes of a proposal', () => {
  it('go from its kind by its entry to its place', () => {
    expect(classesOf(proposal({}))).toEqual(SO);
    expect(classesOf(proposal({ evidence: {} }))).toEqual(['filler', 'filler/so']);
  });

  it('of a pause go by what sounds in it, and by the air that is left', () => {
    const pause = { kind: 'pause', group: '', evidence: { breaths: 1 }, found: { start: 1, end: 3 } } as const;
    expect(classesOf(proposal({ ...pause, taken: { start: 1.16, end: 2.9 } })).at(-1)).toBe('pause/breath/close');
    expect(classesOf(proposal({ ...pause, evidence: {}, taken: { start: 1.02, end: 2.9 } })).at(-1)).toBe('pause/plain/tight');
  });

  it('of a repeat go by the rule that speaks loudest, and not by how it sounds', () => {
    const repeat = proposal({ kind: 'repeat', group: 'the', evidence: { smallWord: 2, soundsLike: -9, clean: 5 } });
    expect(classesOf(repeat)).toEqual(['repeat', 'repeat/smallWord']);
  });

  it('are none for what was cut by hand', () => {
    expect(classesOf(proposal({ kind: 'hand' }))).toEqual([]);
  });
});

describe('lessons', () => {
  it('change nothing where there are none', () => {
    expect(correctionFrom([])(SO, 0.73)).toBe(0.73);
  });

  it('let something stay that was kept 14 times of 15', () => {
    expect(correctionFrom(taught(0.9, 1, 14))(SO, 0.9)).toBeLessThan(STAYS_UNDER);
  });

  it('move little by a single verdict, and the more the more there are', () => {
    const [once, often] = [correctionFrom(taught(0.95, 0, 1))(SO, 0.95), correctionFrom(taught(0.95, 0, 8))(SO, 0.95)];
    expect(once).toBeGreaterThan(0.5);
    expect(once).toBeLessThan(0.95);
    expect(often).toBeLessThan(once);
  });

  it('about one entry say more of it than of another, and nothing of another kind', () => {
    const correct = correctionFrom(taught(0.9, 0, 12));
    const other = correct(['filler', 'filler/well'], 0.9);
    expect(correct(SO, 0.9)).toBeLessThan(other);
    expect(other).toBeLessThan(0.9);
    expect(correct(['pause', 'pause/plain'], 0.9)).toBe(0.9);
  });

  it('never move a probability without bound, nor against what was said', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.01, max: 0.99, noNaN: true }),
        fc.integer({ min: 0, max: 1e6 }),
        fc.integer({ min: 0, max: 1e6 }),
        (told, right, wrong) => {
          const now = correctionFrom([{ about: 'filler', told, right, wrong }])(['filler'], told);
          const logit = (p: number) => Math.log(p / (1 - p));
          expect(Math.abs(logit(now) - logit(told))).toBeLessThanOrEqual(4 + 1e-6);
          if (right + wrong > 0 && right / (right + wrong) > told) expect(now).toBeGreaterThanOrEqual(told - 1e-9);
          if (right + wrong > 0 && right / (right + wrong) < told) expect(now).toBeLessThanOrEqual(told + 1e-9);
        },
      ),
    );
  });

  it('agree with the offset that a fine grid finds likeliest', () => {
    const [told, right, wrong] = [0.8, 3, 9];
    const logit = Math.log(told / (1 - told));
    const sigma = (x: number) => 1 / (1 + Math.exp(-x));
    let [best, most] = [0, Number.NEGATIVE_INFINITY];
    for (let offset = -8; offset <= 8; offset += 0.0005) {
      const p = sigma(logit + offset);
      const likelihood = right * Math.log(p) + wrong * Math.log(1 - p) - offset ** 2 / 2;
      if (likelihood > most) [best, most] = [offset, likelihood];
    }
    const now = correctionFrom([{ about: 'filler', told, right, wrong }], [1])(['filler'], told);
    expect(now).toBeCloseTo(sigma(logit + best), 3);
  });

  it('change what a proposal is told and its verdict, leave beside it what was told before, and are not taught by themselves', () => {
    const settings = DEFAULT_SETTINGS;
    const { proposals } = applyDecisions([proposal({})], { about: [], cuts: [], settings, lessons: taught(0.9, 1, 14) });
    expect(proposals[0]).toMatchObject({ verdict: 'stay', decided: false, untaught: 0.9 });
    expect(proposals[0]?.confidence).toBeLessThan(STAYS_UNDER);
    const judged = [{ proposal: { ...(proposals[0] as DecidedProposal) }, right: false }];
    expect(lessonsOf(judged).every(({ told }) => told === 0.9)).toBe(true);
    expect(applyDecisions([proposal({})], { about: [], cuts: [], settings }).proposals[0]).toMatchObject({
      verdict: 'open',
      confidence: 0.9,
    });
  });
});

describe('a book of lessons', () => {
  it('weighs older recordings less', () => {
    const [merged] = mergedLessons([
      [{ about: 'filler', told: 0.9, right: 4, wrong: 0 }],
      [{ about: 'filler', told: 0.5, right: 0, wrong: 4 }],
    ]);
    expect(merged?.right).toBe(4);
    expect(merged?.wrong).toBeLessThan(4);
    expect(merged?.wrong).toBeGreaterThan(2);
    expect(merged?.told).toBeGreaterThan(0.7);
  });

  it('says in its file what it is', () => {
    const lessons = taught(0.9, 1, 14);
    const file = JSON.parse(writeLessonsFile('Bench', lessons));
    expect(file).toEqual({ schema: 'zetemis.lessons/1', name: 'Bench', lessons });
  });
});

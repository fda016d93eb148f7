import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { earInDoubt } from '../takes/sameLine.ts';
import { FITTED } from './fitted.ts';
import { fitIsotonic, valueOn } from './isotonic.ts';
import { type Example, fitLogistic, type LogisticModel, probabilityOf } from './logistic.ts';
import { reliabilityOf } from './reliability.ts';

const number = fc.double({ min: -20, max: 20, noNaN: true });
const evidence = fc.dictionary(fc.constantFrom('a', 'b', 'c', 'd'), number);
const model = fc.record({ intercept: number, weights: fc.dictionary(fc.constantFrom('a', 'b', 'c'), number) });

describe('a probability', () => {
  it('is the logistic function of the weighted evidence', () => {
    const told: LogisticModel = { intercept: -1, weights: { a: 2, b: -0.5 } };
    expect(probabilityOf(told, {})).toBe(0.269);
    expect(probabilityOf(told, { a: 1 })).toBe(0.731);
    expect(probabilityOf(told, { a: 1, b: 2 })).toBe(0.5);
    expect(probabilityOf(told, { a: 1, b: 2, other: 99 })).toBe(0.5);
  });

  it('is never certain, and missing evidence counts as none', () => {
    fc.assert(
      fc.property(model, evidence, (told, given) => {
        const probability = probabilityOf(told, given);
        expect(probability).toBeGreaterThanOrEqual(0.001);
        expect(probability).toBeLessThanOrEqual(0.999);
        expect(probabilityOf(told, { ...given, d: 5 })).toBe(probability);
        expect(probabilityOf(told, { a: 0, b: 0, c: 0, ...given })).toBe(probability);
      }),
    );
  });

  it('grows with what speaks for it and falls with what speaks against it', () => {
    fc.assert(
      fc.property(model, evidence, fc.double({ min: 0, max: 5, noNaN: true }), (told, given, more) => {
        const weight = told.weights.a ?? 0;
        const [before, after] = [probabilityOf(told, given), probabilityOf(told, { ...given, a: (given.a ?? 0) + more })];
        if (weight >= 0) expect(after).toBeGreaterThanOrEqual(before);
        else expect(after).toBeLessThanOrEqual(before);
      }),
    );
  });
});

/** Examples that are right as often as a model says, drawn evenly. */
function drawn(truth: LogisticModel, count: number): Example[] {
  let seed = 7;
  const random = () => {
    seed = (seed * 48_271) % 2_147_483_647;
    return seed / 2_147_483_647;
  };
  return Array.from({ length: count }, () => {
    const given = { a: 4 * random() - 2, b: random() < 0.5 ? 1 : 0 };
    return { evidence: given, right: random() < probabilityOf(truth, given) };
  });
}

describe('fitting', () => {
  const truth: LogisticModel = { intercept: -0.5, weights: { a: 1.5, b: -2 } };

  it('finds the weights that made the examples', () => {
    const { intercept, weights } = fitLogistic(drawn(truth, 6000), ['a', 'b'], 0.1);
    expect(intercept).toBeCloseTo(-0.5, 0);
    expect(Math.abs((weights.a as number) - 1.5)).toBeLessThan(0.15);
    expect(Math.abs((weights.b as number) + 2)).toBeLessThan(0.2);
  });

  it('tells probabilities that come true, on examples it has not seen', () => {
    const fitted = fitLogistic(drawn(truth, 4000), ['a', 'b'], 0.1);
    const unseen = drawn(truth, 9000).slice(4000);
    const { bins, brier } = reliabilityOf(
      unseen.map(({ evidence: given, right }) => ({ probability: probabilityOf(fitted, given), right })),
    );
    for (const { count, expected, observed } of bins) if (count >= 200) expect(Math.abs(expected - observed)).toBeLessThan(0.06);
    expect(brier).toBeLessThan(0.2);
  });

  it('stays finite where the examples can be told apart without an error', () => {
    const apart = Array.from({ length: 40 }, (_, k) => ({ evidence: { a: k }, right: k >= 20 }));
    const { intercept, weights } = fitLogistic(apart, ['a'], 1);
    expect(Number.isFinite(intercept)).toBe(true);
    expect(weights.a).toBeGreaterThan(0);
    expect(weights.a).toBeLessThan(2);
  });

  it('gives no weight to what never varies, and less the more it is held back', () => {
    const examples = drawn(truth, 500).map((example) => ({ ...example, evidence: { ...example.evidence, same: 1 } }));
    const loose = fitLogistic(examples, ['a', 'same'], 0.1).weights;
    const tight = fitLogistic(examples, ['a', 'same'], 500).weights;
    expect(Math.abs(loose.same as number)).toBeLessThan(0.2);
    expect(Math.abs(tight.a as number)).toBeLessThan(Math.abs(loose.a as number));
  });

  it('counts an example as often as it says', () => {
    const one: Example[] = [
      { evidence: {}, right: true, count: 3 },
      { evidence: {}, right: false, count: 1 },
    ];
    expect(probabilityOf(fitLogistic(one, [], 1), {})).toBe(0.75);
  });
});

describe('what comes true', () => {
  const told = Array.from({ length: 400 }, (_, k) => ({
    probability: (k % 20) / 20 + 0.02,
    right: k % 20 >= 10 || k % 40 === 5,
  }));
  const curve = fitIsotonic(told);

  it('is a rising line from never to always', () => {
    expect(curve[0]).toEqual([0.001, 0.001]);
    expect(curve.at(-1)?.[0]).toBe(0.999);
    for (const [k, [at, value]] of curve.entries()) {
      if (k === 0) continue;
      expect(at).toBeGreaterThan(curve[k - 1]?.[0] as number);
      expect(value).toBeGreaterThanOrEqual(curve[k - 1]?.[1] as number);
    }
  });

  it('rises whatever the examples, also where a few right ones stand over many', () => {
    const some = fc.record({ probability: fc.constantFrom(0.001, 0.2, 0.5, 0.9, 0.95, 0.99, 0.998, 0.999), right: fc.boolean() });
    const one = { probability: 0.999, right: true };
    const many = { probability: 0.99, right: true };
    fc.assert(
      fc.property(fc.array(some, { maxLength: 60 }), fc.nat(20), fc.nat(200), (mixed, few, row) => {
        const line = fitIsotonic([...mixed, ...Array(row).fill(many), ...Array(few).fill(one)]);
        for (const [k, [at, value]] of line.entries()) {
          expect(at).toBeGreaterThanOrEqual(line[k - 1]?.[0] ?? 0);
          expect(value).toBeGreaterThanOrEqual(line[k - 1]?.[1] ?? 0);
        }
      }),
    );
  });

  it('makes the timid bold and the bold timid, where examples say so', () => {
    // Of what was told 0.72, all came true; of what was told 0.27, a twentieth of the lower half.
    expect(valueOn(curve, 0.72)).toBeGreaterThan(0.9);
    expect(valueOn(curve, 0.27)).toBeLessThan(0.2);
  });

  it('goes through the middle of what was told alike, so that few at one end of it make the other no surer', () => {
    const row = (probability: number, right: boolean, count: number) => Array(count).fill({ probability, right });
    const mostly = fitIsotonic([...row(0.3, false, 40), ...row(0.8, true, 40), ...row(0.998, true, 400)]);
    expect(valueOn(mostly, 0.9)).toBeGreaterThan(0.98);
    expect(valueOn(mostly, 0.3)).toBeLessThan(0.05);
  });

  it('ends no surer than what was told the surest came true', () => {
    const failed = [...told, { probability: 0.995, right: false }];
    expect(valueOn(fitIsotonic(failed), 0.999)).toBeLessThan(valueOn(curve, 0.999));
  });

  it('leaves order as it is, and what nobody knows about', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.001, max: 0.999, noNaN: true }),
        fc.double({ min: 0.001, max: 0.999, noNaN: true }),
        (a, b) => {
          if (a < b) expect(valueOn(curve, a)).toBeLessThanOrEqual(valueOn(curve, b) + 1e-12);
        },
      ),
    );
    expect(valueOn(fitIsotonic([]), 0.4)).toBeCloseTo(0.4);
  });
});

describe('reliability', () => {
  it('sets what was told beside what came true, in tenths', () => {
    const told = [0.95, 0.97, 0.99, 0.91].map((probability, k) => ({ probability, right: k < 3 }));
    const { bins, brier, count } = reliabilityOf([...told, { probability: 0.05, right: false }]);
    expect(count).toBe(5);
    expect(bins[9]).toMatchObject({ count: 4, observed: 0.75 });
    expect(bins[9]?.expected).toBeCloseTo(0.955);
    expect(bins[0]).toEqual({ count: 1, expected: 0.05, observed: 0 });
    expect(brier).toBeCloseTo((0.05 ** 2 + 0.03 ** 2 + 0.01 ** 2 + 0.91 ** 2 + 0.05 ** 2) / 5);
  });

  it('is perfect for certainty that comes true, and a quarter for a coin', () => {
    expect(reliabilityOf([{ probability: 1, right: true }]).brier).toBe(0);
    expect(reliabilityOf([true, false].map((right) => ({ probability: 0.5, right }))).brier).toBe(0.25);
    expect(reliabilityOf([]).brier).toBe(0);
  });
});

describe('the fitted numbers', () => {
  it('make the recogniser being sure, and sounding like hesitating, speak for a hesitation', () => {
    const written = (given: object) =>
      probabilityOf(FITTED.hesitations, { sure: 0.95, seconds: 0.3, listened: 1, soundsLike: -1, ...given });
    expect(written({})).toBeGreaterThan(written({ sure: 0.5 }));
    expect(written({})).toBeGreaterThan(written({ soundsLike: -8 }));
    const heard = (given: object) =>
      probabilityOf(FITTED.heard, { heldSeconds: 0.25, heldShare: 0.8, logSeconds: -1.2, listened: 1, soundsLike: 0, ...given });
    expect(heard({})).toBeGreaterThan(heard({ soundsLike: -7 }));
    expect(heard({})).toBeGreaterThan(heard({ heldSeconds: 0.06 }));
  });

  it('make a changed content word, a number and words between speak against a retake', () => {
    const line = { matches: 8, contentMatches: 5, share: 1, beside: 1, gap: 0.6, clean: 1 };
    const same = probabilityOf(FITTED.takesByWords, { ...line, equal: 1, equalBeside: 1, equalClean: 1 });
    expect(same).toBeGreaterThan(0.97);
    expect(probabilityOf(FITTED.takesByWords, { ...line, share: 0.88, changed: 1, changedClean: 1 })).toBeLessThan(0.6);
    expect(probabilityOf(FITTED.takesByWords, { ...line, share: 0.88, meaning: 1 })).toBeLessThan(0.5);
    expect(probabilityOf(FITTED.takesByWords, { ...line, equal: 1, beside: 0, wordsBetween: 9 })).toBeLessThanOrEqual(same);
  });

  it('hear what is written in doubt: a line that sounds the same is likelier than one that does not', () => {
    const line = { matches: 6, contentMatches: 3, share: 0.75, beside: 1, gap: 0.6, listened: 1, heardAlike: 1, matched: 2.4 };
    const heard = { ...line, shareLeft: 0.95, shareBoth: 0.93, alikeOther: 0.93, wholeBeside: 1, closeness: 0.15 };
    const told = (worst: number) => {
      const evidence = { ...heard, worst, worstOther: worst, worstWhole: worst, worstBeside: worst, gapAlike: 0.6 * 0.93 };
      return probabilityOf(FITTED.takesInDoubt, { ...evidence, ...earInDoubt(evidence, FITTED.takesBySound) });
    };
    expect(told(0.2)).toBeGreaterThan(0.9);
    expect(told(0.9)).toBeLessThan(0.5);
    expect(earInDoubt({ ...heard, worst: 0 }, FITTED.takesBySound).earInDoubt).toBeLessThanOrEqual(4);
    const again = { ...heard, worst: 0.2, equal: 1, equalBeside: 1, share: 1 };
    const alone = probabilityOf(FITTED.takesInDoubt, again);
    expect(probabilityOf(FITTED.takesInDoubt, { ...again, ...earInDoubt(again, FITTED.takesBySound) })).toBeGreaterThan(alone);
    for (const [name, value] of [
      ['clean', 1],
      ['heardAlike', 0],
    ] as const)
      expect(earInDoubt({ ...heard, [name]: value }, FITTED.takesBySound)).toEqual({ earInDoubt: 0 });
  });

  it('let a clear pause go by itself', () => {
    expect(probabilityOf(FITTED.pauses, { margin: 6, seconds: 1, speech: 0.02 })).toBeGreaterThan(0.97);
  });
});

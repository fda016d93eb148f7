import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type AngleStretch, withAngle } from '../decisions/angles.ts';
import { overlapOf, type Range } from '../time/range.ts';
import { programmeOf } from './programme.ts';
import { seenBy } from './seen.ts';

const range = fc
  .tuple(fc.integer({ min: 0, max: 60_000 }), fc.integer({ min: 1, max: 20_000 }))
  .map(([start, length]): Range => ({ start: start / 1000, end: (start + length) / 1000 }));
const chosen = fc.array(fc.record({ about: range, angle: fc.constantFrom('', 'side', 'screen') }), { maxLength: 12 });
const angleAt = (stretches: readonly AngleStretch[], at: number) =>
  stretches.find(({ start, end }) => at >= start && at < end)?.angle ?? '';

describe('the angles of a recording', () => {
  it('are what was chosen last of every moment, in order and as few as can be', () => {
    fc.assert(
      fc.property(chosen, fc.array(fc.integer({ min: 0, max: 80_000 }), { minLength: 20, maxLength: 20 }), (choices, moments) => {
        const stretches = choices.reduce<AngleStretch[]>((all, { about, angle }) => withAngle(all, about, angle), []);
        for (const at of moments.map((moment) => moment / 1000 + 0.0005)) {
          const last = choices.findLast(({ about }) => at >= about.start && at < about.end)?.angle ?? '';
          expect(angleAt(stretches, at)).toBe(last);
        }
        for (const [k, one] of stretches.slice(1).entries()) {
          const before = stretches[k] as AngleStretch;
          expect(one.start).toBeGreaterThanOrEqual(before.end);
          expect(one.start === before.end && one.angle === before.angle).toBe(false);
        }
      }),
    );
  });

  it('part what is seen and change nothing of what is heard, in any order', () => {
    fc.assert(
      fc.property(
        chosen,
        fc.uniqueArray(fc.integer({ min: 0, max: 70_000 }), { minLength: 2, maxLength: 20 }),
        (choices, moments) => {
          const edges = moments.sort((a, b) => a - b).map((moment) => moment / 1000);
          const pieces = edges
            .slice(1)
            .flatMap((end, k) => (k % 2 === 0 ? [{ start: edges[k] as number, end, rate: k % 3 === 0 ? 2 : 1 }] : []));
          const programme = programmeOf([...pieces].reverse());
          const stretches = choices.reduce<AngleStretch[]>((all, { about, angle }) => withAngle(all, about, angle), []);
          const seen = seenBy(programme, stretches);
          expect(seen.length).toBeCloseTo(programme.length, 9);
          let at = 0;
          for (const piece of programme.pieces) {
            const parts = [];
            for (let end = piece.start; end < piece.end; at++) {
              const part = seen.pieces[at];
              expect(part?.start).toBe(end);
              expect(part?.rate).toBe(piece.rate);
              end = part?.end ?? Number.POSITIVE_INFINITY;
              parts.push(part as (typeof seen.pieces)[number]);
            }
            expect(parts.at(-1)?.end).toBe(piece.end);
            // No flicker, and apart from what is too short to be seen, each shows what was chosen.
            if (piece.end - piece.start > 0.035) for (const part of parts) expect(part.end - part.start).toBeGreaterThan(0.0349);
            for (const stretch of stretches) {
              const wrong = parts
                .filter(({ angle }) => angle !== stretch.angle)
                .reduce((sum, part) => sum + overlapOf(part, stretch), 0);
              const short = stretches.length * 2 * 0.035;
              expect(wrong).toBeLessThanOrEqual(short);
            }
          }
          expect(at).toBe(seen.pieces.length);
        },
      ),
    );
  });

  it('leave a programme without any as it is', () => {
    const programme = programmeOf([{ start: 1, end: 2, rate: 1 }]);
    expect(seenBy(programme, [])).toBe(programme);
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EMBEDDING_HOP, EMBEDDING_RATE, EMBEDDING_SIZE } from './embedding.ts';
import { findEchoes } from './passageMatching.ts';
import { type Echo, packEchoes, unpackEchoes } from './repeatedPassages.ts';

/** Made-up sounds: each letter of a text a direction among the embeddings, held for a while, with a little wavering. */
function spoken(lines: readonly { readonly text: string; readonly pace?: number }[]) {
  const values: number[] = [];
  const stretches: { start: number; end: number }[] = [];
  let seed = 1;
  const random = () => {
    seed = (seed * 48_271) % 2_147_483_647;
    return seed / 2_147_483_647 - 0.5;
  };
  const directionOf = (letter: string) =>
    Array.from({ length: EMBEDDING_SIZE }, (_, k) => Math.sin(letter.charCodeAt(0) * (k + 1.37) * 1.7));
  const frame = (direction: readonly number[]) => {
    const wavering = direction.map((value) => value + 0.5 * random());
    const length = Math.hypot(...wavering);
    values.push(...wavering.map((value) => value / length));
  };
  const silence = (frames: number) => {
    for (let k = 0; k < frames; k++) frame(Array.from({ length: EMBEDDING_SIZE }, random));
  };
  const now = () => (values.length / EMBEDDING_SIZE) * EMBEDDING_HOP;
  silence(15);
  for (const { text, pace = 1 } of lines) {
    const start = now();
    for (const letter of text) for (let k = 0; k < Math.round(3 * pace); k++) frame(directionOf(letter));
    stretches.push({ start, end: now() });
    silence(15);
  }
  return { embedding: Float32Array.from(values), stretches };
}

const echoesIn = (...lines: Parameters<typeof spoken>[0]): Echo[] => {
  const { embedding, stretches } = spoken(lines);
  return [...findEchoes(embedding, stretches)].flatMap(({ echoes }) => echoes);
};

describe('lines said again, by ear', () => {
  it('are heard when the second try is slower, and told how long they go together', () => {
    // What hardly goes together is weighed later: see links.
    const [echo] = echoesIn(
      { text: 'quickbrownjmpsfl' },
      { text: 'otherwordsaltogether' },
      { text: 'quickbrownjmpsfl', pace: 1.4 },
    ).sort((a, b) => b.matched - a.matched);
    expect(echo?.left.start).toBeCloseTo(0.6, 2);
    expect(echo?.matched).toBeCloseTo(16 * 3 * EMBEDDING_HOP, 0);
    expect(echo?.closeness).toBeLessThan(0.3);
  });

  it('are heard when the first try breaks off, and end with the stretch that it breaks off in', () => {
    const { embedding, stretches } = spoken([{ text: 'thespringisletdown' }, { text: 'thespringisletdownbyaquarter' }]);
    const [echo] = [...findEchoes(embedding, stretches)].flatMap(({ echoes }) => echoes);
    expect(echo?.left).toEqual(stretches[0]);
    expect(echo?.right).toEqual(stretches[1]);
  });

  it('are heard when one begins with a word more', () => {
    expect(echoesIn({ text: 'thewheelsgointothebath' }, { text: 'kkthewheelsgointothebath' })).toHaveLength(1);
  });

  it('are not heard where only the first sounds are the same', () => {
    expect(echoesIn({ text: 'thefirstiscleaning' }, { text: 'theqzxvjkpbmwuygh' })).toEqual([]);
  });

  it('are not made of a bell or a motor that comes again: what repeats itself is no line', () => {
    expect(echoesIn({ text: 'abc'.repeat(8) }, { text: 'something' }, { text: 'abc'.repeat(8) })).toEqual([]);
  });

  it('are none in one stretch, in silence, or more than five minutes apart', () => {
    expect(echoesIn({ text: 'alone' })).toEqual([]);
    expect([...findEchoes(new Float32Array(0), [])]).toEqual([]);
    const { embedding, stretches } = spoken([{ text: 'quickbrownjmpsfl' }, { text: 'quickbrownjmpsfl' }]);
    const apart = stretches.map(({ start, end }, k) => ({ start: start + 400 * k, end: end + 400 * k }));
    const values = new Float32Array(450 * EMBEDDING_RATE * EMBEDDING_SIZE);
    const at = (seconds = 0) => Math.round(seconds * EMBEDDING_RATE) * EMBEDDING_SIZE;
    for (const [k, { start, end }] of stretches.entries())
      values.set(embedding.subarray(at(start), at(end)), at(apart[k]?.start));
    expect([...findEchoes(values, apart)].flatMap(({ echoes }) => echoes)).toEqual([]);
  });

  it('are looked for behind a joint alone where another recording begins there, and none runs across it', () => {
    const lines = ['quickbrownjmpsfl', 'thewheelsgointothebath', 'quickbrownjmpsfl', 'thewheelsgointothebath'].map((text) => ({
      text,
    }));
    const { embedding, stretches } = spoken(lines);
    const across = (joint: number) =>
      [...findEchoes(embedding, stretches, joint)]
        .flatMap(({ echoes }) => echoes)
        .map(({ left, right }) => [left, right].map(({ start }) => stretches.findIndex((stretch) => stretch.start === start)));
    expect([0, 1, 2, 3, 4].map(across)).toEqual([[], [[0, 2]], [[0, 2]], [[1, 3]], []]);
    for (let joint = 1; joint <= stretches.length; joint++)
      for (const { left } of [...findEchoes(embedding, stretches, joint)].flatMap(({ echoes }) => echoes))
        expect(left.end).toBeLessThanOrEqual(stretches[joint - 1]?.end ?? 0);
  });

  it('tell where one word differs: there they are far apart, and nowhere else', () => {
    const [echo] = echoesIn({ text: 'thelampwaslitbyzzgasuntil' }, { text: 'thelampwaslitbyqqgasuntil' });
    const [same] = echoesIn({ text: 'thelampwaslitbyzzgasuntil' }, { text: 'thelampwaslitbyzzgasuntil' });
    expect(same?.worst).toBeLessThan(0.3);
    expect(echo?.worst).toBeGreaterThan(0.5);
    const far = echo?.path.filter(({ apart }) => apart > 0.5) ?? [];
    // Its first letter is 0.6 s into the recording, the word that differs 15 letters later, 0.12 s each.
    for (const { left } of far) expect(Math.abs(left - (0.6 + 16 * 0.12))).toBeLessThan(0.5);
    expect(far.length).toBeGreaterThan(0);
  });

  it('are kept in files to the millisecond', () => {
    const range = fc
      .tuple(fc.integer({ min: 0, max: 36_000_000 }), fc.integer({ min: 1, max: 60_000 }))
      .map(([from, length]) => ({
        start: from / 1000,
        end: (from + length) / 1000,
      }));
    const echo = fc.record({
      left: range,
      right: range,
      matched: fc.integer({ min: 0, max: 6000 }).map((n) => n / 100),
      closeness: fc.integer({ min: 0, max: 200 }).map((n) => n / 200),
      worst: fc.integer({ min: 0, max: 200 }).map((n) => n / 200),
      steps: fc.array(
        fc.record({
          left: fc.integer({ min: 0, max: 6000 }),
          right: fc.integer({ min: 0, max: 6000 }),
          apart: fc.integer({ min: 0, max: 200 }).map((n) => n / 200),
        }),
        { maxLength: 12 },
      ),
    });
    fc.assert(
      fc.property(fc.array(echo, { maxLength: 20 }), (made) => {
        const echoes = made.map(({ steps, ...rest }) => ({
          ...rest,
          path: steps.map(({ left, right, apart }) => ({
            left: rest.left.start + left / 100,
            right: rest.right.start + right / 100,
            apart,
          })),
        }));
        expect(unpackEchoes(packEchoes(echoes))).toEqual(echoes);
      }),
    );
  });
});

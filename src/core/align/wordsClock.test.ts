import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { overlapWith, type Range } from '../time/range.ts';
import type { RoughTranscript } from '../transcript/roughTranscript.ts';
import { onSound } from './onSound.ts';
import { strayWords } from './strayWords.ts';
import { timeTranscript } from './timeTranscript.ts';

interface Talk {
  readonly words: readonly Range[];
  readonly silences: readonly Range[];
  readonly duration: number;
}

/** Phrases of some words with pauses between them, as somebody would talk. */
function talk(seed: number, phrases = 60): Talk {
  let state = seed;
  const chance = () => {
    state = (Math.imul(state, 1_103_515_245) + 12_345) & 0x7fffffff;
    return state / 0x7fffffff;
  };
  const words: Range[] = [];
  const silences: Range[] = [];
  let at = 0;
  for (let phrase = 0; phrase < phrases; phrase++) {
    const pause = 0.25 + 1.2 * chance() ** 2;
    silences.push({ start: at, end: at + pause });
    at += pause;
    for (let k = 2 + Math.floor(7 * chance()); k > 0; k--) {
      const length = 0.12 + 0.35 * chance();
      words.push({ start: at, end: at + length });
      at += length;
    }
  }
  return { words, silences, duration: at };
}

const rough = (words: readonly Range[]): RoughTranscript => ({
  passages: [{ speaker: '', tokens: words.map((word, k) => ({ text: `w${k}`, ...word })) }],
  notes: [],
});
const startsOf = ({ passages }: RoughTranscript) => passages.flatMap(({ tokens }) => tokens.map(({ start }) => start as number));
const furthest = (found: readonly number[], right: readonly Range[]) =>
  Math.max(...found.map((start, k) => Math.abs(start - (right[k] as Range).start)));
const by =
  (offset: number, rate = 1) =>
  ({ start, end }: Range): Range => ({
    start: (start - offset) / rate,
    end: (end - offset) / rate,
  });
const seeds = fc.integer({ min: 1, max: 1e6 });

describe('words that were timed by another version of the recording', () => {
  it('are moved to where they are heard, however far they were', () => {
    fc.assert(
      fc.property(seeds, fc.oneof(fc.double({ min: 0.3, max: 4000, noNaN: true }), fc.constant(-3600)), (seed, offset) => {
        const sound = talk(seed);
        const found = onSound(rough(sound.words.map(by(offset))), sound);
        expect(found.notes).toHaveLength(1);
        expect(furthest(startsOf(found), sound.words)).toBeLessThan(0.03);
      }),
      { numRuns: 15 },
    );
  });

  it.each([1.001, 25 / 24, 24 / 25, 0.996, 1.006])('and stretched, where they ran at %d of its speed', (rate) => {
    const sound = talk(7, 150);
    const found = onSound(rough(sound.words.map(by(2, rate))), sound);
    expect(found.notes[0]).toContain("of the recording's speed");
    expect(furthest(startsOf(found), sound.words)).toBeLessThan(0.05);
  });

  it('take lines along that hold no times of words, and lose what is outside of the recording', () => {
    const sound = talk(9, 80);
    const lines = sound.silences.map(({ end }, k) => ({ start: end, end: sound.silences[k + 1]?.start ?? sound.duration }));
    const cued = (cues: readonly Range[]): RoughTranscript => ({
      passages: cues.map((cue) => ({ speaker: '', ...cue, tokens: [{ text: 'so' }] })),
      notes: [],
    });
    const found = onSound(cued([{ start: -40, end: -39 }, ...lines].map(by(-3600))), sound);
    expect(found.passages).toHaveLength(lines.length);
    expect(Math.abs((found.passages[5]?.start ?? 0) - (lines[5]?.start ?? 0))).toBeLessThan(0.03);
  });

  it('stay the very same where they are right but for what a recogniser strays by, or are of another recording, or few', () => {
    fc.assert(
      fc.property(seeds, (seed) => {
        const sound = talk(seed);
        const strayed = sound.words.map(({ start, end }, k) => by(0.08 * Math.sin(k * 2.3) - 0.05)({ start, end }));
        for (const words of [sound.words, strayed, talk(seed + 1).words, sound.words.slice(0, 10).map(by(5))]) {
          const brought = rough(words);
          expect(onSound(brought, sound)).toBe(brought);
        }
      }),
      { numRuns: 15 },
    );
  });
});

it('words a year behind the others, or that last as long, ask for no room in which they could be laid side by side', () => {
  const sound = talk(3);
  const behind = rough([...sound.words.map(by(5)), { start: 3e7, end: 3e7 + 1 }]);
  expect(onSound(behind, sound)).toBe(behind);
  const lasting = sound.words.map(by(-5)).map(({ start }) => ({ start, end: start + 3e7 }));
  expect(furthest(startsOf(onSound(rough(lasting), sound)), sound.words)).toBeLessThan(0.03);
});

describe('stray words', () => {
  const NONE: ReadonlySet<number> = new Set();
  const strayIn = (words: readonly Range[], { silences, duration }: Talk, left = NONE) =>
    strayWords(
      words.map((word) => ({ ...word, text: 'so', confidence: 1, speaker: '', timing: 'measured' })),
      silences,
      duration,
      left,
    );

  it('are all words of another recording, and none that belong to it', () => {
    fc.assert(
      fc.property(seeds, (seed) => {
        const [sound, other] = [talk(seed), talk(seed + 1)];
        expect(strayIn(sound.words, sound).size).toBe(0);
        expect(strayIn(sound.words.map(by(0.15)), sound).size).toBe(0);
        expect(strayIn(other.words, sound).size).toBe(other.words.length);
      }),
      { numRuns: 15 },
    );
  });

  it('are those behind a cut that the recording does not have', () => {
    const sound = talk(11, 120);
    const cut = Math.floor(0.7 * sound.words.length);
    const words = sound.words.map((word, k) => (k < cut ? word : by(7.3)(word)));
    const stray = [...strayIn(words, sound)];
    expect(Math.min(...stray)).toBeGreaterThan(cut - 40);
    expect(Math.max(...stray)).toBe(words.length - 1);
    expect(stray.length).toBeGreaterThan(words.length - cut - 20);
  });

  it('are not told where hardly anybody pauses, or few words are', () => {
    const sound = { ...talk(3), silences: [] };
    expect(strayIn(talk(4).words, sound).size).toBe(0);
    expect(strayIn(talk(4).words.slice(0, 15), talk(3)).size).toBe(0);
    // Of forty words that were all written into silences nothing is said of others.
    expect(strayIn(talk(4).words.slice(0, 40), talk(3), new Set(Array.from({ length: 30 }, (_, k) => k))).size).toBe(0);
  });
});

describe('words of lines', () => {
  const cued = ({ silences, duration }: Talk) =>
    silences.map(({ end }, k) => ({
      speaker: '',
      start: end - 0.1,
      end: (silences[k + 1]?.start ?? duration) + 0.2,
      tokens: ['we', 'let', 'it', 'down'].map((text) => ({ text })),
    }));
  const silentIn = (sound: Talk, of: Talk) => {
    const { words } = timeTranscript({ passages: cued(of), notes: [] }, sound);
    return words.filter(({ start }) => overlapWith(sound.silences, { start, end: start + 0.1 }) > 0.05).length / words.length;
  };

  it('are put where something is heard, and left where they are when the lines are of another recording', () => {
    fc.assert(
      fc.property(seeds, (seed) => {
        const sound = talk(seed);
        expect(silentIn(sound, sound)).toBe(0);
        expect(silentIn(sound, talk(seed + 1))).toBeGreaterThan(0.1);
      }),
      { numRuns: 15 },
    );
  });
});

import { ASIDES, CUES, EXTENDED, PATTERNS, REFRAINS, SENTENCES, VARIANTS } from './sentences.ts';

export type Random = () => number;

/** A line as the generator has it said. Hesitations are in angle brackets, a word said once too often begins with `^`. */
export interface Spoken {
  readonly say: string;
  /** seconds of silence before it */
  readonly pause: number;
  readonly as?: 'cue';
  readonly take?: readonly [group: string, kind: 'part' | 'full' | 'best'];
}

const STUMBLED = new Set('the a an to of and in on is it that for we you with when by this has was from if my there'.split(' '));
const HESITATIONS = ['um', 'uh', 'er', 'um', 'uh'];

/**
 * A script of lines: plain ones, lines tried two or three times whole or broken off, with and without a cue between, and
 * what only looks like tries: lists, refrains, parallel sentences, questions asked again.
 */
export function script(random: Random, scenes: number): Spoken[] {
  const pick = <T>(from: readonly T[]): T => from[Math.floor(random() * from.length)] as T;
  const between = (low: number, high: number) => low + (high - low) * random();
  // What is said a second time without being a try would be taken for one by anybody.
  const [unused, patterns, refrains] = [shuffled(SENTENCES, random), shuffled(PATTERNS, random), shuffled(REFRAINS, random)];
  const extended = shuffled(EXTENDED, random);
  const nextSentence = () => unused.pop() ?? pick(SENTENCES);
  const lines: Spoken[] = [{ say: nextSentence(), pause: between(0.8, 1.5) }];
  let group = 0;
  const plain = () => lines.push({ say: withHesitation(nextSentence(), random), pause: between(0.4, 2.6) });
  const makers: readonly (() => void)[] = [
    plain,
    plain,
    () => {
      const name = `g${group++}`;
      const line = nextSentence();
      const tries = random() < 0.25 ? 3 : 2;
      for (let k = 0; k < tries; k++) {
        const last = k === tries - 1;
        const broken = !last && random() < 0.5;
        const text = broken ? brokenOff(line, random) : k > 0 && random() < 0.35 ? varied(line, random) : line;
        if (k > 0 && random() < 0.35) lines.push({ say: pick(CUES), pause: between(0.3, 1.2), as: 'cue' });
        lines.push({ say: text, pause: between(0.4, 2), take: [name, broken ? 'part' : last ? 'best' : 'full'] });
      }
    },
    () => {
      const { line, slots } = patterns.pop() ?? { line: nextSentence(), slots: [] };
      const count = slots.length === 0 ? 1 : 2 + Math.floor(random() * 2);
      const from = Math.floor(random() * 2);
      for (let k = 0; k < count; k++)
        lines.push({
          say: line.replace(/\{(\d)\}/g, (_, slot) => slots[Number(slot)]?.[from + k] ?? ''),
          pause: between(0.4, 2.4),
        });
    },
    () => {
      const refrain = refrains.pop() ?? nextSentence();
      lines.push({ say: refrain, pause: between(0.4, 2) });
      const aside = random() < 0.5;
      lines.push({ say: aside ? pick(ASIDES) : nextSentence(), pause: between(0.5, 2) });
      lines.push({ say: refrain, pause: between(aside ? 0.2 : 0.4, 1.5) });
    },
    () => {
      // A sentence that begins like the one before and means to.
      const words = nextSentence().split(' ');
      const other = nextSentence().split(' ');
      const shared = words.slice(0, 3 + Math.floor(random() * 2));
      lines.push({ say: words.join(' '), pause: between(0.4, 2) });
      lines.push({ say: joinedOnce(shared, other.slice(shared.length)).join(' '), pause: between(0.4, 2) });
    },
    () => {
      // A whole sentence, and the same with more: no try, though a recogniser that drops its last word makes it look like one.
      const [whole, onward] = extended.pop() ?? [nextSentence(), ''];
      lines.push({ say: whole, pause: between(0.4, 2) });
      if (!onward) return;
      const opening = random() < 0.25 ? `Sorry, ${whole.replace(/^(?!I )\w/, (letter) => letter.toLowerCase())}` : whole;
      lines.push({ say: `${opening.slice(0, -1)} ${onward}.`, pause: between(0.4, 2) });
    },
    () => {
      // People stumble over small words, alone or with the one that follows.
      const words = nextSentence().split(' ');
      const places = words.flatMap((word, k) => (k > 0 && k + 2 < words.length && STUMBLED.has(word) ? [k] : []));
      const at = places.length > 0 ? pick(places) : 0;
      const twice = random() < 0.5 ? 1 : 2;
      const again = words.slice(at, at + twice);
      lines.push({
        say: [...words.slice(0, at + twice), ...again.map((word) => `^${word}`), ...words.slice(at + twice)].join(' '),
        pause: between(0.4, 2),
      });
    },
  ];
  for (let k = 0; k < scenes; k++) pick(makers)();
  lines.push({ say: nextSentence(), pause: between(0.6, 2) });
  return lines;
}

export function shuffled<T>(items: readonly T[], random: Random): T[] {
  const mixed = [...items];
  for (let k = mixed.length - 1; k > 0; k--) {
    const other = Math.floor(random() * (k + 1));
    [mixed[k], mixed[other]] = [mixed[other] as T, mixed[k] as T];
  }
  return mixed;
}

/** Two parts of sentences as one; what would be said twice where they meet, and would be a repeat, is said once. */
function joinedOnce(first: readonly string[], second: readonly string[]): string[] {
  const plain = (words: readonly string[]) => words.join(' ').toLowerCase();
  let twice = Math.min(first.length, second.length);
  while (twice > 0 && plain(first.slice(-twice)) !== plain(second.slice(0, twice))) twice--;
  return [...first, ...second.slice(twice)];
}

function withHesitation(line: string, random: Random): string {
  if (random() < 0.45) return line;
  const words = line.split(' ');
  const hesitation = `<${HESITATIONS[Math.floor(random() * HESITATIONS.length)]}>`;
  const at = random() < 0.25 ? 0 : 1 + Math.floor(random() * (words.length - 1));
  return [...words.slice(0, at), hesitation, ...words.slice(at)].join(' ');
}

function brokenOff(line: string, random: Random): string {
  const words = line.split(' ');
  const kept = words.slice(0, Math.max(3, Math.floor(words.length * (0.3 + 0.5 * random()))));
  return kept.join(' ').replace(/[,.?]$/, '');
}

/** The same line in slightly other words: a small word otherwise, one more or one less. */
function varied(line: string, random: Random): string {
  const words = line.split(' ');
  const places = words.flatMap((word, k) => (VARIANTS[word] ? [k] : []));
  const at = places[Math.floor(random() * places.length)];
  if (at === undefined) return line;
  if (random() < 0.3) words.splice(at, 1);
  else words[at] = VARIANTS[words[at] as string] as string;
  return words.join(' ');
}

import type { Range } from '../time/range.ts';
import { isHeld } from '../transcript/held.ts';

/** A pronouncing dictionary. */
export interface Pronunciations {
  /** ways to say a word, each a row of sounds: `K L AA K` */
  readonly ways: ReadonlyMap<string, readonly string[]>;
  /** every sound that is in one of them */
  readonly sounds: readonly string[];
}

export function dictionaryOf(ways: Pronunciations['ways']): Pronunciations {
  const sounds = new Set<string>();
  for (const rows of ways.values()) for (const row of rows) for (const sound of row.split(' ')) sounds.add(sound);
  return { ways, sounds: [...sounds].sort() };
}

/** Words of a pronouncing dictionary that are said where one is written; none where it has no word for it, and any row of sounds may stand there. */
export type SpokenForm = readonly string[];

/** What a decoder that goes by a grammar takes: the grammar, and how each of its words is said. */
export interface WordChain {
  /** a finite-state grammar as the Sphinx decoders read it */
  readonly grammar: string;
  readonly dictionary: string;
}

/** A stretch that a decoder found one word of its grammar in. */
export interface Segment extends Range {
  readonly word: string;
  /** how the sound is like the word: logarithms, 0 at best, over all its frames */
  readonly score: number;
  readonly frames: number;
}

/** Where a written word is said, and what tells whether that is right. */
export interface ChainPlace extends Range {
  /** how the sound is like the word, frame by frame: logarithms, 0 at best */
  readonly likeness: number;
  /** on how many sides of it a sound is that is no word and no silence */
  readonly sounds: number;
  /** whether it is said as the dictionary has it, and not by any row of sounds */
  readonly isKnown: boolean;
}

/** Part of the probability that each sound of an unknown word has. A few sounds are likelier than one that lasts. */
const PER_SOUND = 0.02;
/** Unknown words beside one another write their sounds by different names, so that it is seen which is which. */
const SIDES = ['-', '='] as const;

/** The words of a dictionary that a written word is said with. */
export function spokenForm(text: string, { ways }: Pronunciations): SpokenForm {
  const written = text.normalize('NFKD').replaceAll(/[’‘]/g, "'").toLowerCase();
  const plain = written.replaceAll(/[^\p{L}\p{N}']/gu, '').replaceAll(/^'+|'+$/g, '');
  if (ways.has(plain)) return [plain];
  const parts = written.split(/[^\p{L}\p{N}']+/u).filter((part) => part !== '');
  return parts.length > 1 && parts.every((part) => ways.has(part)) ? parts : [];
}

/** A grammar of words that are said one behind another, each once. Silence and hesitations between them are the decoder's to allow. */
export function wordChain(forms: readonly SpokenForm[], { ways, sounds }: Pronunciations): WordChain {
  const used = new Map<string, readonly string[]>();
  const steps: string[] = [];
  let state = 0;
  let unknown = 0;
  const step = (from: number, to: number, probability: number, word = '') =>
    steps.push(`TRANSITION ${from} ${to} ${probability} ${word}`.trimEnd());
  for (const form of forms) {
    for (const part of form) {
      used.set(part, ways.get(part) ?? []);
      step(state, ++state, 1, part);
    }
    if (form.length > 0) continue;
    const side = SIDES[unknown++ % SIDES.length] as string;
    for (const sound of sounds) {
      used.set(side + sound, [sound]);
      step(state, state + 1, PER_SOUND, side + sound);
      step(state + 1, state + 1, PER_SOUND, side + sound);
    }
    step(state + 1, state + 2, 1);
    state += 2;
  }
  const grammar = [
    'FSG_BEGIN said',
    `NUM_STATES ${state + 1}`,
    'START_STATE 0',
    `FINAL_STATE ${state}`,
    ...steps,
    'FSG_END',
    '',
  ].join('\n');
  const dictionary = [...used].flatMap(([word, rows]) => rows.map((row, k) => `${word}${k === 0 ? '' : `(${k + 1})`} ${row}\n`));
  return { grammar, dictionary: dictionary.join('') };
}

/**
 * Where each written word was found.
 * @param segments what a decoder found by the grammar of `forms`, in order, silences and hesitations among it
 * @returns undefined where that is not all of the words
 */
export function placesInChain(segments: readonly Segment[], forms: readonly SpokenForm[]): ChainPlace[] | undefined {
  const places: ChainPlace[] = [];
  const isBetween = (at: number) => /^[<[+(]/.test(segments[at]?.word ?? '');
  const isSound = (at: number) => /^[[+]/.test(segments[at]?.word ?? '');
  const pastWhatIsBetween = (at: number): number => (isBetween(at) ? pastWhatIsBetween(at + 1) : at);
  let next = pastWhatIsBetween(0);
  let unknown = 0;
  for (const form of forms) {
    const own: Segment[] = [];
    const first = next;
    const side = SIDES[form.length === 0 ? unknown++ % SIDES.length : 0] as string;
    const isOwn = ({ word }: Segment) => (form.length === 0 ? word.startsWith(side) : word === form[own.length]);
    let last = next;
    for (; segments[next] && isOwn(segments[next] as Segment); next = pastWhatIsBetween(next + 1)) {
      own.push(segments[next] as Segment);
      last = next;
    }
    const [from, to] = [own[0], own.at(-1)];
    if (!from || !to || own.length < form.length) return undefined;
    // A decoder that hears a hesitation anywhere gives a part of one that is written to that.
    const isHesitation = form.length === 1 && isHeld(form[0] as string);
    const [begins, ends] = [isHesitation && isSound(first - 1), isHesitation && isSound(last + 1)];
    const frames = own.reduce((sum, segment) => sum + segment.frames, 0);
    const score = own.reduce((sum, segment) => sum + segment.score, 0);
    places.push({
      start: begins ? (segments[first - 1] as Segment).start : from.start,
      end: ends ? (segments[last + 1] as Segment).end : to.end,
      likeness: score / Math.max(1, frames),
      sounds: (isSound(first - 1) && !begins ? 1 : 0) + (isSound(last + 1) && !ends ? 1 : 0),
      isKnown: form.length > 0,
    });
  }
  return next === segments.length ? places : undefined;
}

import * as z from 'zod/mini';
import type { Proposal } from '../detect/detector.ts';
import { isOf } from '../detect/kinds.ts';
import { FILLER_RULES } from '../detect/words/fillerRules.ts';
import { REPEAT_RULES } from '../detect/words/repeats.ts';
import type { Seconds } from '../time/range.ts';

const count = z.number().check(z.minimum(0), z.maximum(1e6));

/** How often something of one class was right, and what had been told about it before. */
export const lesson = z.object({
  /** name of the class: see `classesOf` */
  about: z.string().check(z.minLength(1), z.maxLength(200)),
  /** mean probability that was told, 0..1, before any lesson */
  told: z.number().check(z.minimum(0), z.maximum(1)),
  /** proposals that a person let go, and that a person kept; fractions where older ones count less */
  right: count,
  wrong: count,
});
export type Lesson = z.infer<typeof lesson>;

/** Air under this is tight, under the second close. */
const TIGHT: Seconds = 0.06;
const CLOSE: Seconds = 0.13;

type Judged = Pick<Proposal, 'kind' | 'group' | 'evidence' | 'found' | 'taken'>;

/**
 * The classes that a proposal belongs to, from general to special, each name beginning with the one before: kind; entry of the lexicon,
 * or reason; the place in the sentence, or the air that is left.
 */
export function classesOf(proposal: Judged): string[] {
  const { kind, group = '', evidence } = proposal;
  if (kind === 'hand') return [];
  if (kind === 'filler') return nested(kind, named(group), weightiest(evidence, FILLER_RULES));
  if (kind === 'pause') return nested(kind, soundInside(evidence), airOf(proposal));
  if (kind === 'retake') return nested(kind, evidence.matches === undefined ? 'sound' : 'words', retakeSign(evidence));
  if (isOf('asides', kind)) return nested(kind, kind === 'cue' ? named(group) : '');
  return nested(kind, weightiest(evidence, REPEAT_RULES));
}

/** A part of a class's name is not parted itself. */
const named = (group: string): string => group.replaceAll('/', ' ').slice(0, 80);

function nested(...parts: readonly string[]): string[] {
  const classes: string[] = [];
  for (const part of parts) {
    if (part === '') break;
    classes.push(classes.length === 0 ? part : `${classes.at(-1)}/${part}`);
  }
  return classes;
}

function weightiest(evidence: Proposal['evidence'], names: readonly string[]): string {
  let [best, most] = ['', 0];
  for (const name of names) {
    const weight = Math.abs(evidence[name] ?? 0);
    if (weight > most) [best, most] = [name, weight];
  }
  return best;
}

const soundInside = ({ specks = 0, breaths = 0, noise = 0 }: Proposal['evidence']): string =>
  breaths > 0 ? 'breath' : specks > 0 ? 'knock' : noise > 0 ? 'noise' : 'plain';

function airOf({ found, taken }: Pick<Proposal, 'found' | 'taken'>): string {
  const air = Math.min(taken.start - found.start, found.end - taken.end);
  return air < TIGHT ? 'tight' : air < CLOSE ? 'close' : 'roomy';
}

const retakeSign = ({ broken, cue, equal }: Proposal['evidence']): string =>
  cue ? 'cue' : broken ? 'broken' : equal ? 'equal' : 'alike';

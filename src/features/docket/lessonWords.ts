import { certaintyOf, type Settings } from '@/core/detect/settings.ts';
import { correctionFrom, STAYS_UNDER } from '@/core/lessons/correction.ts';
import type { Lesson } from '@/core/lessons/lesson.ts';
import { ASIDE_REASONS, FILLER_REASONS, REPEAT_REASONS } from '../episode/review/reasonWords.ts';

const KINDS: Readonly<Record<string, string>> = {
  pause: 'Pauses',
  filler: 'Fillers',
  repeat: 'Repeats',
  retake: 'Lines said again',
  cue: 'Cues',
  broken: 'Lines that break off',
  head: 'What stands before the start',
  tail: 'What stands after the end',
};
const INSIDE: Readonly<Record<string, string>> = {
  breath: 'Pauses with a breath in them',
  knock: 'Pauses with a knock in them',
  noise: 'Pauses with noise in them',
  plain: 'Plain pauses',
};
const AIR: Readonly<Record<string, string>> = { tight: 'hardly any air left', close: 'little air left', roomy: 'air left' };
const SIGNS: Readonly<Record<string, string>> = {
  cue: 'a cue between',
  broken: 'one breaks off',
  equal: 'word for word',
  alike: 'said a little otherwise',
};

/** What a class of proposals is called; see `classesOf`. */
export function classWords(about: string): string {
  const [kind = '', second, third] = about.split('/');
  const name = KINDS[kind] ?? kind;
  if (second === undefined) return name;
  if (kind === 'pause') return [INSIDE[second] ?? name, third && AIR[third]].filter(Boolean).join(', ');
  if (kind === 'filler') return [`“${second}”`, third && FILLER_REASONS[third]].filter(Boolean).join(', ');
  if (kind === 'retake')
    return [second === 'words' ? 'Lines said again, by their words' : 'Lines that sound alike', third && SIGNS[third]]
      .filter(Boolean)
      .join(', ');
  if (kind === 'repeat') return `${name}, ${REPEAT_REASONS[second as keyof typeof REPEAT_REASONS] ?? second}`;
  return `${name}, ${ASIDE_REASONS[second as keyof typeof ASIDE_REASONS] ?? `“${second}”`}`;
}

/** What was taught about one class, and what it comes to with all that was taught. */
export function lessonWords({ about, told, right, wrong }: Lesson, all: readonly Lesson[], settings: Settings): string {
  const count = right + wrong;
  const classes = about.split('/').map((_, k, parts) => parts.slice(0, k + 1).join('/'));
  const now = correctionFrom(all)(classes, told);
  const comesTo =
    now >= certaintyOf(settings)
      ? 'it goes by itself'
      : now <= STAYS_UNDER
        ? 'it stays now'
        : `${Math.round(100 * now)} % sure now`;
  const said = wrong > right ? `you kept ${whole(wrong)} of ${whole(count)}` : `you let ${whole(right)} of ${whole(count)} go`;
  return `${classWords(about)}: ${said}; ${comesTo}`;
}

/** Fewer verdicts than this are not worth a line. */
export const WORTH_SAYING = 2;

/** Older verdicts count less, so that sums are no whole numbers. */
const whole = (value: number): string => String(Math.round(value * 10) / 10);

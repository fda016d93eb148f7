import type { Settings } from '../../detect/settings.ts';
import { formatClock } from '../../time/clock.ts';
import type { Seconds } from '../../time/range.ts';
import type { Change, ChangeKind, Comparison } from './change.ts';

const counted = (count: number, one: string, many: string): string =>
  `${count === 1 ? 'one' : count} ${count === 1 ? one : many}`;

function rangeOf(counts: readonly number[]): string {
  const [least, most] = [Math.min(...counts), Math.max(...counts)];
  return least === most ? counted(least, 'frame', 'frames') : `${least} to ${most} frames`;
}

/** What was done at the seams, in a sentence: `of 96 seams 4 were opened, all after words, by 3 to 5 frames`. */
export function seamSentence({ seams, changes }: Pick<Comparison, 'seams' | 'changes'>): string {
  const opened = changes.filter(({ kind }) => kind === 'opened');
  const of = `of ${counted(seams, 'seam', 'seams')}`;
  if (opened.length === 0) return `${of} none was opened`;
  const [after, before] = [opened.filter((one) => one.after > 0), opened.filter((one) => one.before > 0)];
  const sides =
    before.length === 0
      ? 'after words'
      : after.length === 0
        ? 'before words'
        : `${after.length} after words and ${before.length} before`;
  const all = opened.length > 1 && (before.length === 0 || after.length === 0) ? 'all ' : '';
  const by = rangeOf(opened.flatMap((one) => [one.after, one.before].filter((count) => count > 0)));
  return `${of} ${opened.length} ${opened.length === 1 ? 'was' : 'were'} opened, ${all}${sides}, by ${by}`;
}

const NAMES: Readonly<Record<ChangeKind, string>> = {
  opened: 'opened',
  closed: 'closed',
  undone: 'cut undone',
  restored: 'partly put back',
  'taken out': 'taken out besides',
  moved: 'moved',
  repeated: 'played again',
  speed: 'played at another speed',
  picture: 'seen by another picture',
  added: 'added, of another file',
};

/** A change in a line, with where it is. */
export function changeText(
  { kind, about, after, before, frames: length, name, to }: Change,
  at: (moment: Seconds) => string,
): string {
  const where = `${at(about.start)} to ${at(about.end)}`;
  if (kind === 'moved') return `${where}: moved${to ? ` ${to.side} ${at(to.at)}` : ''}`;
  if (kind === 'picture') return `${where}: ${name ?? 'another picture'} is seen`;
  const frames = (count: number) => counted(Math.abs(count), 'frame', 'frames');
  const sides = [
    after !== 0 && `${frames(after)} ${after < 0 ? 'tighter ' : ''}after words`,
    before !== 0 && `${frames(before)} ${before < 0 ? 'tighter ' : ''}before words`,
  ].filter(Boolean);
  const by = sides.length > 0 ? ` by ${sides.join(' and ')}` : `, ${frames(length)}`;
  return `${where}: ${NAMES[kind]}${name ? ` (${name})` : ''}${by}`;
}

/** What was found, for the command line. */
export function summaryOfComparison(
  found: Comparison,
  { airAfter, airBefore }: Pick<Settings, 'airAfter' | 'airBefore'>,
): string {
  const { format, changes, lengthBefore, lengthAfter, air } = found;
  const at = (moment: Seconds) => formatClock(moment, true);
  const offers = [
    air.airAfter !== undefined && `airAfter=${air.airAfter} (now ${airAfter})`,
    air.airBefore !== undefined && `airBefore=${air.airBefore} (now ${airBefore})`,
  ].filter(Boolean);
  return [
    `${format}: ${at(lengthAfter)} after ${at(lengthBefore)} that were handed over`,
    changes.length === 0 ? 'nothing was changed' : `${counted(changes.length, 'change', 'changes')}; ${seamSentence(found)}`,
    ...changes.map((change) => `  ${changeText(change, at)}`),
    ...(offers.length > 0 ? [`the same air everywhere: --set ${offers.join(' --set ')}`] : []),
    '',
  ].join('\n');
}

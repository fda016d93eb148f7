import type { Range, Seconds } from '../../time/range.ts';
import type { Link } from './link.ts';

/** Sayings of one line, in order, before anybody has judged them. */
export interface LinkedSayings {
  readonly sayings: readonly Range[];
  /** the strongest that each witness says about any two of them */
  readonly words: Link['words'];
  readonly sound: Link['sound'];
}

/** Sayings whose starts are this near begin at the same moment. */
const SAME_START: Seconds = 0.05;

/** Joins links into groups, the best links first; what lies inside a longer saying is no group of its own. */
export function groupLinks(links: readonly Link[]): LinkedSayings[] {
  const groups: Growing[] = [];
  const near = new Neighbourhood();
  for (const link of [...links].sort((x, y) => y.worth - x.worth || x.left.start - y.left.start)) {
    const sides = [link.left, link.right];
    // What begins inside a saying that is known, or holds the beginning of one, is a part of it or reaches over it.
    const touching = sides.flatMap((side) => near.around(side).map((known) => ({ known, side })));
    if (touching.some(({ known, side }) => !begins(known.saying, side) && overlaps(known.saying, side))) continue;
    const mine = [...new Set(touching.filter(({ known, side }) => begins(known.saying, side)).map(({ known }) => known.group))];
    const group = mine[0] ?? { sayings: [], words: undefined, sound: undefined };
    if (mine.length === 0) groups.push(group);
    for (const other of mine.slice(1)) {
      for (const known of other.sayings) {
        known.group = group;
        group.sayings.push(known);
      }
      groups.splice(groups.indexOf(other), 1);
      strengthen(group, other);
    }
    for (const side of sides) {
      const known = group.sayings.find(({ saying }) => begins(saying, side));
      if (known) near.lengthen(known, side.end);
      else {
        const fresh = { saying: side, group };
        group.sayings.push(fresh);
        near.add(fresh);
      }
    }
    strengthen(group, link);
  }
  return groups
    .map(({ sayings, words, sound }) => ({ sayings: inOrder(sayings.map(({ saying }) => saying)), words, sound }))
    .sort((x, y) => (x.sayings[0] as Range).start - (y.sayings[0] as Range).start);
}

interface Growing {
  sayings: Known[];
  words: Link['words'];
  sound: Link['sound'];
}
interface Known {
  saying: Range;
  group: Growing;
}

const begins = (a: Range, b: Range): boolean => Math.abs(a.start - b.start) < SAME_START;
const overlaps = (a: Range, b: Range): boolean => a.start < b.end && b.start < a.end;

function strengthen(group: Growing, by: Pick<Link, 'words' | 'sound'>): void {
  if (by.words && (!group.words || by.words.matches > group.words.matches)) group.words = by.words;
  if (by.sound && (!group.sound || by.sound.closeness < group.sound.closeness)) group.sound = by.sound;
}

/** A saying ends where the next one begins. */
function inOrder(sayings: readonly Range[]): Range[] {
  const sorted = [...sayings].sort((a, b) => a.start - b.start);
  return sorted.map(({ start, end }, k) => ({ start, end: Math.min(end, sorted[k + 1]?.start ?? end) }));
}

/** Known sayings by the seconds in which they begin, so that hundreds of groups are not searched for each link. */
class Neighbourhood {
  private readonly bySecond = new Map<number, Known[]>();
  private longest = 1;

  add(known: Known): void {
    const second = Math.floor(known.saying.start);
    const here = this.bySecond.get(second);
    if (here) here.push(known);
    else this.bySecond.set(second, [known]);
    this.longest = Math.max(this.longest, known.saying.end - known.saying.start);
  }

  lengthen(known: Known, end: Seconds): void {
    const { start } = known.saying;
    known.saying = { start, end: Math.max(known.saying.end, end) };
    this.longest = Math.max(this.longest, known.saying.end - start);
  }

  around({ start, end }: Range): Known[] {
    const found: Known[] = [];
    for (let second = Math.floor(start - this.longest - 1); second <= end; second++)
      found.push(...(this.bySecond.get(second) ?? []));
    return found;
  }
}

import type { Columns } from './columns.ts';

const NEGATIONS = new Set(
  "not no never none nothing nobody without don't doesn't didn't isn't aren't wasn't weren't won't can't cannot couldn't shouldn't".split(
    ' ',
  ),
);
const NUMBERS = new Set(
  'zero one two three four five six seven eight nine ten eleven twelve twenty thirty forty fifty sixty hundred thousand million half first second third fourth fifth sixth seventh'.split(
    ' ',
  ),
);

/**
 * What two sayings of a line do not agree about and what changes its meaning: numbers, names, and whether something is
 * denied. Then it may not be a second try at all.
 * @param rows the two sayings as written, and as compared
 * @returns pairs of what is said, `two / three`
 */
export function differences(
  columns: Columns,
  rows: readonly { readonly written: readonly string[]; readonly plain: readonly string[] }[],
): string[] {
  return columns.flatMap((column) => {
    const [a, b] = column as readonly [number, number];
    const [left, right] = [rows[0]?.plain[a] ?? '', rows[1]?.plain[b] ?? ''];
    if (left === right) return [];
    const named = a > 0 && b > 0 && isName(rows[0]?.written[a]) && isName(rows[1]?.written[b]);
    const changes = (isNumber(left) && isNumber(right)) || NEGATIONS.has(left) !== NEGATIONS.has(right) || named;
    return changes ? [`${left || 'nothing'} / ${right || 'nothing'}`] : [];
  });
}

const isNumber = (word: string): boolean => NUMBERS.has(word) || /^\d/.test(word);
const isName = (word: string | undefined): boolean => word !== undefined && /^\p{Lu}\p{Ll}/u.test(word);

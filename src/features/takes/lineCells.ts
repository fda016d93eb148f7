import { alignRows } from '@/core/detect/takes/columns.ts';
import type { TakeGroup } from '@/core/detect/takes/takes.ts';
import { lexiconOf } from '@/core/detect/words/lexicon.ts';
import { spokenForm } from '@/core/detect/words/spoken.ts';
import type { Word } from '@/core/transcript/word.ts';
import { wordsIn } from '@/core/transcript/wordsIn.ts';

/** A word of one attempt in its column; `index` is -1 where the attempt has none there. */
export interface Cell {
  readonly key: number;
  readonly index: number;
  readonly text: string;
  readonly start: number;
  readonly kept: boolean;
  /** another word than the suggested attempt has here */
  readonly differs: boolean;
  readonly filler: boolean;
}

export interface Line {
  /** its first column */
  readonly from: number;
  readonly rows: readonly { readonly attempt: number; readonly cells: readonly Cell[]; readonly broken: boolean }[];
}

/** Letters that fit beside one another in the tray, with what a column costs beside its letters. */
const LETTERS_A_LINE = 37;
const LETTERS_A_COLUMN = 1.1;

/** Lays attempts out as lines of columns; rows that have nothing in a line are left out of it. */
export function linesOf({ attempts, best, kept }: TakeGroup, words: readonly Word[], language: string, lexicon: string): Line[] {
  const spans = attempts.map((attempt) => wordsIn(words, attempt));
  if (spans.every(([first, last]) => first === last)) return [];
  const rows = spans.map(([first, last]) => words.slice(first, last).map(({ text }) => spokenForm(text)));
  const columns = alignRows(rows);
  const hesitations = new Set(
    lexiconOf(language, lexicon)
      .filter(({ strength }) => strength === 'always')
      .map(({ phrase }) => spokenForm(phrase)),
  );
  const cellOf = (row: number, column: number): Cell => {
    const place = columns[column]?.[row] ?? -1;
    const index = place < 0 ? -1 : (spans[row]?.[0] ?? 0) + place;
    const word = words[index];
    const model = columns[column]?.[best] ?? -1;
    const middle = word ? (word.start + word.end) / 2 : 0;
    const plain = rows[row]?.[place] ?? '';
    return {
      key: column,
      index,
      text: word?.text ?? '',
      start: word?.start ?? 0,
      kept: kept.some(({ start, end }) => middle >= start && middle < end),
      differs: place >= 0 && row !== best && plain !== (rows[best]?.[model] ?? ''),
      filler: hesitations.has(plain),
    };
  };
  return breaksOf(columns, (row, column) => cellOf(row, column).text.length).map(([from, to]) => ({
    from,
    rows: attempts.flatMap(({ broken }, attempt) => {
      const cells = Array.from({ length: to - from }, (_, k) => cellOf(attempt, from + k));
      const here = cells.some(({ index }) => index >= 0);
      const endsHere = columns.findLastIndex((column) => (column[attempt] ?? -1) >= 0);
      return here ? [{ attempt, cells, broken: broken && endsHere >= from && endsHere < to }] : [];
    }),
  }));
}

/** Columns `[from, to)` of each line. */
function breaksOf(
  columns: readonly (readonly number[])[],
  lettersOf: (row: number, column: number) => number,
): [number, number][] {
  const lines: [number, number][] = [];
  let [from, filled] = [0, 0];
  for (const [k, column] of columns.entries()) {
    const width = LETTERS_A_COLUMN + Math.max(...column.map((_, row) => lettersOf(row, k)));
    if (filled + width > LETTERS_A_LINE && k > from) {
      lines.push([from, k]);
      [from, filled] = [k, 0];
    }
    filled += width;
  }
  if (columns.length > from) lines.push([from, columns.length]);
  return lines;
}

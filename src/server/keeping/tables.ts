import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { createInterface } from 'node:readline';
import { pipeline } from 'node:stream/promises';
import { createGunzip, createGzip } from 'node:zlib';
import type { Transaction } from '../db/connection.ts';

/**
 * Tables that hold what cannot be computed again, each after those that it refers to. Jobs, cuts and imports under way are not among
 * them: they follow from the rest.
 */
export const KEPT_TABLES = [
  'media',
  'episodes',
  'recordings',
  'transcripts',
  'decisions',
  'settings_sets',
  'masked_words',
  'lessons',
  'lessons_off',
] as const;
export type KeptTable = (typeof KEPT_TABLES)[number];

/** The migration that made a table, for those that are younger than backups. */
const MADE_BY: Partial<Record<KeptTable, string>> = { lessons: '011-lessons', lessons_off: '011-lessons' };

/** The tables that there are in a database of some version. */
export const keptTablesOf = (schema: readonly string[]): KeptTable[] =>
  KEPT_TABLES.filter((table) => schema.includes(MADE_BY[table] ?? schema[0] ?? ''));

const ROWS_AT_ONCE = 1000;

export interface WrittenTable {
  readonly rows: number;
  /** of the lines before they are packed */
  readonly sha256: string;
}

/** Writes all rows of a table as the caller's transaction sees them: one JSON object a line, gzip. */
export async function writeTable(trx: Transaction, table: KeptTable, path: string): Promise<WrittenTable> {
  const hash = createHash('sha256');
  let rows = 0;
  await trx.raw(`declare kept cursor for select row_to_json(t)::text as line from ?? t`, [table]);
  await pipeline(
    async function* () {
      for (;;) {
        const { rows: found } = await trx.raw(`fetch ${ROWS_AT_ONCE} from kept`);
        if (found.length === 0) return;
        const text = found.map(({ line }: { line: string }) => `${line}\n`).join('');
        hash.update(text);
        rows += found.length;
        yield text;
      }
    },
    createGzip(),
    createWriteStream(path, { flush: true }),
  );
  await trx.raw('close kept');
  return { rows, sha256: hash.digest('hex') };
}

/** Lines of a table as it was written. */
async function* linesOf(path: string): AsyncGenerator<string> {
  for await (const line of createInterface({
    input: createReadStream(path).pipe(createGunzip()),
    crlfDelay: Number.POSITIVE_INFINITY,
  }))
    yield line;
}

/** What a file of a table really holds. */
export async function readBack(path: string): Promise<WrittenTable> {
  const hash = createHash('sha256');
  let rows = 0;
  for await (const line of linesOf(path)) {
    hash.update(`${line}\n`);
    rows++;
  }
  return { rows, sha256: hash.digest('hex') };
}

/** Puts the rows of a table in its place, which is empty and of the version that they were written from. */
export async function readTable(trx: Transaction, table: KeptTable, path: string): Promise<void> {
  let batch: string[] = [];
  const put = async () => {
    if (batch.length === 0) return;
    await trx.raw('insert into ?? select * from json_populate_recordset(null::??, ?::json)', [
      table,
      table,
      `[${batch.join(',')}]`,
    ]);
    batch = [];
  };
  for await (const line of linesOf(path)) if (batch.push(line) >= ROWS_AT_ONCE) await put();
  await put();
}

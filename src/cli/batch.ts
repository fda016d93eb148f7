import { mkdir, writeFile } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import type { FramePlan } from '@/core/outputs/plan/framePlan.ts';
import { json as jsonFormat } from '@/core/outputs/timelines/json.ts';
import { formatClock } from '@/core/time/clock.ts';

const COLUMNS = ['recorded', 'programme', 'seams', 'open'] as const;
type Row = readonly [name: string, ...figures: string[]];

/**
 * Detects in recordings one after another. One that fails does not keep the others from being done.
 * @param folder where a cut list a recording is written, when given
 * @param wordsOf what to say of an error
 * @returns a table for people, and how many failed
 */
export async function detectEach(
  files: readonly string[],
  detect: (file: string) => Promise<FramePlan>,
  { folder, wordsOf }: { readonly folder: string | undefined; readonly wordsOf: (error: unknown) => string },
): Promise<{ readonly table: string; readonly failed: number }> {
  const rows: Row[] = [['', ...COLUMNS]];
  let failed = 0;
  if (folder !== undefined) await mkdir(folder, { recursive: true });
  const names = targetNames(files);
  for (const [k, file] of files.entries()) {
    try {
      const plan = await detect(file);
      const { recorded, programme, seams, open } = plan.cutList.summary;
      if (folder !== undefined) await writeFile(join(folder, names[k] as string), jsonFormat.write(plan)[0]?.text ?? '');
      rows.push([basename(file), formatClock(recorded, true), formatClock(programme, true), String(seams), String(open)]);
    } catch (error) {
      failed++;
      rows.push([basename(file), `failed: ${wordsOf(error)}`]);
    }
  }
  return { table: tableOf(rows), failed };
}

/** A name for each cut list; files of one name in different folders are numbered. */
function targetNames(files: readonly string[]): string[] {
  const taken = new Set<string>();
  return files.map((file) => {
    const stem = basename(file, extname(file));
    let name = `${stem}.json`;
    for (let n = 2; taken.has(name); n++) name = `${stem}-${n}.json`;
    taken.add(name);
    return name;
  });
}

function tableOf(rows: readonly Row[]): string {
  const figures = rows.filter((row) => row.length === COLUMNS.length + 1);
  const widths = COLUMNS.map((_, k) => Math.max(...figures.map((row) => (row[k + 1] as string).length)));
  const nameWidth = Math.max(...rows.map(([name]) => name.length));
  return rows
    .map(([name, ...rest]) => {
      const cells = rest.length === COLUMNS.length ? rest.map((cell, k) => cell.padStart(widths[k] as number)) : rest;
      return `${[name.padEnd(nameWidth), ...cells].join('  ').trimEnd()}\n`;
    })
    .join('');
}

import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { z } from 'zod';

// Whether all packages that are installed may be used and given on together with this program.

const ALLOWED = new Set([
  ...[
    'MIT',
    'ISC',
    'Apache-2.0',
    'BSD-2-Clause',
    'BSD-3-Clause',
    '0BSD',
    'BlueOak-1.0.0',
    'Unlicense',
    'CC0-1.0',
    'Python-2.0',
    'WTFPL',
  ],
  ...['OFL-1.1', 'CC-BY-4.0', 'CC-BY-3.0', 'MIT-0', 'Zlib'],
  // Used as they are, in files of their own.
  ...['MPL-2.0', 'LGPL-3.0-or-later', 'LGPL-2.1', 'LGPL-2.1-only', 'LGPL-2.1-or-later'],
]);
const about = z.object({
  name: z.string(),
  version: z.string(),
  license: z.union([z.string(), z.object({ type: z.string() })]).optional(),
  licenses: z.array(z.object({ type: z.string() })).optional(),
});

const isAllowed = (licence: string): boolean =>
  licence
    .replace(/[()]/g, '')
    .split(/ OR /)
    .some((choice) => choice.split(/ AND /).every((part) => ALLOWED.has(part.trim())));

function* packagesIn(folder: string): Generator<z.infer<typeof about>> {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (!entry.isDirectory() || entry.name.startsWith('.')) continue;
    const path = join(folder, entry.name);
    if (entry.name.startsWith('@')) {
      yield* packagesIn(path);
      continue;
    }
    const names = readdirSync(path);
    const text = names.includes('package.json') ? readFileSync(join(path, 'package.json'), 'utf8') : 'null';
    const { data } = about.safeParse(JSON.parse(text));
    if (data) yield { ...data, license: data.license ?? toldInFile(path, names) };
    if (names.includes('node_modules')) yield* packagesIn(join(path, 'node_modules'));
  }
}

/** Some say it in a file of their own only. */
function toldInFile(path: string, names: readonly string[]): string | undefined {
  const file = names.find((name) => /^licen[cs]e/i.test(name)) ?? names.find((name) => /^readme/i.test(name));
  return file && /\bMIT\b/.test(readFileSync(join(path, file), 'utf8')) ? 'MIT' : undefined;
}

const counts = new Map<string, number>();
const strange: string[] = [];
for (const { name, version, license, licenses } of packagesIn(join(import.meta.dirname, '../node_modules'))) {
  const told =
    typeof license === 'string' ? license : (license?.type ?? licenses?.map(({ type }) => type).join(' OR ') ?? 'none');
  counts.set(told, (counts.get(told) ?? 0) + 1);
  if (!isAllowed(told)) strange.push(`${name} ${version}: ${told}`);
}
const [most] = [...counts].sort((a, b) => b[1] - a[1]);
process.stdout.write(
  `${[...counts.values()].reduce((sum, count) => sum + count, 0)} packages, ${most?.[1]} of them ${most?.[0]}\n`,
);
for (const line of strange) process.stderr.write(`${line}\n`);
process.exit(strange.length > 0 ? 1 : 0);

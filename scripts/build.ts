import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

const ROOT = join(import.meta.dirname, '..');

/** Builds unless what is built was made of these very sources. */
export function build(say: (line: string) => void = () => {}): void {
  const stamp = join(ROOT, 'dist', 'stamp');
  const now = sourceDigest();
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === now) {
    say('the build is up to date');
    return;
  }
  say('building (half a minute or so)');
  execFileSync(process.execPath, [join(ROOT, 'node_modules/astro/astro.js'), 'build', '--silent'], {
    cwd: ROOT,
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, ASTRO_TELEMETRY_DISABLED: '1' },
  });
  writeFileSync(stamp, now);
}

function sourceDigest(): string {
  const hash = createHash('sha256');
  const add = (path: string) => {
    if (statSync(path).isDirectory()) for (const name of readdirSync(path).sort()) add(join(path, name));
    else hash.update(path.slice(ROOT.length)).update(readFileSync(path));
  };
  for (const name of ['src', 'public', 'package-lock.json', 'astro.config.mjs', 'tsconfig.json'])
    if (existsSync(join(ROOT, name))) add(join(ROOT, name));
  return hash.digest('hex');
}

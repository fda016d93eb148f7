import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { execa } from 'execa';
import { z } from 'zod';
import { addRoom, seeded } from '../../demo/script.ts';
import { RATE } from '../../demo/speech.ts';
import { type Random, shuffled } from './scenes.ts';
import { writeSound } from './sound.ts';

/**
 * Makes recordings of lines that people said, for fitting how far the ear can tell tries from other sentences:
 * `npm run recordings:lines LINES FOLDER [COUNT] [SEED]`. LINES holds `NAME.flac`, a line each, and `pairs.json`: which of
 * them are the same line. A line and its like are all in the recording of one number, whatever the seed.
 */
const [lines, folder, count = '10', seed = '1'] = process.argv.slice(2);
if (!lines || !folder) throw new Error('usage: lines.ts LINES FOLDER [COUNT] [SEED]');

/** Seconds that one of the stretches lasts that stand for words: what is said is not known. */
const SYLLABLES = 0.3;
/** How often a line is broken off before it is said whole. */
const BROKEN = 0.3;
const WINDOW = Math.round(0.03 * RATE);
/** What is this far under the loudest moment of a line is no part of it, in decibels. */
const SILENT = 38;

const pairsSchema = z.object({ pairs: z.array(z.object({ a: z.string(), b: z.string(), same: z.boolean() })) });
type Pair = z.output<typeof pairsSchema>['pairs'][number];

/** What is said beside one another: tries at one line, and lines that begin like them. */
interface Family {
  readonly tries: readonly (readonly string[])[];
}

const { pairs } = pairsSchema.parse(JSON.parse(await readFile(join(lines, 'pairs.json'), 'utf8')));
const families = shuffled(familiesOf(pairs), seeded(1));
await mkdir(folder, { recursive: true });
for (let k = 0; k < Number(count); k++) {
  const mine = families.filter((_, n) => n % Number(count) === k);
  await makeRecording(`lines-${k}`, mine, seeded(1000 * Number(seed) + k));
}

/** Names joined by any pair, and inside of these the ones joined by pairs of the same line. */
function familiesOf(all: readonly Pair[]): Family[] {
  const groups = joined(
    all.flatMap(({ a, b }) => [a, b]),
    all.filter(({ same }) => same).map(({ a, b }) => [a, b]),
  );
  const groupOf = new Map(groups.flatMap((group, k) => group.map((name) => [name, k] as const)));
  const links = all.map(({ a, b }) => [groupOf.get(a) as number, groupOf.get(b) as number] as const);
  return joined(
    groups.map((_, k) => k),
    links,
  ).map((members) => ({ tries: members.map((k) => groups[k] as string[]) }));
}

/** Items in the groups that links make of them. */
function joined<T>(items: readonly T[], links: readonly (readonly [T, T])[]): T[][] {
  const groups = new Map<T, T[]>([...new Set(items)].map((item) => [item, [item]]));
  for (const [a, b] of links) {
    const [left, right] = [groups.get(a) as T[], groups.get(b) as T[]];
    if (left === right) continue;
    left.push(...right);
    for (const item of right) groups.set(item, left);
  }
  return [...new Set(groups.values())];
}

async function makeRecording(family: string, mine: readonly Family[], random: Random): Promise<void> {
  const between = (low: number, high: number) => low + (high - low) * random();
  const parts: Float32Array[] = [];
  let length = 0;
  const add = (samples: Float32Array) => {
    parts.push(samples);
    length += samples.length;
  };
  const silence = (seconds: number) => add(new Float32Array(Math.round(seconds * RATE)));
  const [speech, words, retakes]: [[number, number][], object[], object[]] = [[], [], []];
  const say = (samples: Float32Array) => {
    const start = length / RATE;
    add(samples);
    const end = length / RATE;
    speech.push([start, end]);
    const pieces = Math.max(1, Math.round((end - start) / SYLLABLES));
    for (let n = 0; n < pieces; n++) {
      const at = (share: number) => start + ((end - start) * share) / pieces;
      words.push({ text: `w${words.length}`, start: at(n), end: at(n + 1), tag: 'word' });
    }
    return { start, end };
  };
  silence(between(0.4, 1));
  for (const { tries } of shuffled(mine, random)) {
    for (const group of shuffled(tries, random)) {
      const sayings: { start: number; end: number; kind: string; best: boolean }[] = [];
      const recorded = await Promise.all(shuffled(group, random).map(lineOf));
      const [first] = recorded;
      // Some of what was said whole was broken off the first time.
      const broken = first && random() < BROKEN ? brokenOff(first, random) : undefined;
      for (const [n, samples] of [...(broken ? [broken] : []), ...recorded].entries()) {
        if (n > 0) silence(between(0.35, 2));
        const isPart = broken !== undefined && n === 0;
        sayings.push({ ...say(samples), kind: isPart ? 'part' : 'full', best: false });
      }
      if (sayings.length > 1) {
        const last = sayings.at(-1) as (typeof sayings)[number];
        retakes.push({ attempts: [...sayings.slice(0, -1), { ...last, kind: 'best', best: true }] });
      }
      silence(between(0.4, 2.2));
    }
  }
  const track = new Float32Array(length);
  let at = 0;
  for (const samples of parts) {
    track.set(samples, at);
    at += samples.length;
  }
  addRoom(track, between(-66, -48), Math.floor(random() * 1e6));
  const name = `${family}-${seed}`;
  await writeSound(join(folder as string, name), track, random);
  const truth = { name, family, about: 'takes', duration: length / RATE, wordTol: 0.03, words, speech, retakes };
  await writeFile(join(folder as string, `${name}.truth.json`), JSON.stringify(truth));
  process.stdout.write(`${name}\n`);
}

/** A line without the silence around it. */
async function lineOf(name: string): Promise<Float32Array> {
  const { stdout } = await execa(
    'ffmpeg',
    ['-v', 'error', '-i', join(lines as string, `${name}.flac`), '-ac', '1', '-ar', String(RATE), '-f', 'f32le', '-'],
    { encoding: 'buffer' },
  );
  const samples = new Float32Array(new Uint8Array(stdout).buffer);
  const levels = levelsOf(samples);
  const least = Math.max(...levels) - SILENT;
  const [first, last] = [levels.findIndex((level) => level > least), levels.findLastIndex((level) => level > least)];
  return samples.slice(first * WINDOW, (last + 1) * WINDOW);
}

/** Level of each window, in decibels. */
function levelsOf(samples: Float32Array): number[] {
  return Array.from({ length: Math.floor(samples.length / WINDOW) }, (_, k) => {
    const power = samples.subarray(k * WINDOW, (k + 1) * WINDOW).reduce((sum, value) => sum + value * value, 0) / WINDOW;
    return 10 * Math.log10(power + 1e-12);
  });
}

/** A line up to the softest moment of somewhere in its middle. */
function brokenOff(samples: Float32Array, random: Random): Float32Array | undefined {
  const levels = levelsOf(samples);
  const middle = Math.round(levels.length * (0.4 + 0.35 * random()));
  const [from, to] = [middle - 6, middle + 6];
  if (from * WINDOW < 0.6 * RATE || to > levels.length - 8) return undefined;
  const softest = levels.slice(from, to).reduce((best, level, k, near) => (level < (near[best] as number) ? k : best), 0);
  const part = samples.slice(0, (from + softest) * WINDOW);
  const fade = WINDOW / 2;
  for (let k = 0; k < fade; k++) part[part.length - 1 - k] = (part[part.length - 1 - k] as number) * (k / fade);
  return part;
}

import { mkdir, readdir, writeFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { Command } from 'commander';
import { execa } from 'execa';
import { stretchesOf } from '@/core/sync/align.ts';
import { probe } from '@/server/media/probe.ts';
import { listenedTo } from '@/server/media/together/listened.ts';

// From which likeness on two stretches count as one sound: `npm run fit:sync -- FOLDER…`, any recordings. Each is recorded once more
// by microphones that do not exist, with a place and a clock of their own, and held against itself and against the next one.

const PLACE = 7.4321;
const CLOCK = 48_003;
const MICROPHONES: Readonly<Record<string, string>> = {
  camera: 'highpass=120,volume=0.4',
  'far away': 'aecho=0.6:0.9:31|67|113|171:0.6|0.5|0.4|0.3,lowpass=5000,volume=0.2',
  telephone: 'highpass=300,lowpass=3400,acompressor=ratio=6',
  headphones: 'volume=0.03',
};
/** Noise that each of them hears as well, as an amplitude. */
const NOISES = [0.008];
const NEAR_PLACE = 0.01;

const program = new Command('sync')
  .argument('<folders...>')
  .option('--keep <folder>', 'where sounds are made', 'var/fit/sync')
  .option('--write', 'write the number into the project')
  .action(async (folders: string[], { keep, write }: { keep: string; write?: boolean }) => {
    await mkdir(keep, { recursive: true });
    const lists = await Promise.all(folders.map(async (folder) => (await readdir(folder)).map((name) => join(folder, name))));
    const files = lists.flat().filter((name) => /\.(flac|m4a|mp3|opus|wav|mka)$/.test(name));
    const heard = await Promise.all(files.map(listen));
    const [same, other]: [number[], number[]] = [[], []];
    for (const [k, file] of files.entries())
      for (const [name, filter] of Object.entries(MICROPHONES))
        for (const noise of NOISES) {
          const again = join(keep, 'again.ogg');
          await recordedAgain(file, `${filter},asetrate=${CLOCK}`, noise, again);
          const second = await listen(again);
          const found = await stretchesOf(heard[k] as Awaited<ReturnType<typeof listen>>, second);
          // At `t` of the first the second is at `(t - PLACE) * 48000 / CLOCK`.
          const right = found.filter(({ at, place }) => Math.abs(at * (CLOCK / 48_000) + PLACE - at - place) < NEAR_PLACE);
          same.push(...right.map(({ height }) => height));
          // Two files of one name hold one recording.
          const others = files.findIndex((other, n) => n !== k && stemOf(other) !== stemOf(file) && n > k);
          const next = heard[others < 0 ? 0 : others] as Awaited<ReturnType<typeof listen>>;
          other.push(...(await stretchesOf(next, second)).map(({ height }) => height));
          process.stdout.write(`${file}, ${name}, noise ${noise}: ${right.length} of ${found.length} found\n`);
        }
    same.sort((a, b) => a - b);
    other.sort((a, b) => a - b);
    const [tenth, highest] = [same[Math.floor(0.1 * same.length)] ?? 0, other.at(-1) ?? 0];
    const least = Math.round(10 * Math.sqrt(tenth * highest)) / 10;
    process.stdout.write(
      `right places ${same.length}: least ${same[0]}, a tenth under ${tenth}; other sound ${other.length}: highest ${highest}; ${least}\n`,
    );
    if (write)
      await writeFile(
        'src/core/sync/fitted.ts',
        `// Written by scripts/fit/sync.ts: ${same.length} stretches found in their own recording, a tenth of them under ${tenth.toFixed(1)}; ${other.length} in another, the highest ${highest.toFixed(1)}.\n\n/** Deviations by which a shift must stand out. */\nexport const LEAST_HEIGHT = ${least};\n`,
      );
  });

const stemOf = (path: string): string | undefined => basename(path).split('.')[0];

const listen = async (path: string) => listenedTo(path, await probe(path));

async function recordedAgain(file: string, filter: string, noise: number, to: string): Promise<void> {
  await execa('ffmpeg', [
    ...[
      '-v',
      'error',
      '-y',
      '-ss',
      String(PLACE),
      '-i',
      file,
      '-f',
      'lavfi',
      '-i',
      `anoisesrc=color=pink:amplitude=${noise}:seed=7`,
    ],
    ...['-filter_complex', `[0:a:0]aresample=48000,${filter},aresample=48000[a];[a][1]amix=duration=first:normalize=0`],
    ...['-c:a', 'libopus', '-b:a', '48k', to],
  ]);
}

await program.parseAsync();

import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { execa } from 'execa';
import { describe, expect, it } from 'vitest';
import { type CutList, cutListSchema } from '@/core/programme/cutlistSchema.ts';
import { folderFor } from '../media.ts';

const DEMO = join(import.meta.dirname, '..', '..', 'demo', 'media');
const folder = folderFor('takes');
const kept = join(folder, 'kept');
const zetemis = (...words: string[]) => execa(join(import.meta.dirname, '..', '..', 'bin', 'zetemis'), words, { reject: false });

interface Line {
  readonly text: string;
  readonly start: number;
  readonly end: number;
}

/** A recording of lines said one after another by a voice of ffmpeg's own, a second and a bit of soft noise between. */
function record(name: string, lines: readonly { readonly text: string; readonly tempo?: number; readonly voice?: string }[]) {
  const path = join(folder, name);
  const spoken = lines.map(({ text, tempo = 1, voice = 'slt' }, k) => {
    const wav = join(folder, `${name}-${k}.wav`);
    const said = join(folder, `${name}-${k}.txt`);
    writeFileSync(said, text);
    const filter = `atempo=${tempo},aresample=16000,apad=pad_dur=1.2`;
    execFileSync('ffmpeg', [
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      `flite=textfile=${said}:voice=${voice}`,
      '-af',
      filter,
      '-ac',
      '1',
      wav,
    ]);
    const seconds = Number(
      execFileSync('ffprobe', ['-v', 'error', '-show_entries', 'format=duration', '-of', 'csv=p=0', wav], { encoding: 'utf8' }),
    );
    return { wav, text, seconds };
  });
  const inputs = spoken.flatMap(({ wav }) => ['-i', wav]);
  const joined = `${spoken.map((_, k) => `[${k}]`).join('')}concat=n=${spoken.length}:v=0:a=1[voice]`;
  const room = `anoisesrc=a=0.0012:c=brown:r=16000:seed=7[room];[voice][room]amix=inputs=2:duration=first:normalize=0`;
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...inputs, '-filter_complex', `${joined};${room}`, path]);
  let at = 0;
  const placed = spoken.map(({ text, seconds }): Line => {
    const line = { text, start: at, end: at + seconds - 1.2 };
    at += seconds;
    return line;
  });
  return { path, lines: placed };
}

async function detect(path: string, ...options: string[]): Promise<CutList> {
  const to = join(folder, 'cut.json');
  const { exitCode, stderr } = await zetemis('detect', path, '--keep', kept, '--json', to, ...options);
  expect(stderr, stderr).not.toContain('Error');
  expect(exitCode).toBe(0);
  return cutListSchema.parse(JSON.parse(readFileSync(to, 'utf8')));
}

const retakes = ({ proposals }: CutList) => proposals.filter(({ kind }) => kind === 'retake');
const covered = (line: Line, { proposals }: CutList) =>
  retakes({ proposals } as CutList).some(
    ({ start, end }) => Math.min(end, line.end) - Math.max(start, line.start) > 0.7 * (line.end - line.start),
  );

const talk = record('talk.wav', [
  { text: 'Good morning, and welcome to the workshop by the harbour.' },
  { text: 'The striking train is held by this small lever' },
  { text: 'The striking train is held by this small lever, and it must never be bent.', tempo: 0.92 },
  { text: 'A drop of oil goes into each of the four holes.' },
  { text: 'Wind it slowly, and listen for the second click of the spring.' },
  { text: 'Sorry, once more.' },
  { text: 'Wind it slowly, and listen for the second click of the spring.', tempo: 1.08 },
  { text: 'The first thing to look at is the chain.' },
  { text: 'The second thing to look at is the weight.' },
  { text: 'That is all for today, and thank you for watching.' },
]);

describe('takes of a recording without words', () => {
  it('are heard: broken off and begun again, and said again faster behind a word of apology', async () => {
    const cut = await detect(talk.path);
    const [greeting, broken, whole, oil, first, , second, ...rest] = talk.lines as [
      Line,
      Line,
      Line,
      Line,
      Line,
      Line,
      Line,
      ...Line[],
    ];
    for (const line of [broken, first]) expect(covered(line, cut), line.text).toBe(true);
    for (const line of [greeting, whole, oil, second, ...rest]) expect(covered(line, cut), line.text).toBe(false);
    expect(new Set(retakes(cut).map(({ group }) => group)).size).toBe(2);
  });

  it('carry in the list which attempt they are, how each is scored, and what heard them', async () => {
    const [one] = retakes(await detect(talk.path, '--takes', 'sound'));
    expect(one?.evidence).toMatchObject({ attempt: 1, attempts: 2, suggested: 2 });
    expect(one?.evidence.bestScore).toBeGreaterThan(one?.evidence.score ?? 1);
    expect(one?.evidence.heardAlike).toBe(1);
    expect(one?.evidence.closeness).toBeLessThan(0.4);
    expect(one?.evidence.matches).toBeUndefined();
  });

  it('are not looked for when nobody wants them, and by words alone there are none', async () => {
    expect(retakes(await detect(talk.path, '--takes', 'off'))).toEqual([]);
    expect(retakes(await detect(talk.path, '--takes', 'words'))).toEqual([]);
    const { stderr, exitCode } = await zetemis('detect', talk.path, '--takes', 'smell');
    expect(exitCode).not.toBe(0);
    expect(stderr).toContain('words, sound, both, off');
  });

  it('are not made of the same line said by two voices', async () => {
    const text = 'The lamp was lit by gas until the year of the war.';
    const duet = record('duet.wav', [
      { text: 'Good evening from the lighthouse.' },
      { text },
      { text, voice: 'kal' },
      { text: 'That is how it was in those days.', voice: 'kal' },
    ]);
    expect(retakes(await detect(duet.path))).toEqual([]);
  });
});

describe('takes of the demo lesson', () => {
  const truth = JSON.parse(readFileSync(join(DEMO, 'carriage-clock.truth.json'), 'utf8')) as {
    retakes: { attempts: (Line & { best: boolean })[] }[];
  };

  it('are all four found by words and sound together, with the best attempt left in', async () => {
    const cut = await detect(join(DEMO, 'carriage-clock.mp4'), '--words', join(DEMO, 'carriage-clock.words.json'));
    for (const attempt of truth.retakes.flatMap(({ attempts }) => attempts))
      expect(covered(attempt, cut), attempt.text).toBe(!attempt.best);
    expect(retakes(cut)).toHaveLength(4);
  });

  it('are heard without a word where nothing is said between: that it is an apology, only words tell', async () => {
    const cut = await detect(join(DEMO, 'carriage-clock.mp4'));
    const [first, , third] = truth.retakes.map(({ attempts }) => attempts.find(({ best }) => !best) as Line);
    for (const line of [first, third]) expect(covered(line as Line, cut), line?.text).toBe(true);
    const goes = { ...cut, proposals: cut.proposals.filter(({ verdict }) => verdict === 'out') };
    expect(covered(first as Line, goes)).toBe(true);
    for (const { attempts } of truth.retakes)
      for (const attempt of attempts) if (attempt.best) expect(covered(attempt, goes), attempt.text).toBe(false);
  });
});

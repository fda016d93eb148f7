import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { execa } from 'execa';
import { describe, expect, it } from 'vitest';
import { type CutList, cutListSchema } from '@/core/programme/cutlistSchema.ts';
import { folderFor, type Line, recordLines } from '../media.ts';

const DEMO = join(import.meta.dirname, '..', '..', 'demo', 'media');
const folder = folderFor('takes');
const kept = join(folder, 'kept');
const zetemis = (...words: string[]) => execa(join(import.meta.dirname, '..', '..', 'bin', 'zetemis'), words, { reject: false });

async function detect(...options: string[]): Promise<CutList> {
  const to = join(folder, 'cut.json');
  const { exitCode, stderr } = await zetemis('detect', '--keep', kept, '--json', to, ...options);
  expect(stderr, stderr).not.toContain('Error');
  expect(exitCode).toBe(0);
  return cutListSchema.parse(JSON.parse(readFileSync(to, 'utf8')));
}

const retakes = ({ proposals }: CutList) => proposals.filter(({ kind }) => kind === 'retake');
const covered = (line: Line, { proposals }: CutList) =>
  retakes({ proposals } as CutList).some(
    ({ start, end }) => Math.min(end, line.end) - Math.max(start, line.start) > 0.7 * (line.end - line.start),
  );

const talk = recordLines(join(folder, 'talk.wav'), [
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

  it('are heard across two recordings of one episode: broken off in one file, gone through in the next', async () => {
    const [first, second] = [
      recordLines(join(folder, 'first.wav'), [
        { text: 'Good morning, and welcome to the workshop by the harbour.' },
        { text: 'The mainspring barrel sits behind the lower plate, and it is held' },
      ]),
      recordLines(join(folder, 'second.wav'), [
        { text: 'The mainspring barrel sits behind the lower plate, and it is held by two brass screws.', tempo: 0.95 },
        { text: 'A drop of oil goes into each of the four holes.' },
      ]),
    ];
    const cut = await detect(first.path, second.path, '--takes', 'sound');
    const begins = cut.recordings?.[1]?.start ?? 0;
    const lines = [
      ...first.lines,
      ...second.lines.map((line) => ({ ...line, start: line.start + begins, end: line.end + begins })),
    ];
    expect(lines.map((line) => covered(line, cut))).toEqual([false, true, false, false]);
    const [one] = retakes(cut);
    expect(one?.evidence).toMatchObject({ attempt: 1, attempts: 2, suggested: 2, far: 0 });
    expect(one?.end).toBeLessThanOrEqual(cut.recordings?.[0]?.end ?? 0);
    // The other way round it is a line that somebody goes through, and a beginning of it at the very end.
    const turned = await detect(second.path, first.path, '--takes', 'sound');
    expect(new Set(retakes(turned).map(({ group }) => group)).size).toBeLessThanOrEqual(1);
    expect(retakes(await detect(first.path, second.path, '--takes', 'words'))).toEqual([]);
  });

  it('are not made of the same line said by two voices', async () => {
    const text = 'The lamp was lit by gas until the year of the war.';
    const duet = recordLines(join(folder, 'duet.wav'), [
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

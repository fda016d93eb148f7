import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { execa } from 'execa';
import { describe, expect, it } from 'vitest';
import { writeSettingsFile } from '@/core/detect/settings.ts';
import { cutListSchema } from '@/core/programme/cutlistSchema.ts';
import { folderFor, makeTalk, makeVideo } from '../media.ts';

const folder = folderFor('cli');
const talk = makeTalk(join(folder, 'talk.wav'), [2, 1.5, 3, 1, 2, 0.3, 2]);
/** What was measured of a file once is used again, unless a test says otherwise: most are about what is made of it. */
const kept = (words: readonly string[]): string[] =>
  ['detect', 'export'].includes(words[0] ?? '') && !words.includes('--keep') ? ['--keep', join(folder, 'measured')] : [];
const zetemis = (...words: string[]) =>
  execa(join(import.meta.dirname, '..', '..', 'bin', 'zetemis'), [...words, ...kept(words)], {
    reject: false,
    env: { DATABASE_URL: 'postgresql://nowhere:1/none' },
  });
const detect = async (...options: string[]) =>
  cutListSchema.parse(JSON.parse((await zetemis('detect', ...options, '--json', '-')).stdout));

describe('the command line', () => {
  it('detects without a database and writes the documented JSON', async () => {
    const list = await detect(talk, '--set', 'airBefore=0', '--set', 'airAfter=0');
    expect(list.media).toEqual({ name: 'talk.wav', duration: 11.8, tracks: 1 });
    expect(list.settings).toMatchObject({ airBefore: 0, airAfter: 0, threshold: 'auto' });
    expect(list.proposals).toHaveLength(2);
    for (const [k, [start, end]] of [
      [2, 3.5],
      [6.5, 7.5],
    ].entries() as IterableIterator<[number, [number, number]]>) {
      expect(Math.abs((list.proposals[k]?.start ?? 0) - start)).toBeLessThan(0.06);
      expect(Math.abs((list.proposals[k]?.end ?? 0) - end)).toBeLessThan(0.06);
    }
    const kept = list.pieces.reduce((sum, piece) => sum + piece.end - piece.start, 0);
    expect(list.summary.programme).toBeCloseTo(kept, 2);
    expect(list.summary).toMatchObject({ recorded: 11.8, seams: 2, open: 0 });
  });

  it('obeys settings and presets, single settings over the preset', async () => {
    expect((await detect(talk, '--preset', 'brisk', '--set', 'minPause=0.2')).proposals).toHaveLength(3);
    expect((await detect(talk, '--preset', 'roomy')).proposals).toHaveLength(2);
    const file = join(folder, 'bench.settings.json');
    writeFileSync(file, writeSettingsFile('Bench', { minPause: 1.2, treatment: 'shorten', shortenTo: 0.7 }));
    const list = await detect(talk, '--preset', file);
    expect(list.proposals.map(({ treatment, amount }) => [treatment, amount])).toEqual([['shorten', 0.7]]);
    expect((await detect(talk, '--set', 'minPause=1.2')).proposals).toHaveLength(1);
  });

  it('lets words hold against pauses', async () => {
    const words = join(folder, 'words.json');
    writeFileSync(words, JSON.stringify({ words: [{ text: 'hush', start: 2.6, end: 3 }] }));
    const list = await detect(talk, '--words', words, '--set', 'minPause=0.3');
    for (const { start, end } of list.proposals) expect(end <= 2.6 || start >= 3).toBe(true);
  });

  it('makes one episode of several recordings, with the right file behind each event', async () => {
    mkdirSync(join(folder, 'second'));
    const other = makeTalk(join(folder, 'second', 'talk.wav'), [1, 1.2, 2]);
    const [list, edl] = [join(folder, 'episode.json'), join(folder, 'episode.edl')];
    const { stdout } = await zetemis('detect', talk, other, '--json', list);
    expect(stdout).toContain('talk.wav, talk.wav: ');
    const { recordings = [], pieces, summary, proposals } = cutListSchema.parse(JSON.parse(readFileSync(list, 'utf8')));
    expect(recordings.map(({ start }) => start)).toEqual([0, Math.ceil(recordings[0]?.end ?? 0) + 1]);
    expect(new Set(pieces.map(({ recording }) => recording))).toEqual(new Set([0, 1]));
    const lengths = recordings.map(({ start, end }) => end - start);
    expect(summary.recorded).toBeCloseTo((lengths[0] ?? 0) + (lengths[1] ?? 0), 2);
    for (const { start, end } of [...proposals, ...pieces])
      expect(recordings.some((one) => start >= one.start - 0.001 && end <= one.end + 0.001)).toBe(true);
    await zetemis('export', talk, other, '--to', edl);
    const reels = [...readFileSync(edl, 'utf8').matchAll(/^\d{3} {2}(\S+)/gm)].map(([, reel]) => reel);
    expect([...new Set(reels)]).toEqual(['TALK', 'TALK2']);
    const words = (await zetemis('detect', talk, '--words', 'a.json', '--words', 'b.json')).stderr;
    expect(words).toContain('2 transcripts for one recording');
  });

  it('detects in several recordings, each by itself, and tells which failed', async () => {
    mkdirSync(join(folder, 'elsewhere'));
    const other = makeTalk(join(folder, 'elsewhere', 'talk.wav'), [1, 1.2, 2]);
    const text = join(folder, 'no-sound.wav');
    writeFileSync(text, 'not a recording');
    const lists = join(folder, 'lists');
    const { stdout, stderr, exitCode } = await zetemis('detect', talk, text, other, '--each', '--json', lists, '--no-speech');
    expect(exitCode).toBe(1);
    const lines = stdout.split('\n');
    expect(lines).toHaveLength(4);
    expect(lines[0]?.trim().split(/\s+/)).toEqual(['recorded', 'programme', 'seams', 'open']);
    expect(lines[1]).toMatch(/^talk\.wav +0:11\.8 +0:\d+\.\d +2 +\d+$/);
    expect(lines[2]).toMatch(/^no-sound\.wav +failed: /);
    expect(lines[3]).toMatch(/^talk\.wav +0:04\.2 +0:\d+\.\d +1 +\d+$/);
    expect(stderr).toContain('1 of 3 failed');
    expect(readdirSync(lists).sort()).toEqual(['talk-2.json', 'talk.json']);
    expect(cutListSchema.parse(JSON.parse(readFileSync(join(lists, 'talk-2.json'), 'utf8'))).summary.seams).toBe(1);
    expect((await zetemis('detect', talk, '--each', '--words', text)).stderr).toContain('do not go together');
  });

  it('says before it measures anything that there is no folder to write into, and what can be chosen', async () => {
    const nowhere = join(folder, 'nowhere');
    for (const command of [
      ['detect', talk, '--json', join(nowhere, 'x.json')],
      ['export', talk, '--to', join(nowhere, 'x.otio')],
      ['render', talk, '--to', join(nowhere, 'x.m4a')],
      ['compare', talk, talk, '--to', join(nowhere, 'x.srt')],
      ['words', talk, '--recognise', 'local', '--to', join(nowhere, 'x.vtt')],
    ]) {
      const { stderr, exitCode } = await zetemis(...command);
      expect([stderr, exitCode]).toEqual([`zetemis: There is no folder ${nowhere} to write into.`, 1]);
    }
    expect(existsSync(nowhere)).toBe(false);
    const captions = await zetemis('render', talk, '--to', join(folder, 'x.mp4'), '--captions', 'track');
    expect(captions.stderr).toContain('There are no words to write captions from');
    for (const [option, value] of [
      ['--captions', 'loud'],
      ['--size', '12'],
      ['--quality', 'best'],
      ['--mask-by', 'horn'],
    ] as const)
      expect((await zetemis('render', talk, '--to', join(folder, 'x.mp4'), option, value)).stderr).toContain(
        'Allowed choices are',
      );
  });

  it('sums up in a few lines, in words', async () => {
    const { stdout, exitCode } = await zetemis('detect', talk);
    expect(exitCode).toBe(0);
    expect(stdout).toMatch(
      /^talk\.wav: 0:11\.8 recorded, 0:\d+\.\d programme\nfound 2 pauses; 2 seams, 0 open\ntimeline: 3 events/,
    );
  });

  it.each(['edl', 'otio', 'csv', 'json'])('exports straight to .%s', async (ending) => {
    const to = join(folder, `out.${ending}`);
    const { stdout, exitCode } = await zetemis('export', talk, '--to', to, '--rate', '29.97');
    expect(exitCode, stdout).toBe(0);
    expect(readFileSync(to, 'utf8')).toContain('talk.wav');
  });

  it('uses the footage’s own rate and start timecode', async () => {
    const film = makeVideo(join(folder, 'film.mp4'), 5, '-c:v', 'libx264', '-c:a', 'aac', '-timecode', '02:00:00;00');
    const to = join(folder, 'film.edl');
    await zetemis('export', film, '--to', to);
    const text = readFileSync(to, 'utf8');
    expect(text).toContain('FCM: DROP FRAME');
    expect(text).toContain('* SOURCE START: 02:00:00;00');
    expect(text).toContain('* FRAME RATE: 29.97');
  });

  it.each([
    [['detect', talk, '--set', 'minpause=1'], /no setting “minpause”.*minPause/],
    [['detect', talk, '--set', 'minPause=99'], /0\.1 to 10 s/],
    [['detect', talk, '--set', 'minPause'], /name=value/],
    [['detect', talk, '--preset', 'tight'], /no preset “tight”.*wide, roomy, even, brisk, taut/],
    [['detect', talk, '--preset', 'gone.json'], /no such file/],
    [['detect', talk, '--tracks', '2'], /no track 2: the file has one/],
    [['detect', talk, '--tracks', 'left'], /track numbers such as 1,2/],
    [['detect', talk, '--set', 'treatment=delete'], /“remove”, or “shorten”/],
    [['detect', '/nowhere/at/all.wav'], /There is no such file/],
    [['detect', talk, '--words', '/nowhere.json'], /no such file/i],
    [['detect', talk, '--words', talk], /This is no text/],
    [['export', talk, '--to', 'x.doc'], /no format.*\.xml, \.otio, \.edl, \.csv, \.json/i],
    [['export', talk, '--to', 'x.edl', '--rate', 'fast'], /not a frame rate/],
    [['detect'], /missing required argument/],
    [['remove', talk], /unknown command/],
  ])('refuses %j in one line and writes nothing', async (words, says) => {
    const { exitCode, stderr, stdout } = await zetemis(...(words as string[]));
    expect(exitCode).toBe(1);
    expect(stderr).toMatch(says as RegExp);
    expect(stderr).not.toMatch(/\n\s+at /);
    expect(stdout).toBe('');
    expect(existsSync('x.doc') || existsSync('x.edl')).toBe(false);
  });

  it('hurries and empties in every format', async () => {
    const edl = async (...set: string[]) => {
      const to = join(folder, 'treated.edl');
      await zetemis('export', talk, '--to', to, ...set.flatMap((one) => ['--set', one]));
      return readFileSync(to, 'utf8');
    };
    expect(await edl('treatment=hurry', 'hurryRate=2', 'hurryFrom=1.2', 'hurrySound=along')).toMatch(
      /^M2 {3}TALK {5}050\.0 {16}00:00:02:/m,
    );
    // Sound alone that is hurried without its sound is nothing, for as long as it takes.
    expect(await edl('treatment=hurry', 'hurryRate=2', 'hurryFrom=1.2')).toMatch(/^\* SILENT OF TALK: 00:00:02:/m);
    expect(await edl('treatment=hole')).toMatch(/ {2}BL {6} A {5}C /);
  });

  it('cuts only where the tracks named are silent', async () => {
    const duet = join(folder, 'duet.mka');
    const other = makeTalk(join(folder, 'other.wav'), [0.5, 1, 10.3]);
    await execa('ffmpeg', ['-v', 'error', '-y', '-i', talk, '-i', other, '-map', '0', '-map', '1', '-c:a', 'flac', duet]);
    const starts = async (...options: string[]) =>
      (await detect(duet, ...options)).proposals.map(({ start }) => Math.floor(start));
    expect(await starts('--tracks', '1')).toEqual([2, 6]);
    expect(await starts('--tracks', '2')).toEqual([0]);
    expect(await starts()).toEqual([]);
  });

  it('goes by level alone, and says so, where the speech model cannot run', async () => {
    const { stdout, stderr, exitCode } = await execa(
      join(import.meta.dirname, '..', '..', 'bin', 'zetemis'),
      ['detect', talk, '--speech', '--json', '-'],
      { reject: false, env: { ZETEMIS_SPEECH_MODEL: '/nowhere/model.onnx' } },
    );
    expect(exitCode).toBe(0);
    expect(stderr).toMatch(/speech model cannot run.*level alone/);
    const alone = await detect(talk, '--no-speech', '--keep', join(folder, 'by level'));
    expect(JSON.parse(stdout).proposals).toEqual(alone.proposals);
  });

  it('measures speech unless it is told not to', async () => {
    const measured = async (name: string, ...options: string[]) => {
      const keep = join(folder, name);
      await detect(talk, '--keep', keep, ...options);
      return readdirSync(keep, { recursive: true }).some((file) => String(file).endsWith('speech-0.ztcv'));
    };
    expect(await measured('left', '--no-speech')).toBe(false);
    expect(await measured('left', '--speech')).toBe(true);
    expect(await measured('untold')).toBe(true);
  });

  it('takes names that look like options or protocols for the files that they are', async () => {
    const odd = join(folder, 'odd');
    mkdirSync(odd);
    for (const name of ['concat:a|b.wav', 'http:x.wav', 'a "b" \'c\' $(d).wav']) {
      writeFileSync(join(odd, name), readFileSync(talk));
      expect((await detect(join(odd, name), '--no-speech')).media.name).toBe(name);
    }
  });
});

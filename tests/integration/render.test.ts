import { execFileSync } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { extname, join, resolve } from 'node:path';
import { execa } from 'execa';
import { describe, expect, it } from 'vitest';
import { SOUND_RATE } from '@/core/contract/sound.ts';
import type { AngleStretch } from '@/core/decisions/angles.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { shownAngles } from '@/core/outputs/plan/carriers.ts';
import { handoffMedia } from '@/core/outputs/plan/media.ts';
import type { Programme } from '@/core/programme/programme.ts';
import { pieceAt, programmeOf, toSource } from '@/core/programme/programme.ts';
import { seenBy } from '@/core/programme/seen.ts';
import { type SeamSettings, viewsOf } from '@/core/programme/views.ts';
import { endingOf, type RenderChoices, type RenderFormatId, renderChoices } from '@/core/render/choices.ts';
import { picturePlan } from '@/core/render/picturePlan.ts';
import { renderProgramme } from '@/core/render/programmeSound.ts';
import type { SampleSource } from '@/core/render/sampleSource.ts';
import { parseRate } from '@/core/time/rate.ts';
import { probe } from '@/server/media/probe.ts';
import type { SoundFile } from '@/server/media/render/clockSamples.ts';
import { type Rendering, renderFile } from '@/server/media/render/renderFile.ts';
import { folderFor } from '../media.ts';

const folder = folderFor('render');
const LENGTH = 60;

/** A sound whose pitch rises all the time, so that every moment of it is another. */
function made(name: string, expression: string): string {
  const path = join(folder, name);
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', `aevalsrc='${expression}':s=48000:d=${LENGTH}`, path]);
  return path;
}
const rising = made('rising.wav', '0.4*sin(2*PI*(200+10*t)*t)|0.4*sin(2*PI*(300+7*t)*t)');

const samplesOf = (path: string): Int16Array => {
  const bytes = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-ac', '2', '-ar', '48000', '-f', 's16le', '-'], {
    maxBuffer: 1e9,
  });
  return new Int16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2);
};

/** All of a file in memory, put on the clock. */
const inMemory = (path: string): SampleSource => {
  const samples = samplesOf(path);
  return {
    async copy(from, to, out, at) {
      for (let k = from; k < to; k++)
        for (const channel of [0, 1]) out[2 * (at + k - from) + channel] = (samples[2 * k + channel] ?? 0) / 32_768;
    },
    once: (_, work) => work(),
  };
};

interface Asked {
  readonly title: string;
  readonly crossfade: number;
  readonly onProgress?: (share: number) => void;
  readonly signal?: AbortSignal;
  readonly choices?: Partial<RenderChoices>;
  readonly masked?: Rendering['masked'];
  readonly looks?: Partial<SeamSettings>;
  readonly angles?: readonly AngleStretch[];
  /** where what is finished of it waits */
  readonly work?: string;
}

/** Renders to a file by its ending, as the queue and the command line do. */
function renderTo(files: readonly SoundFile[], programme: Programme, to: string, asked: Asked) {
  const { title, crossfade, onProgress, signal = new AbortController().signal } = asked;
  const choices = { ...renderChoices.parse({ format: extname(to).slice(1) as RenderFormatId }), ...asked.choices };
  const placed = files.map(({ start, end, facts }) => ({ start, end, media: handoffMedia('bench', facts, end - start) }));
  const seen = seenBy(programme, shownAngles(asked.angles ?? [], placed));
  const views = viewsOf(seen, { ...DEFAULT_SETTINGS, ...asked.looks }, []);
  const plan = picturePlan(placed, seen, parseRate(files[0]?.facts.video?.rate ?? '25'), views);
  const rendering = {
    title,
    files,
    programme,
    joins: { crossfade },
    choices,
    plan,
    captions: '',
    chapters: '',
    masked: asked.masked,
  };
  return renderFile(rendering, to, asked.work ?? join(folder, 'work'), { signal, onProgress });
}

const piece = (start: number, end: number) => ({ start, end, rate: 1 });
const MOVED = programmeOf([
  piece(40, 44.5),
  piece(2, 9.25),
  piece(9.75, 12),
  { ...piece(20, 22), hole: true as const },
  piece(50.123, 55),
]);
const HURRIED = programmeOf([piece(1, 3), { ...piece(3, 15), rate: 4, sound: 'pitch' as const }, piece(15, 17)]);

describe('rendered sound', () => {
  it.each([
    ['with passages moved, a hole and seams', MOVED],
    ['with a hurried part', HURRIED],
  ])('is what the page plays, sample for sample: %s', async (_, programme) => {
    const to = join(folder, 'out.wav');
    const facts = await probe(rising);
    const shares: number[] = [];
    await renderTo([{ path: rising, facts, start: 0, end: LENGTH }], programme, to, {
      title: 'Rising',
      crossfade: 0.01,
      onProgress: (share) => shares.push(share),
    });
    const expected = await renderProgramme(programme, inMemory(rising), 0, Math.round(programme.length * SOUND_RATE), {
      crossfade: 0.01,
    });
    const rendered = samplesOf(to);
    expect(rendered.length).toBe(expected.length);
    let most = 0;
    for (let k = 0; k < expected.length; k++)
      most = Math.max(most, Math.abs((rendered[k] as number) - 32_768 * (expected[k] as number)));
    // What is faded is rounded to 16 bits once more.
    expect(most).toBeLessThanOrEqual(1);
    expect(shares.at(-1)).toBe(1);
    expect([...shares].sort((a, b) => a - b)).toEqual(shares);
  });

  it.each(['.flac', '.mp3', '.m4a', '.opus'])('as long as the programme and titled, as %s', async (ending) => {
    const to = join(folder, `out${ending}`);
    const title = 'The lamp; = "room"\n#1';
    const facts = await probe(rising);
    await renderTo([{ path: rising, facts, start: 0, end: LENGTH }], MOVED, to, { title, crossfade: 0.01 });
    const told = JSON.parse(
      execFileSync('ffprobe', ['-v', 'error', '-of', 'json', '-show_format', '-show_streams', to], { encoding: 'utf8' }),
    );
    expect(Math.abs(Number(told.format.duration) - MOVED.length)).toBeLessThan(0.08);
    const tags = { ...told.format.tags, ...told.streams[0].tags };
    expect(tags.title ?? tags.TITLE).toContain('The lamp; = "room"');
  });

  it('of several recordings takes each from its place on the clock', async () => {
    const low = made('low.wav', '0.3*sin(2*PI*110*t)|0.3*sin(2*PI*110*t)');
    const to = join(folder, 'two.wav');
    const second = LENGTH + 2;
    const sources = await Promise.all(
      [rising, low].map(async (path, k) => ({ path, facts: await probe(path), start: k * second, end: k * second + LENGTH })),
    );
    await renderTo(sources, programmeOf([piece(second + 5, second + 6), piece(10, 11)]), to, { title: 'Two', crossfade: 0 });
    const [rendered, first, other] = [samplesOf(to), samplesOf(rising), samplesOf(low)];
    expect(rendered.slice(0, 2000)).toEqual(other.slice(2 * 5 * SOUND_RATE, 2 * 5 * SOUND_RATE + 2000));
    expect(rendered.slice(2 * SOUND_RATE, 2 * SOUND_RATE + 2000)).toEqual(
      first.slice(2 * 10 * SOUND_RATE, 2 * 10 * SOUND_RATE + 2000),
    );
  });

  it('that fails or is cancelled leaves nothing behind, and what was there stays', async () => {
    const to = join(folder, 'kept.wav');
    writeFileSync(to, 'as it was');
    const facts = await probe(rising);
    const cancelled = new AbortController();
    const rendering = renderTo([{ path: rising, facts, start: 0, end: LENGTH }], MOVED, to, {
      title: '',
      crossfade: 0.01,
      signal: cancelled.signal,
      onProgress: (share) => share > 0.5 && cancelled.abort(),
    });
    await expect(rendering).rejects.toThrow(/cancelled/);
    const broken = join(folder, 'broken.wav');
    writeFileSync(broken, 'RIFF and nothing else');
    await expect(
      renderTo([{ path: broken, facts, start: 0, end: LENGTH }], MOVED, to, { title: '', crossfade: 0.01 }),
    ).rejects.toThrow(/cannot be decoded/);
    await expect(
      renderTo([{ path: rising, facts, start: 0, end: LENGTH }], MOVED, join(folder, 'none', 'x.wav'), {
        title: '',
        crossfade: 0,
      }),
    ).rejects.toThrow(/could not be written/);
    await expect(
      renderTo([{ path: rising, facts, start: 0, end: LENGTH }], programmeOf([]), to, { title: '', crossfade: 0 }),
    ).rejects.toThrow(/Nothing is left/);
    expect(readFileSync(to, 'utf8')).toBe('as it was');
    expect(readdirSync(folder).filter((name) => name.endsWith('.part'))).toEqual([]);
  });

  it('comes from the command line in one go, and another ending is refused before anything is measured', () => {
    const to = join(folder, 'from-command.mp3');
    const zetemis = (...options: string[]) =>
      execFileSync('bin/zetemis', ['render', ...options, '--keep', join(folder, 'kept')], {
        encoding: 'utf8',
        stdio: ['ignore', 'pipe', 'pipe'],
      });
    expect(zetemis(rising, '--to', to)).toContain('s of sound');
    expect(existsSync(to)).toBe(true);
    expect(() => zetemis(rising, '--to', join(folder, 'x.doc'))).toThrow(/ends in .mp4/);
    expect(() => zetemis(rising, '--to', to, '--clean', 'very')).toThrow(/off, some, much/);
    expect(zetemis(rising, '--to', to, '--clean', '--loudness', 'podcast')).toMatch(/-1[56]\.\d LUFS \(-/);
    expect(readdirSync(folder).filter((name) => /cleaning|rendering/.test(name))).toEqual([]);
  });

  it('is told from the folder that it lies in, as files are named there', () => {
    const here = join(folder, 'here');
    mkdirSync(here);
    copyFileSync(rising, join(here, 'talk.wav'));
    const source = ['-f', 'lavfi', '-i', 'testsrc=size=160x90:rate=25:d=4', '-i', 'talk.wav', '-shortest', '-pix_fmt', 'yuv420p'];
    execFileSync('ffmpeg', ['-v', 'error', ...source, '-g', '25', 'talk.mp4'], { cwd: here });
    const zetemis = (...options: string[]) =>
      execFileSync(resolve('bin/zetemis'), ['render', ...options, '--keep', 'kept'], { cwd: here, encoding: 'utf8' });
    expect(zetemis('talk.wav', '--to', 'out.flac', '--clean')).toContain('out.flac');
    expect(zetemis('talk.mp4', '--to', 'out.mp4')).toContain('sound and picture');
    expect(zetemis('talk.mp4', '--to', 'quick.mp4', '--quick')).toContain('quick.mp4');
    expect(readdirSync(here).sort()).toEqual(['kept', 'out.flac', 'out.mp4', 'quick.mp4', 'talk.mp4', 'talk.wav']);
  });
});

const RATE = '30000/1001';
const FRAME = 1001 / 30_000;
/** Brightness tells which frame one is, within a span of frames; a click sounds with each twentieth. */
const SPAN = 100;
const brightnessOf = (frame: number): number => 20 + 2 * (frame % SPAN);

function filmed(name = 'filmed', shape = `96x64:r=${RATE}`, frame = 'N'): string {
  const path = join(folder, `${name}.mp4`);
  const picture = `color=black:s=${shape}:d=${LENGTH},format=yuv420p,geq=lum='20+2*mod(${frame},${SPAN})':cb=128:cr=128`;
  const sound = `aevalsrc='0.8*lt(mod(t,${20 * FRAME}),0.002)':s=48000:d=${LENGTH}`;
  const options = [
    '-f',
    'lavfi',
    '-i',
    picture,
    '-f',
    'lavfi',
    '-i',
    sound,
    '-c:v',
    'libx264',
    '-crf',
    '8',
    '-g',
    '90',
    '-c:a',
    'aac',
    path,
  ];
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...options]);
  return path;
}

/** Mean brightness of each frame of a file. */
function framesOf(path: string, part = ''): number[] {
  const bytes = execFileSync(
    'ffmpeg',
    [
      '-v',
      'error',
      '-i',
      path,
      '-fps_mode',
      'passthrough',
      '-vf',
      `${part}extractplanes=y,scale=1:1:flags=area:in_range=full:out_range=full`,
      '-pix_fmt',
      'gray',
      '-f',
      'rawvideo',
      '-',
    ],
    { maxBuffer: 1e9 },
  );
  return [...bytes];
}

const probed = (path: string, entries: string) =>
  JSON.parse(
    execFileSync('ffprobe', ['-v', 'error', '-of', 'json', '-show_entries', entries, '-show_chapters', path], {
      encoding: 'utf8',
    }),
  );

describe('rendered picture', () => {
  const film = filmed();
  const cuts = programmeOf([
    ...Array.from({ length: 40 }, (_, k) => piece(0.9 * k + 0.013 * (k % 7), 0.9 * k + 0.5)),
    piece(50.2, 55),
    piece(45, 47.77),
    { ...piece(38, 42), rate: 4, sound: 'mute' as const },
    { ...piece(42.5, 43.5), hole: true as const },
  ]);

  it.each([
    ['mp4', 'h264', 'aac'],
    ['webm', 'vp9', 'opus'],
    ['mkv', 'h264', 'aac'],
    ['av1', 'av1', 'opus'],
  ] as const)('shows at each frame what is heard in it: %s', async (rendered, picture, sound) => {
    const to = join(folder, `film.${endingOf(rendered)}`);
    const facts = await probe(film);
    const shares: number[] = [];
    const files = [{ path: film, facts, start: 0, end: LENGTH }];
    const asked = { title: 'Film', crossfade: 0.01, choices: { format: rendered } };
    await renderTo(files, cuts, to, { ...asked, onProgress: (share) => shares.push(share) });
    const shown = framesOf(to);
    expect(Math.abs(shown.length * FRAME - cuts.length)).toBeLessThanOrEqual(FRAME / 2 + 1e-6);
    let wrong = 0;
    for (const [k, brightness] of shown.entries()) {
      const at = (k + 0.5) * FRAME;
      const index = pieceAt(cuts, at);
      const isHole = cuts.pieces[index]?.hole === true;
      const frame = Math.floor(toSource(cuts, at) / FRAME + 1e-6);
      // A step from one frame to the next is two.
      const off = Math.min(
        ...[0, 1].map((more) => Math.abs(brightness - brightnessOf(frame - more))),
        isHole ? brightness - 16 : 99,
      );
      if (off > 2) wrong++;
    }
    expect(wrong).toBe(0);
    const { streams, format } = probed(to, 'stream=codec_name,r_frame_rate:format=duration:format_tags=title');
    expect(streams.map(({ codec_name: name }: { codec_name: string }) => name)).toEqual([picture, sound]);
    expect(streams[0].r_frame_rate).toBe(RATE);
    expect(Number(format.duration)).toBeCloseTo(cuts.length, 1);
    expect(format.tags.title).toBe('Film');
    expect([...shares].sort((a, b) => a - b)).toEqual(shares);
    expect(existsSync(join(folder, 'work'))).toBe(false);
  });
});

describe('another camera', () => {
  it('is seen where it was chosen, frame by frame, whatever its rate, size and clock', async () => {
    const [front, side] = [filmed('front'), filmed('side', '144x96:r=25', '2999-N')];
    const facts = await probe(front);
    const beside = { path: side, facts: await probe(side) };
    // It was switched on before the first camera, and its clock runs fast.
    const [place, drift] = [-1.3, 0.001];
    const about = { name: '', linkedPath: null, by: 'sound' as const };
    const together = [
      { ...about, id: 'front', facts, place: 0, drift: 0, sound: true },
      { ...about, id: 'side', facts: beside.facts, place, drift, sound: false },
    ];
    const angles = [
      { start: 5.31, end: 10, angle: 'side' },
      { start: 20, end: 44, angle: 'side' },
      { start: 56, end: 60, angle: 'side' },
    ];
    const programme = programmeOf([
      piece(40.5, 47),
      piece(2, 9),
      piece(9.5, 12.2),
      { ...piece(18, 28), rate: 4, sound: 'mute' as const },
      { ...piece(30, 31), hole: true as const },
      piece(55, 60),
    ]);
    const files = [{ path: front, facts: { ...facts, together }, start: 0, end: LENGTH, angles: { side: beside } }];
    const to = join(folder, 'cameras.mp4');
    await renderTo(files, programme, to, { title: '', crossfade: 0.01, angles });
    const shown = framesOf(to);
    expect(Math.abs(shown.length * FRAME - programme.length)).toBeLessThanOrEqual(FRAME / 2 + 1e-6);
    const wrong: (readonly [frame: number, at: number])[] = [];
    for (const [k, brightness] of shown.entries()) {
      const at = (k + 0.5) * FRAME;
      if (programme.pieces[pieceAt(programme, at)]?.hole) continue;
      const moment = toSource(programme, at);
      // The picture of the side camera ended before the recording did: its own is seen again.
      const isSide = angles.some(({ start, end }) => moment >= start && moment < Math.min(end, LENGTH / 1.001 + place));
      const seen = isSide ? 2999 - Math.floor((moment - place) * (1 + drift) * 25) : Math.floor(moment / FRAME + 1e-6);
      const isNearEdge = angles.some(({ start, end }) =>
        [start, end, LENGTH + place].some((edge) => Math.abs(moment - edge) < 0.15),
      );
      const off = Math.min(...[-1, 0, 1].map((more) => Math.abs(brightness - brightnessOf(seen + more))));
      if (off > 2 && !isNearEdge) wrong.push([k, moment]);
    }
    expect(wrong).toEqual([]);
    await expect(
      renderTo([{ ...(files[0] as SoundFile), angles: {} }], programme, to, { title: '', crossfade: 0, angles }),
    ).rejects.toThrow(/not here any more/);
  });
});

describe('sound and picture of a rendered file', () => {
  it('are never more than half a frame apart, though there are hundreds of cuts', async () => {
    // An hour with 2,700 pieces takes five times as long: ZETEMIS_MARK_MINUTES=60.
    const minutes = Number(process.env.ZETEMIS_MARK_MINUTES ?? 12);
    const path = join(folder, 'marks.mp4');
    // Every four seconds a frame is white, and a click sounds where it begins.
    const picture = `color=black:s=64x48:r=25:d=${60 * minutes},drawbox=c=white:t=fill:enable='eq(mod(n,100),50)'`;
    const sound = `aevalsrc='0.9*between(mod(t,4),2,2.001)*sin(2*PI*3000*t)':s=48000:d=${60 * minutes}`;
    const encoders = ['-pix_fmt', 'yuv420p', '-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'aac'];
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', picture, '-f', 'lavfi', '-i', sound, ...encoders, path]);
    // Three pieces in each four seconds, of odd lengths; the mark is in the second.
    const programme = programmeOf(
      Array.from({ length: 15 * minutes }, (_, k) => 4 * k).flatMap((at, k) => [
        piece(at + 0.1, at + 0.6 + 0.0137 * (k % 11)),
        piece(at + 1.7 + 0.0091 * (k % 13), at + 2.4),
        piece(at + 3.013, at + 3.4),
      ]),
    );
    const to = join(folder, 'marks-out.mp4');
    const files = [{ path, facts: await probe(path), start: 0, end: 60 * minutes }];
    await renderTo(files, programme, to, { title: '', crossfade: 0.004 });
    const flashes = framesOf(to).flatMap((brightness, k) => (brightness > 128 ? [k / 25] : []));
    const samples = samplesOf(to);
    const clicks: number[] = [];
    for (let k = 0; k < samples.length; k += 2)
      if (Math.abs(samples[k] as number) > 6000 && k / 2 / SOUND_RATE - (clicks.at(-1) ?? -1) > 0.5)
        clicks.push(k / 2 / SOUND_RATE);
    expect(flashes).toHaveLength(15 * minutes);
    expect(clicks).toHaveLength(15 * minutes);
    const apart = flashes.map((at, k) => Math.abs(at - (clicks[k] as number)));
    // Half a frame, and what a lossy encoder smears.
    expect(Math.max(...apart)).toBeLessThan(0.02 + 0.002);
  });
});

describe('the shape of a rendered picture', () => {
  /** Half of it white, half black, so that its turn can be told. */
  const shaped = async (name: string, size: string, ...more: string[]) => {
    const [plain, path] = [join(folder, `${name}-plain.mp4`), join(folder, `${name}.mp4`)];
    const picture = `color=black:s=${size}:r=25:d=4,drawbox=w=iw/2:c=white:t=fill`;
    const sources = ['-f', 'lavfi', '-i', picture, '-f', 'lavfi', '-i', 'sine=r=48000:d=4'];
    execFileSync('ffmpeg', ['-v', 'error', '-y', ...sources, '-pix_fmt', 'yuv420p', '-c:v', 'libx264', '-c:a', 'aac', plain]);
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', plain, ...more, path]);
    return { path, facts: await probe(path) };
  };
  const shapeOf = (path: string) => {
    const { streams } = probed(path, 'stream=width,height,sample_aspect_ratio');
    const { width, height, sample_aspect_ratio: points } = streams[0];
    return [width, height, points];
  };

  it('is turned the right way up, keeps the width of its points, and has the first file decide', async () => {
    const turned = await shaped('turned', '320x180', '-c', 'copy', '-metadata:s:v:0', 'rotate=90');
    const wide = await shaped('wide', '360x288', '-vf', 'setsar=16/11', '-c:a', 'copy');
    const to = join(folder, 'shaped.mp4');
    const render = (files: readonly (typeof turned)[], choices: Partial<RenderChoices> = {}) => {
      const placed = files.map((file, k) => ({ ...file, start: 10 * k, end: 10 * k + 4 }));
      const programme = programmeOf(files.map((_, k) => piece(10 * k + 1, 10 * k + 2)));
      return renderTo(placed, programme, to, { title: '', crossfade: 0.01, choices });
    };
    await render([turned]);
    expect(shapeOf(to).slice(0, 2)).toEqual([180, 320]);
    // What was at the left is at the bottom, as ffprobe says it: turned by 90 degrees against the clock.
    const [top, bottom] = [framesOf(to, 'crop=iw:ih/4:0:0,'), framesOf(to, 'crop=iw:ih/4:0:ih*3/4,')];
    expect([(top[5] as number) > 128, (bottom[5] as number) > 128]).toEqual([false, true]);
    await render([wide]);
    expect(shapeOf(to)).toEqual([360, 288, '16:11']);
    await render([wide], { size: '720' });
    expect(shapeOf(to)).toEqual([524, 288, '1:1']);
    await render([turned, wide], { size: 'square' });
    expect(shapeOf(to)).toEqual([1080, 1080, '1:1']);
    await render([wide, turned]);
    expect(shapeOf(to)).toEqual([360, 288, '16:11']);
    expect(framesOf(to)).toHaveLength(50);
  });
});

describe('a quick copy', () => {
  const film = filmed();
  const files = async () => [{ path: film, facts: await probe(film), start: 0, end: LENGTH }];
  const programme = programmeOf([piece(1.3, 14.2), piece(15, 27.03), piece(30, 31), piece(40.4, 55)]);

  it.each(['mp4', 'mkv'] as const)('shows the same frames, and encodes beside cuts alone: %s', async (format) => {
    const to = join(folder, `copied.${format}`);
    await renderTo(await files(), programme, to, { title: '', crossfade: 0.01, choices: { format, copies: true } });
    const shown = framesOf(to);
    expect(shown).toHaveLength(Math.round(programme.length / FRAME));
    let wrong = 0;
    for (const [k, brightness] of shown.entries()) {
      const frame = Math.floor(toSource(programme, (k + 0.5) * FRAME) / FRAME + 1e-6);
      if (Math.min(...[0, 1].map((more) => Math.abs(brightness - brightnessOf(frame - more)))) > 2) wrong++;
    }
    expect(wrong).toBe(0);
    const { streams, format: about } = probed(to, 'stream=codec_name,codec_tag_string:format=duration');
    expect(streams.map(({ codec_name: name }: { codec_name: string }) => name)).toEqual(['h264', 'aac']);
    if (format === 'mp4') expect(streams[0].codec_tag_string).toBe('avc3');
    expect(Number(about.duration)).toBeCloseTo(programme.length, 1);
    // Most packets are those of the file, byte for byte.
    const hashes = (path: string) =>
      execFileSync(
        'ffprobe',
        [
          '-v',
          'error',
          '-select_streams',
          'v',
          '-show_data_hash',
          'crc32',
          '-show_entries',
          'packet=data_hash',
          '-of',
          'csv=p=0',
          path,
        ],
        { encoding: 'utf8' },
      )
        .trim()
        .split('\n');
    const own = new Set(hashes(film));
    const copied = hashes(to).filter((hash) => own.has(hash)).length;
    expect(copied / shown.length).toBeGreaterThan(format === 'mp4' ? 0.6 : 0);
  });

  it('is a whole encoding where nothing can be copied, and plays on where files differ', async () => {
    const turned = join(folder, 'turned-film.mp4');
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', film, '-c', 'copy', '-metadata:s:v', 'rotate=180', turned]);
    const facts = await probe(turned);
    const to = join(folder, 'turned-copy.mp4');
    const [first] = await files();
    const both = [first as SoundFile, { path: turned, facts, start: LENGTH + 2, end: 2 * LENGTH + 2 }];
    const across = programmeOf([piece(1, 10), piece(LENGTH + 3, LENGTH + 12)]);
    await renderTo(both, across, to, { title: '', crossfade: 0.01, choices: { copies: true } });
    expect(framesOf(to)).toHaveLength(Math.round(across.length / FRAME));
  });
});

describe('cuts that are hidden', () => {
  it('come closer at every other cut, exactly there', async () => {
    const path = join(folder, 'framed.mp4');
    const picture = 'color=white:s=320x180:r=25:d=20,drawbox=x=16:y=9:w=288:h=162:c=black:t=fill';
    const sources = ['-f', 'lavfi', '-i', picture, '-f', 'lavfi', '-i', 'sine=r=48000:d=20'];
    execFileSync('ffmpeg', ['-v', 'error', '-y', ...sources, '-pix_fmt', 'yuv420p', '-c:v', 'libx264', '-c:a', 'aac', path]);
    const facts = await probe(path);
    const programme = programmeOf([piece(0, 2), piece(4, 6), piece(8, 10), piece(12, 14)]);
    const to = join(folder, 'closer.mp4');
    const files = [{ path, facts, start: 0, end: 20 }];
    await renderTo(files, programme, to, { title: '', crossfade: 0.01, looks: { seamLook: 'closer', closerBy: 20 } });
    const corners = framesOf(to, 'crop=8:4:0:0,');
    expect(corners).toHaveLength(200);
    for (const [k, brightness] of corners.entries()) expect([k, brightness > 128]).toEqual([k, Math.floor(k / 50) % 2 === 0]);
  });

  it('go over into each other, frame by frame, also across much that was taken out', async () => {
    const path = join(folder, 'greys.mp4');
    // Grey that tells the second of the recording: 3 levels more in each.
    const picture = `color=black:s=64x36:r=25:d=60,geq=lum='20+3*floor(T)':cb=128:cr=128`;
    const sources = ['-f', 'lavfi', '-i', picture, '-f', 'lavfi', '-i', 'sine=r=48000:d=60'];
    const coded = ['-pix_fmt', 'yuv420p', '-c:v', 'libx264', '-qp', '0', '-c:a', 'aac', path];
    execFileSync('ffmpeg', ['-v', 'error', '-y', ...sources, ...coded]);
    const facts = await probe(path);
    const to = join(folder, 'over.mp4');
    const looks = { seamLook: 'dissolve' as const, dissolveFor: 0.4 };
    const programme = programmeOf([piece(0, 2), piece(22, 24), piece(50, 52)]);
    await renderTo([{ path, facts, start: 0, end: 60 }], programme, to, { title: '', crossfade: 0.01, looks });
    const greys = framesOf(to);
    expect(greys).toHaveLength(150);
    const grey = (frame: number) => 20 + 3 * Math.floor(frame / 25);
    const [early, middle, late] = [grey, (k: number) => grey(500 + k), (k: number) => grey(1150 + k)];
    for (const [k, seen] of greys.entries()) {
      const over = [
        { at: 50, goes: early, comes: middle },
        { at: 100, goes: middle, comes: late },
      ].find(({ at }) => k >= at - 5 && k < at + 5);
      const share = over ? (k - over.at + 5.5) / 10 : 0;
      const shown = (k < 50 ? early : k < 100 ? middle : late)(k);
      const wanted = over ? over.goes(k) * (1 - share) + over.comes(k) * share : shown;
      expect([k, Math.abs(seen - wanted) < 6, seen, wanted]).toEqual([k, true, seen, wanted]);
    }
  });

  it('go over into each other across files, and back in one file', async () => {
    const [first, second] = ['first', 'second'].map((name, k) => {
      const path = join(folder, `${name}-grey.mp4`);
      // One grows brighter by the second, the other darker, and is of another size.
      const picture = `color=black:s=${k === 0 ? '64x36' : '96x54'}:r=25:d=12,geq=lum='${k === 0 ? '40+3*floor(T)' : '220-3*floor(T)'}':cb=128:cr=128`;
      const sources = ['-f', 'lavfi', '-i', picture, '-f', 'lavfi', '-i', 'sine=r=48000:d=12'];
      execFileSync('ffmpeg', [
        '-v',
        'error',
        '-y',
        ...sources,
        '-pix_fmt',
        'yuv420p',
        '-c:v',
        'libx264',
        '-qp',
        '0',
        '-c:a',
        'aac',
        path,
      ]);
      return path;
    }) as [string, string];
    const facts = [await probe(first), await probe(second)] as const;
    const files = [
      { path: first, facts: facts[0], start: 0, end: 12 },
      { path: second, facts: facts[1], start: 20, end: 32 },
    ];
    const to = join(folder, 'across.mp4');
    const programme = programmeOf([piece(6, 9), piece(25, 28), piece(1, 3)]);
    const looks = { seamLook: 'dissolve' as const, dissolveFor: 0.4 };
    await renderTo(files, programme, to, { title: '', crossfade: 0.01, looks });
    const greys = framesOf(to);
    expect(greys).toHaveLength(200);
    const bright = (from: number) => (k: number) => 40 + 3 * Math.floor((from + k) / 25);
    const dark = (k: number) => 220 - 3 * Math.floor((125 + k - 75) / 25);
    const seams = [
      { at: 75, goes: bright(150), comes: dark },
      { at: 150, goes: dark, comes: bright(25 - 150) },
    ];
    for (const [k, seen] of greys.entries()) {
      const over = seams.find(({ at }) => k >= at - 5 && k < at + 5);
      const share = over ? (k - over.at + 5.5) / 10 : 0;
      const shown = (k < 75 ? bright(150) : k < 150 ? dark : bright(25 - 150))(k);
      const wanted = over ? over.goes(k) * (1 - share) + over.comes(k) * share : shown;
      expect([k, Math.abs(seen - wanted) < 12, seen, wanted]).toEqual([k, true, seen, wanted]);
    }
  });
});

describe('a render that was stopped', () => {
  const film = join(folder, 'filmed.mp4');
  const apart = programmeOf([50, 40, 30, 20, 10, 0].map((start) => piece(start, start + 5)));

  it('goes on with the segments that were finished, and starts anew where something else is wanted', async () => {
    const to = join(folder, 'resumed.mp4');
    const facts = await probe(film);
    const files = [{ path: film, facts, start: 0, end: LENGTH }];
    const stop = new AbortController();
    const rendering = renderTo(files, apart, to, {
      title: '',
      crossfade: 0.01,
      signal: stop.signal,
      onProgress: (share) => share > 0.4 && stop.abort(),
    });
    await expect(rendering).rejects.toThrow();
    const work = join(folder, 'work');
    const finished = () => readdirSync(work).filter((name) => /^picture-\d+\.mp4$/.test(name));
    const kept = finished().map((name) => [name, statSync(join(work, name)).mtimeMs]);
    expect(kept.length).toBeGreaterThanOrEqual(1);
    let seen: unknown[] = [];
    await renderTo(files, apart, to, {
      title: '',
      crossfade: 0.01,
      onProgress: (share) => {
        if (share < 0.93) seen = kept.map(([name]) => [name, statSync(join(work, name as string)).mtimeMs]);
      },
    });
    expect(seen).toEqual(kept);
    expect(framesOf(to).length).toBe(Math.round(apart.length / FRAME));
    const again = renderTo(files, apart, to, { title: '', crossfade: 0.01, choices: { quality: 'small' } });
    await again;
    expect(existsSync(work)).toBe(false);
  });

  it('does not measure again how loud it is, unless another sound is wanted', async () => {
    const [to, once] = [join(folder, 'resumed.flac'), join(folder, 'at-once.flac')];
    const facts = await probe(rising);
    const files = [{ path: rising, facts, start: 0, end: LENGTH }];
    const stop = new AbortController();
    const wanted = { title: '', crossfade: 0.01, choices: { loudness: -20 } };
    const stopped = renderTo(files, apart, to, {
      ...wanted,
      signal: stop.signal,
      onProgress: (share) => share > 0.5 && stop.abort(),
    });
    await expect(stopped).rejects.toThrow();
    const kept = join(folder, 'work', 'levelled');
    const begun = () => statSync(kept).mtimeMs;
    const before = begun();
    const seen = new Set<number>();
    const note = () => void seen.add(begun());
    const goesOn = await renderTo(files, apart, to, { ...wanted, onProgress: note });
    expect([...seen]).toEqual([before]);
    const atOnce = await renderTo(files, apart, once, wanted);
    expect(goesOn).toEqual(atOnce);
    expect(Buffer.compare(readFileSync(to), readFileSync(once))).toBe(0);
    // What was measured for another loudness is no use.
    mkdirSync(join(folder, 'work'), { recursive: true });
    writeFileSync(kept, JSON.stringify({ of: 'something else', filters: ['volume=0dB'] }));
    expect(await renderTo(files, apart, to, wanted)).toEqual(atOnce);
  });
});

describe('a plain picture for sound alone', () => {
  it('is as long as the sound, in the shape that was asked for, whatever the title', async () => {
    const to = join(folder, 'plain.mp4');
    const facts = await probe(rising);
    const title = `%{pts} 'lamp'; [fog]: ${'long '.repeat(20)}`;
    const programme = programmeOf([piece(3, 6), piece(20, 24)]);
    const files = [{ path: rising, facts, start: 0, end: LENGTH }];
    await renderTo(files, programme, to, { title, crossfade: 0.01, choices: { size: 'upright', captions: 'burnt in' } });
    const { streams, format } = probed(to, 'stream=codec_name,width,height:format=duration:format_tags=title');
    expect([streams[0].codec_name, streams[0].width, streams[0].height]).toEqual(['h264', 1080, 1920]);
    expect(Number(format.duration)).toBeCloseTo(programme.length, 1);
    expect(framesOf(to)).toHaveLength(7 * 25);
    expect(format.tags.title).toBe(title);
  });

  it('has a title in the letters that it is written in', async () => {
    const facts = await probe(rising);
    const pictures = ['Ж', 'Щ', 'Ψ', 'ệ'].map(async (title, k) => {
      const to = join(folder, `letter-${k}.mp4`);
      const files = [{ path: rising, facts, start: 0, end: LENGTH }];
      const work = join(folder, `letter-${k}`);
      await renderTo(files, programmeOf([piece(3, 3.2)]), to, { title, crossfade: 0.01, work });
      const top = ['-vf', 'crop=iw:ih/4:0:0', '-frames:v', '1', '-f', 'rawvideo', '-pix_fmt', 'gray', '-'];
      const seen = execFileSync('ffmpeg', ['-v', 'error', '-i', to, ...top], { maxBuffer: 1e7 });
      expect([title, seen.some((one) => one > 150)]).toEqual([title, true]);
      return seen.toString('base64');
    });
    // Letters that the font lacks would all be the same box.
    expect(new Set(await Promise.all(pictures)).size).toBe(4);
  });
});

describe('masked words', () => {
  it.each(['tone', 'silence'] as const)('are not heard, and all else is as it was: %s', async (by) => {
    const to = join(folder, `masked-${by}.wav`);
    const facts = await probe(rising);
    const files = [{ path: rising, facts, start: 0, end: LENGTH }];
    const programme = programmeOf([piece(2, 6)]);
    await renderTo(files, programme, to, { title: '', crossfade: 0, masked: { ranges: [{ start: 3, end: 3.5 }], by } });
    const rendered = samplesOf(to);
    const source = samplesOf(rising);
    const at = (seconds: number) => 2 * Math.round(seconds * SOUND_RATE);
    for (const second of [0.5, 0.99, 1.51, 3]) expect(rendered[at(second)]).toBe(source[at(second + 2)]);
    const within = rendered.slice(at(1.02), at(1.48));
    const loudest = Math.max(...within.filter((_, k) => k % 2 === 0).map(Math.abs));
    expect(loudest).toBeLessThan(by === 'tone' ? 3300 : 1);
    expect(loudest).toBeGreaterThanOrEqual(by === 'tone' ? 3200 : 0);
  });
});

describe('tracks kept apart', () => {
  it('are tracks of the file, each with its own sound at the same places, where the format holds several', async () => {
    const both = join(folder, 'both.mka');
    const tones = ['-f', 'lavfi', '-i', 'sine=f=300:r=48000:d=8', '-f', 'lavfi', '-i', 'sine=f=1500:r=48000:d=8'];
    execFileSync('ffmpeg', ['-v', 'error', '-y', ...tones, '-map', '0', '-map', '1', '-c:a', 'flac', both]);
    const one = join(folder, 'one.wav');
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'sine=f=300:r=48000:d=4', one]);
    const files = [
      { path: both, facts: await probe(both), start: 0, end: 8 },
      { path: one, facts: await probe(one), start: 9, end: 13 },
    ];
    const programme = programmeOf([piece(1, 3), piece(4, 6), piece(10, 12)]);
    const to = join(folder, 'apart.m4a');
    const shares: number[] = [];
    const asked = { title: '', crossfade: 0.01, onProgress: (share: number) => void shares.push(share) };
    await renderTo(files, programme, to, { ...asked, choices: { tracks: 'apart', loudness: -20 } });
    expect([...shares].sort((a, b) => a - b)).toEqual(shares);
    expect(shares.at(-1)).toBeCloseTo(1, 5);
    const { audio } = await probe(to);
    expect(audio.map(({ codec }) => codec)).toEqual(['aac', 'aac']);
    const crossings = (track: number, from: number, until: number) => {
      const cut = `atrim=${from}:${until}`;
      const bytes = execFileSync('ffmpeg', [
        '-v',
        'error',
        '-i',
        to,
        '-map',
        `0:a:${track}`,
        '-af',
        cut,
        '-ac',
        '1',
        '-f',
        's16le',
        '-',
      ]);
      const samples = new Int16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2);
      let count = 0;
      for (let k = 1; k < samples.length; k++) if ((samples[k - 1] as number) < 0 && (samples[k] as number) >= 0) count++;
      return { hertz: count / (until - from), loudest: samples.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0) };
    };
    expect(crossings(0, 0.2, 3.8).hertz).toBeCloseTo(300, -1);
    expect(crossings(1, 0.2, 3.8).hertz).toBeCloseTo(1500, -1.5);
    // The second file has one track: of the other nothing is heard there.
    expect(crossings(0, 4.2, 5.8).hertz).toBeCloseTo(300, -1);
    expect(crossings(1, 4.2, 5.8).loudest).toBeLessThan(20);
    await renderTo(files, programme, join(folder, 'mixed.mp3'), { title: '', crossfade: 0, choices: { tracks: 'apart' } });
    expect((await probe(join(folder, 'mixed.mp3'))).audio).toHaveLength(1);
  });
});

describe('loudness', () => {
  it.each([-14, -16, -23])('comes to %d LUFS within half a unit, and no peak is clipped', async (target) => {
    const bursts = made('bursts.wav', '(0.05+0.5*lt(mod(t,5),0.02))*sin(2*PI*220*t)*(0.3+0.7*gt(sin(2*PI*0.7*t),0))');
    const to = join(folder, 'loud.flac');
    const facts = await probe(bursts);
    const { before, after } = await renderTo(
      [{ path: bursts, facts, start: 0, end: LENGTH }],
      programmeOf([piece(0, LENGTH)]),
      to,
      {
        title: '',
        crossfade: 0,
        choices: { loudness: target },
      },
    );
    expect(before?.integrated).toBeLessThan(-24);
    expect(Math.abs((after?.integrated ?? 0) - target)).toBeLessThan(0.5);
    expect(after?.truePeak).toBeLessThan(-1);
    const { stderr } = await execa('ffmpeg', [
      '-hide_banner',
      '-nostats',
      '-i',
      to,
      '-af',
      'ebur128=framelog=verbose',
      '-f',
      'null',
      '-',
    ]);
    expect(Number(/I:\s+(-[\d.]+) LUFS/.exec(stderr)?.[1])).toBeCloseTo(after?.integrated ?? 0, 0);
  });
});

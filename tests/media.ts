import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

export const folderFor = (name: string): string => mkdtempSync(join(tmpdir(), `zetemis-${name}-`));

const ffmpeg = (...options: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...options]);

/** Talk made of bursts of a buzzing tone over soft noise: `bursts` are seconds of sound and of silence in turn. */
export function makeTalk(path: string, bursts: readonly number[], ...encoding: string[]): string {
  const length = bursts.reduce((sum, part) => sum + part, 0);
  const gates: string[] = [];
  let at = 0;
  for (const [k, part] of bursts.entries()) {
    if (k % 2 === 0) gates.push(`between(t,${at},${at + part})`);
    at += part;
  }
  const voice = `(${gates.join('+')})*0.3*sin(2*PI*140*t*(1+0.02*sin(9*t)))*(0.6+0.4*sin(2*PI*1100*t))`;
  ffmpeg(
    ...['-f', 'lavfi', '-i', `aevalsrc='${voice}+0.0015*(random(0)-0.5)':s=44100:d=${length}`],
    ...(encoding.length > 0 ? encoding : ['-c:a', 'pcm_s16le']),
    path,
  );
  return path;
}

/** Talk with a moving picture of its own. */
export function makeVideo(path: string, seconds: number, ...options: string[]): string {
  const sound = makeTalk(`${path}.wav`, [1.5, 1, seconds - 2.5]);
  ffmpeg(
    '-f',
    'lavfi',
    '-i',
    `testsrc=size=320x180:rate=30000/1001:d=${seconds}`,
    '-i',
    sound,
    '-pix_fmt',
    'yuv420p',
    ...options,
    path,
  );
  return path;
}

/** Files that are no recordings, and what each must be told. */
export function makeWrongFiles(folder: string): { path: string; says: RegExp }[] {
  const at = (name: string) => join(folder, name);
  writeFileSync(at('letter.mp4'), 'Dear keeper, this is a letter and not a film.\n'.repeat(50));
  writeFileSync(at('empty.wav'), '');
  makeVideo(at('whole.mp4'), 6, '-c:v', 'libx264', '-c:a', 'aac');
  writeFileSync(at('no-end.mp4'), readFileSync(at('whole.mp4')).subarray(0, 30_000));
  makeVideo(at('half.mp4'), 6, '-c:v', 'libx264', '-c:a', 'aac', '-movflags', '+faststart');
  truncateSync(at('half.mp4'), Math.round(readFileSync(at('half.mp4')).length / 2));
  makeTalk(at('cut.wav'), [2, 1, 5]);
  truncateSync(at('cut.wav'), 200_000);
  ffmpeg('-f', 'lavfi', '-i', 'testsrc=size=320x180:rate=25:d=2', '-pix_fmt', 'yuv420p', at('mute.mp4'));
  makeTalk(at('secret.wav'), [2, 1, 2]);
  writeFileSync(at('list.m3u8'), `#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\nfile://${at('secret.wav')}\n#EXT-X-ENDLIST\n`);
  writeFileSync(at('concat.mp4'), `ffconcat version 1.0\nfile '${at('secret.wav')}'\n`);
  return [
    { path: at('letter.mp4'), says: /no audio or video file/ },
    { path: at('empty.wav'), says: /is empty/ },
    { path: at('no-end.mp4'), says: /cut short/ },
    { path: at('half.mp4'), says: /cut short/ },
    { path: at('cut.wav'), says: /cut short/ },
    { path: at('mute.mp4'), says: /no sound/ },
    { path: at('list.m3u8'), says: /no audio or video file/ },
    { path: at('concat.mp4'), says: /no audio or video file/ },
  ];
}

/** A room with a click each second, and bursts of noise of which no two are alike: what several microphones can hear at once. */
export function makeRoom(path: string, seconds: number): string {
  const burst = '0.2*(random(0)-0.5)*gt(sin(7*t)+sin(2.3*t*t/40),0.4)';
  const room = `if(lt(mod(t,1),0.002),0.9,0)+${burst}`;
  ffmpeg('-f', 'lavfi', '-i', `aevalsrc='${room}':s=48000:d=${seconds}`, '-c:a', 'pcm_s16le', path);
  return path;
}

/** A part of a recording, as another microphone has it that was on from a moment on. */
export function hearPart(of: string, from: number, seconds: number, path: string): string {
  ffmpeg('-ss', String(from), '-t', String(seconds), '-i', of, '-af', 'volume=0.4', '-ar', '44100', '-c:a', 'pcm_s24le', path);
  return path;
}

/** A line of a recording that was made, and where it stands. */
export interface Line {
  readonly text: string;
  readonly start: number;
  readonly end: number;
}

/** A recording of lines said one after another by a voice of ffmpeg's own, a second and a bit of soft noise between. */
export function recordLines(
  path: string,
  lines: readonly { readonly text: string; readonly tempo?: number; readonly voice?: string }[],
): { readonly path: string; readonly lines: Line[] } {
  const spoken = lines.map(({ text, tempo = 1, voice = 'slt' }, k) => {
    const [wav, said] = [`${path}-${k}.wav`, `${path}-${k}.txt`];
    writeFileSync(said, text);
    const filter = `atempo=${tempo},aresample=16000,apad=pad_dur=1.2`;
    ffmpeg('-f', 'lavfi', '-i', `flite=textfile=${said}:voice=${voice}`, '-af', filter, '-ac', '1', wav);
    const asked = ['-v', 'error', '-show_entries', 'format=duration', '-of', 'csv=p=0', wav];
    return { wav, text, seconds: Number(execFileSync('ffprobe', asked, { encoding: 'utf8' })) };
  });
  const inputs = spoken.flatMap(({ wav }) => ['-i', wav]);
  const joined = `${spoken.map((_, k) => `[${k}]`).join('')}concat=n=${spoken.length}:v=0:a=1[voice]`;
  const room = `anoisesrc=a=0.0012:c=brown:r=16000:seed=7[room];[voice][room]amix=inputs=2:duration=first:normalize=0`;
  ffmpeg(...inputs, '-filter_complex', `${joined};${room}`, path);
  let at = 0;
  const placed = spoken.map(({ text, seconds }): Line => {
    const line = { text, start: at, end: at + seconds - 1.2 };
    at += seconds;
    return line;
  });
  return { path, lines: placed };
}

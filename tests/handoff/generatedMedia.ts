import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import type { Counting } from './timecodeByCounting.ts';

/** A recording to be made, and what is known of it beforehand. */
export interface Made {
  readonly name: string;
  /** `num/den`; none for sound alone */
  readonly rate?: string;
  /** options that make the picture's frames come otherwise than at even steps, or its length another */
  readonly picture?: string;
  readonly pictureSeconds?: number;
  readonly soundSeconds?: number;
  /** channels of each audio stream */
  readonly streams?: readonly number[];
  readonly sampleRate?: number;
  readonly options?: readonly string[];
  /** what the timeline must count at; as the rate where it is left out */
  readonly counted?: string;
  readonly drop?: boolean;
  /** label of the first frame */
  readonly start?: string;
}

const H264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '12', '-pix_fmt', 'yuv420p'];
const MOV = [...H264, '-c:a', 'pcm_s16le'];
const tc = (label: string) => ['-timecode', label];

export const MADE: readonly Made[] = [
  { name: 'film.mov', rate: '24000/1001', options: [...MOV, ...tc('00:59:58:00')], start: '00:59:58:00' },
  { name: 'whole.mov', rate: '24/1', options: MOV },
  { name: 'bench.mp4', rate: '25/1', options: [...H264, '-c:a', 'aac', ...tc('10:00:00:00')], start: '10:00:00:00' },
  { name: 'drop.mov', rate: '30000/1001', drop: true, options: [...MOV, ...tc('01:00:58;00')], start: '01:00:58;00' },
  { name: 'straight.mov', rate: '30000/1001', options: [...MOV, ...tc('01:00:58:00')], start: '01:00:58:00' },
  { name: 'thirty.mkv', rate: '30/1', options: [...H264, '-c:a', 'flac'] },
  { name: 'fifty.mp4', rate: '50/1', options: [...H264, '-c:a', 'aac'] },
  { name: 'sixty-drop.mov', rate: '60000/1001', drop: true, options: [...MOV, ...tc('01:09:58;00')], start: '01:09:58;00' },
  { name: 'sixty.mov', rate: '60000/1001', options: [...MOV, ...tc('09:00:00:00')], start: '09:00:00:00' },
  { name: 'full-sixty.mkv', rate: '60/1', options: [...H264, '-c:a', 'flac'] },
  { name: 'midnight.mov', rate: '25/1', options: [...MOV, ...tc('23:59:56:00')], start: '23:59:56:00' },
  { name: 'midnight-drop.mov', rate: '30000/1001', drop: true, options: [...MOV, ...tc('23:59:56;00')], start: '23:59:56;00' },
  { name: 'two.mov', rate: '25/1', streams: [1, 1], options: MOV },
  { name: 'four.mov', rate: '25/1', streams: [1, 1, 1, 1], options: MOV },
  { name: 'six.mov', rate: '25/1', streams: [1, 1, 1, 1, 1, 1], options: MOV },
  { name: 'stereo.mov', rate: '25/1', streams: [2], options: MOV },
  { name: 'pair-and-voice.mov', rate: '30000/1001', streams: [2, 1], options: MOV },
  { name: 'sound-longer.mp4', rate: '25/1', pictureSeconds: 7.6, options: [...H264, '-c:a', 'aac'] },
  { name: 'sound-longer.mov', rate: '30000/1001', pictureSeconds: 8, options: MOV },
  { name: 'picture-longer.mkv', rate: '25/1', pictureSeconds: 18, options: [...H264, '-c:a', 'flac'] },
  {
    name: 'broadcast.mxf',
    rate: '25/1',
    options: ['-c:v', 'mpeg2video', '-q:v', '4', '-c:a', 'pcm_s16le', '-ar', '48000', ...tc('10:11:12:13')],
    start: '10:11:12:13',
  },
  {
    name: 'broadcast-drop.mxf',
    rate: '30000/1001',
    drop: true,
    options: ['-c:v', 'mpeg2video', '-q:v', '4', '-c:a', 'pcm_s16le', '-ar', '48000', ...tc('00:59:59;00')],
    start: '00:59:59;00',
  },
  {
    name: 'capital.mkv',
    rate: '25/1',
    options: [...H264, '-c:a', 'flac', '-metadata', 'TIMECODE=03:00:00:00'],
    start: '03:00:00:00',
  },
  { name: 'film.mkv', rate: '24000/1001', options: [...H264, '-c:a', 'libvorbis'] },
  {
    name: 'uneven.mkv',
    rate: '30/1',
    picture: 'select=not(mod(n\\,3)*mod(n\\,5))',
    counted: '24000/1001',
    options: [...H264, '-fps_mode', 'vfr', '-c:a', 'flac'],
  },
  {
    name: 'uneven.mp4',
    rate: '30/1',
    picture: 'select=lt(mod(n\\,9)\\,7)',
    counted: '24000/1001',
    options: [...H264, '-fps_mode', 'vfr', '-c:a', 'aac'],
  },
  { name: 'slow.mp4', rate: '25/2', counted: '24000/1001', options: [...H264, '-c:a', 'aac'] },
  { name: 'fifteen.mp4', rate: '15/1', options: [...H264, '-c:a', 'aac'] },
  {
    name: 'take.wav',
    sampleRate: 48_000,
    options: ['-c:a', 'pcm_s16le', '-write_bext', '1', '-metadata', 'time_reference=172800000'],
    counted: '25/1',
    start: '01:00:00:00',
  },
  {
    name: 'take-44.wav',
    sampleRate: 44_100,
    options: ['-c:a', 'pcm_s16le', '-write_bext', '1', '-metadata', 'time_reference=158760000'],
    counted: '25/1',
    start: '01:00:00:00',
  },
  { name: 'plain.wav', counted: '25/1' },
  { name: 'talk.flac', counted: '25/1' },
  { name: 'talk.m4a', options: ['-c:a', 'aac'], counted: '25/1' },
  { name: 'talk.mp3', options: ['-c:a', 'libmp3lame', '-b:a', '128k'], counted: '25/1' },
  { name: 'surround.wav', streams: [6], counted: '25/1' },
  { name: 'late.mkv', rate: '25/1', options: [...H264, '-c:a', 'flac', '-output_ts_offset', '7'] },
];

/** A word is a tone of its own for as long as it is said. */
export interface Tone {
  readonly text: string;
  readonly start: number;
  readonly end: number;
  readonly hertz: number;
}

/** Seconds of silence before each word: short ones stay, long ones go. */
const BEFORE = [0.7, 0.25, 1.9, 0.3, 2.3, 0.2, 1.4, 0.26];
const SAID = 0.37;

export const TONES: readonly Tone[] = BEFORE.reduce<Tone[]>((tones, gap, k) => {
  // Times that are on no frame of any rate.
  const start = Math.round(((tones.at(-1)?.end ?? 0) + gap + 0.0037) * 1e4) / 1e4;
  return [...tones, { text: `word${k}`, start, end: Math.round((start + SAID) * 1e4) / 1e4, hertz: 500 + 210 * k }];
}, []);

const SOUND_SECONDS = Math.ceil((TONES.at(-1) as Tone).end + 1);

/** Makes one, with its tones on every channel. */
export function make(folder: string, made: Made): string {
  const {
    name,
    rate,
    picture,
    pictureSeconds = SOUND_SECONDS,
    soundSeconds = SOUND_SECONDS,
    streams = [1],
    sampleRate = 48_000,
    options = [],
  } = made;
  const path = join(folder, name);
  const voice = TONES.map(({ start, end, hertz }) => `between(t,${start},${end})*0.4*sin(2*PI*${hertz}*t)`).join('+');
  const sound = `aevalsrc='${voice}+0.0008*(random(0)-0.5)':s=${sampleRate}:d=${soundSeconds}`;
  const layouts: Readonly<Record<number, string>> = { 1: 'mono', 2: 'stereo', 6: '5.1' };
  const split = streams.map((channels, k) => {
    const all = Array.from({ length: channels }, (_, channel) => `c${channel}=c0`).join('|');
    return `[in${k}]pan=${layouts[channels]}|${all}[out${k}]`;
  });
  const graph = `${sound},asplit=${streams.length}${streams.map((_, k) => `[in${k}]`).join('')};${split.join(';')}`;
  execFileSync('ffmpeg', [
    ...['-v', 'error', '-y'],
    ...(rate ? ['-f', 'lavfi', '-i', `testsrc2=size=160x90:rate=${rate}:d=${pictureSeconds}`] : []),
    ...['-filter_complex', graph],
    ...(rate ? ['-map', '0:v'] : []),
    ...streams.flatMap((_, k) => ['-map', `[out${k}]`]),
    ...(picture ? ['-vf', picture] : []),
    ...options,
    path,
  ]);
  return path;
}

export const countingOf = (rate: string, drop: boolean): Counting => {
  const [num = 25, den = 1] = rate.split('/').map(Number);
  return { base: Math.round(num / den), drop };
};

import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Cleaner } from '@/core/clean/cleaner.ts';
import { USUAL_CLEANING } from '@/core/clean/cleaning.ts';
import { NoiseMeter } from '@/core/clean/noiseProfile.ts';
import { SOUND_RATE } from '@/core/contract/sound.ts';
import { handoffMedia } from '@/core/outputs/plan/media.ts';
import { programmeOf } from '@/core/programme/programme.ts';
import { type RenderChoices, type RenderFormatId, renderChoices } from '@/core/render/choices.ts';
import { picturePlan } from '@/core/render/picturePlan.ts';
import { parseRate } from '@/core/time/rate.ts';
import { probe } from '@/server/media/probe.ts';
import { local } from '@/server/media/recognise/local.ts';
import { ENCODERS } from '@/server/media/render/encoders.ts';
import { renderFile } from '@/server/media/render/renderFile.ts';
import type { Line } from './line.ts';

const ffmpeg = (...options: readonly string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...options]);

const seconds = async (work: () => unknown): Promise<number> => {
  const start = performance.now();
  await work();
  return (performance.now() - start) / 1000;
};

/** Of two seconds, one and a half are kept. */
const KEPT = 1.5;
const cuts = (length: number) =>
  programmeOf(Array.from({ length: Math.floor(length / 2) }, (_, k) => ({ start: 2 * k, end: 2 * k + KEPT, rate: 1 })));
const CHOSEN = `lt(mod(t,2),${KEPT})`;

async function rendered(
  path: string,
  format: RenderFormatId,
  length: number,
  work: string,
  programme = cuts(length),
  more: Partial<RenderChoices> = {},
): Promise<number> {
  const facts = await probe(path);
  const files = [{ path, facts, start: 0, end: length }];
  const placed = [{ start: 0, end: length, media: handoffMedia('bench', facts, length) }];
  const plan = picturePlan(placed, programme, parseRate(facts.video?.rate ?? '25'));
  const choices = renderChoices.parse({ format, ...more });
  const rendering = {
    title: 'bench',
    files,
    programme,
    joins: { crossfade: 0.01 },
    choices,
    plan,
    captions: '',
    chapters: '',
    masked: undefined,
  };
  return seconds(() =>
    renderFile(rendering, join(work, `out.${format}`), join(work, 'work'), { signal: new AbortController().signal }),
  );
}

/** A minute in three pieces, of which only what lies beside the cuts is encoded: how many times as fast as ffmpeg alone. */
async function copying(film: string, work: string): Promise<number> {
  const often = join(work, 'often.mp4');
  ffmpeg('-i', film, '-c:v', 'libx264', '-preset', 'veryfast', '-g', '50', '-c:a', 'copy', often);
  const pieces = [
    { start: 0.4, end: 19, rate: 1 },
    { start: 20.3, end: 41, rate: 1 },
    { start: 42, end: 59.6, rate: 1 },
  ];
  const own = await encodedAlone(often, pieces.map(({ start, end }) => `between(t,${start},${end})`).join('+'), work);
  return own / (await rendered(often, 'mp4', 60, work, programmeOf(pieces), { copies: true }));
}

/** Seconds that ffmpeg alone takes for what is chosen of a film, by the same encoders. */
const encodedAlone = (film: string, chosen: string, work: string): Promise<number> =>
  seconds(() =>
    ffmpeg(
      ...['-i', film, '-vf', `select='${chosen}',setpts=N/25/TB`, '-af', `aselect='${chosen}',asetpts=N/SR/TB`],
      ...['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '21', ...ENCODERS.mp4.sound, join(work, 'own.mp4')],
    ),
  );

/** Rendering against ffmpeg's own decode and encode of the same minutes. */
export async function benchRender(work: string): Promise<Line[]> {
  const film = join(work, 'film.mp4');
  const sources = ['-f', 'lavfi', '-i', 'testsrc2=s=1280x720:r=25:d=60', '-f', 'lavfi', '-i', 'sine=f=330:r=48000:d=60'];
  ffmpeg(...sources, '-pix_fmt', 'yuv420p', '-c:v', 'libx264', '-preset', 'veryfast', '-c:a', 'aac', film);
  const own = await encodedAlone(film, CHOSEN, work);
  const video = (await rendered(film, 'mp4', 60, work)) / own;
  const copied = await copying(film, work);
  const talk = join(work, 'talk.flac');
  ffmpeg('-f', 'lavfi', '-i', 'anoisesrc=c=pink:r=48000:d=1800:a=0.1', '-ac', '2', talk);
  const sounds: Line[] = [];
  for (const format of ['m4a', 'mp3', 'flac'] as const) {
    const ownSound = await seconds(() =>
      ffmpeg('-i', talk, '-af', `aselect='${CHOSEN}',asetpts=N/SR/TB`, ...ENCODERS[format].sound, join(work, `own.${format}`)),
    );
    const sound = (await rendered(talk, format, 1800, work)) / ownSound;
    sounds.push({
      what: `sound as ${format}, half an hour with 900 cuts, against ffmpeg alone`,
      value: `${sound.toFixed(2)} times`,
      goal: 'at most 1.1',
      ok: sound <= 1.1,
    });
  }
  return [
    {
      what: 'video, a minute with 30 cuts, against ffmpeg alone',
      value: `${video.toFixed(2)} times`,
      goal: 'at most 1.1',
      ok: video <= 1.1,
    },
    {
      what: 'quick copy of a minute of 720 lines in three pieces, against ffmpeg alone',
      value: `${copied.toFixed(1)} times as fast`,
      goal: 'at least 5',
      ok: copied >= 5,
    },
    ...sounds,
  ];
}

const TALK =
  'The escapement is the heart of the clock, and every tick you hear is a tooth let go. I clean each pivot with peg wood, then a drop of oil, no more. When the train runs free I set the beat by ear.';
const NOISES = {
  white: 'anoisesrc=c=white:r=48000:d=20:seed=3:a=1',
  pink: 'anoisesrc=c=pink:r=48000:d=20:seed=3:a=1',
  hum: "aevalsrc='sin(2*PI*50*t)+0.5*sin(2*PI*100*t+1)+0.4*sin(2*PI*150*t+2)+0.2*sin(2*PI*250*t)':s=48000:d=20",
} as const;

const samplesFrom = (...input: readonly string[]): Float32Array => {
  const bytes = execFileSync(
    'ffmpeg',
    ['-v', 'error', '-f', 'lavfi', '-i', ...input, '-ac', '1', '-ar', String(SOUND_RATE), '-f', 'f32le', '-'],
    { maxBuffer: 1e9 },
  );
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
};

/** Signal to distortion in dB, whatever the gain (Le Roux et al. 2019). */
function distortion(clean: Float32Array, found: Float32Array): number {
  let [cross, power, rest] = [0, 0, 0];
  for (let k = 0; k < clean.length; k++) {
    cross += (clean[k] as number) * (found[k] as number);
    power += (clean[k] as number) ** 2;
  }
  for (let k = 0; k < clean.length; k++) rest += ((found[k] as number) - (cross / power) * (clean[k] as number)) ** 2;
  return 10 * Math.log10((cross * cross) / power / rest);
}

function cleaned(samples: Float32Array): Float32Array {
  const meter = new NoiseMeter(SOUND_RATE);
  meter.push(samples);
  const cleaner = new Cleaner({ ...USUAL_CLEANING, rumble: false }, meter.profile(), SOUND_RATE);
  const [first, last] = [cleaner.push(samples), cleaner.end()];
  const out = new Float32Array(samples.length);
  out.set(first.subarray(0, out.length));
  out.set(last.subarray(0, out.length - first.length), first.length);
  return out;
}

/** Words of what was said that are heard in their order, of those that there are. */
async function heardIn(samples: Float32Array, work: string): Promise<number> {
  const [raw, path] = [join(work, 'heard.f32'), join(work, 'heard.wav')];
  writeFileSync(raw, new Uint8Array(samples.buffer));
  ffmpeg('-f', 'f32le', '-ar', String(SOUND_RATE), '-ac', '1', '-i', raw, '-ar', '16000', path);
  const found = await local.recognise({ path, recording: 'bench', offset: 0 }, 'en-US', undefined);
  const plain = (text: string) => text.toLowerCase().replace(/[^a-z']/g, '');
  const heard = found.map(({ text }) => plain(text));
  // The longest common sequence.
  let before = heard.map(() => 0);
  for (const word of TALK.split(' ').map(plain)) {
    const row: number[] = [];
    for (const [k, one] of heard.entries())
      row.push(one === word ? (before[k - 1] ?? 0) + 1 : Math.max(before[k] ?? 0, row[k - 1] ?? 0));
    before = row;
  }
  return before.at(-1) ?? 0;
}

/** What cleaning gains on speech with noise of a known kind and level, and how many words are recognised then. */
export async function benchCleaning(work: string): Promise<Line[]> {
  const text = join(work, 'talk.txt');
  writeFileSync(text, TALK);
  const lines: Line[] = [];
  for (const [kind, source] of Object.entries(NOISES))
    for (const ratio of [20, 10]) {
      const gains: number[] = [];
      const words = { before: 0, after: 0 };
      for (const voice of ['slt', 'kal16', 'awb']) {
        const clean = samplesFrom(`flite=textfile=${text}:voice=${voice},aresample=48000,adelay=1500,apad=pad_dur=1.5`);
        const noise = samplesFrom(source);
        const power = (one: Float32Array) => one.reduce((sum, value) => sum + value * value, 0) / one.length;
        const level = Math.sqrt(power(clean) / power(noise) / 10 ** (ratio / 10));
        const noisy = clean.map((value, k) => value + level * (noise[k % noise.length] as number));
        const after = cleaned(noisy);
        gains.push(distortion(clean, after) - distortion(clean, noisy));
        words.before += await heardIn(noisy, work);
        words.after += await heardIn(after, work);
      }
      const gain = gains.reduce((sum, one) => sum + one, 0) / gains.length;
      lines.push({
        what: `cleaning, ${kind} noise ${ratio} dB under speech`,
        value: `${gain.toFixed(1)} dB gained`,
        goal: 'over 0',
        ok: gain > 0,
      });
      lines.push({
        what: `... words that are recognised of ${gains.length * TALK.split(' ').length}`,
        value: `${words.before} before, ${words.after} after`,
        goal: 'no fewer after',
        ok: words.after >= words.before,
      });
    }
  return lines;
}

import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Command } from 'commander';
import { execa } from 'execa';
import { VOICE_SAMPLE_RATE } from '@/core/curves/voiceFrames.ts';
import { fitLogistic, probabilityOf } from '@/core/detect/calibration/logistic.ts';
import { OVERLAP_EVIDENCE, overlapEvidence } from '@/core/speakers/overlap.ts';
import { TIMBRE_RATE } from '@/core/speakers/timbre.ts';
import { decoded, samplesOf } from '@/server/media/decoding.ts';
import { probe } from '@/server/media/probe.ts';
import { measureTimbre } from '@/server/media/voice.ts';
import { seeded } from '../../demo/script.ts';
import { type FitRecording, recordingsIn } from './examples.ts';

// By what it shows that two speak at once on one microphone: `npm run fit:overlap -- FOLDER…`, recordings with truth of one voice each,
// as `npm run recordings` makes them. Stretches of one are laid over the next at another level, so that who speaks when is known.

const RATE = VOICE_SAMPLE_RATE;
/** How much of each recording is used, and how it is mixed: seconds of a stretch, seconds between two, decibels beside the other. */
const LONGEST = 120;
const LASTS = [0.5, 3.5] as const;
const APART = [1, 6] as const;
const LOUDER = [-8, 8] as const;
const RIDGE = 2;
/** Of what is told, so much must be right in recordings that were not fitted to. */
const RIGHT = 0.85;
/** Frames are alike: of every so many one counts. */
const EVERY = 4;

interface Heard {
  readonly evidence: Readonly<Record<string, number>>;
  readonly right: boolean;
}

const program = new Command('overlap')
  .argument('<folders...>')
  .option('--keep <folder>', 'where recordings are mixed', 'var/fit/overlap')
  .option('--write', 'write the numbers into the project')
  .action(async (folders: string[], { keep, write }: { keep: string; write?: boolean }) => {
    await mkdir(keep, { recursive: true });
    const recordings = (await Promise.all(folders.map(recordingsIn))).flat();
    const mixed: Heard[][] = [];
    const alone: Heard[][] = [];
    const random = seeded(recordings.length);
    for (const [k, recording] of recordings.entries()) {
      const other = recordings[(k + 1 + Math.floor(random() * (recordings.length - 1))) % recordings.length] as FitRecording;
      mixed.push(await heardIn(recording, other, join(keep, 'mixed.wav'), k));
      alone.push(await heardIn(recording, undefined, join(keep, 'alone.wav'), k));
    }
    const told = mixed.map((heard, k) => {
      const model = fitLogistic([...mixed, ...alone].filter((_, n) => n % mixed.length !== k).flat(), OVERLAP_EVIDENCE, RIDGE);
      const tell = (one: Heard) => ({ ...one, told: probabilityOf(model, one.evidence) });
      return { mixed: heard.map(tell), alone: (alone[k] as Heard[]).map(tell) };
    });
    const both = told.flatMap(({ mixed }) => mixed).sort((a, b) => b.told - a.told);
    const single = told.flatMap(({ alone }) => alone);
    const all = both.filter((one) => one.right).length;
    let least = 1;
    for (const wanted of [0.7, RIGHT, 0.9]) {
      let [right, from, found] = [0, 1, 0];
      for (const [k, one] of both.entries()) {
        if (one.right) right++;
        if (right / (k + 1) >= wanted) [from, found] = [one.told, right];
      }
      if (wanted === RIGHT) least = from;
      const wrong = single.filter((one) => one.told >= from).length / Math.max(1, single.length);
      process.stdout.write(
        `${recordings.length} recordings, told from ${from} on: ${wanted} right where two may speak, ${(found / all).toFixed(3)} found; where one speaks ${wrong.toFixed(4)} told\n`,
      );
    }
    const model = fitLogistic([...mixed, ...alone].flat(), OVERLAP_EVIDENCE, RIDGE);
    if (write) await writeFile('src/core/speakers/fittedOverlap.ts', fittedText({ ...model, least }, recordings.length));
  });

/** What is heard of a recording with stretches of another laid over it, or of it alone, where anybody speaks. */
async function heardIn(recording: FitRecording, other: FitRecording | undefined, path: string, seed: number): Promise<Heard[]> {
  const random = seeded(seed);
  const between = ([low, high]: readonly [number, number]) => low + (high - low) * random();
  const mix = (await soundOf(recording)).slice(0, LONGEST * RATE);
  const [own, added] = [frames(mix.length), frames(mix.length)];
  for (const [start, end] of recording.truth.speech) fill(own, start, end);
  if (other) {
    const samples = await soundOf(other);
    const level = loudnessOf(mix, recording) / loudnessOf(samples, other);
    let at = between(APART);
    for (let k = 0; at < mix.length / RATE - LASTS[1]; k++) {
      const [start, end] = other.truth.speech[k % other.truth.speech.length] as readonly [number, number];
      const lasts = Math.min(end - start, between(LASTS));
      lay(mix, Math.round(at * RATE), samples.subarray(Math.round(start * RATE), Math.round((start + lasts) * RATE)), {
        gain: level * 10 ** (between(LOUDER) / 20),
      });
      fill(added, at, at + lasts);
      at += lasts + between(APART);
    }
  }
  await writeSamples(path, mix);
  const evidence = overlapEvidence(await measureTimbre(path, await probe(path)));
  const size = OVERLAP_EVIDENCE.length;
  const heard: Heard[] = [];
  for (let k = 0; k < own.length && (k + 1) * size <= evidence.length; k += EVERY)
    if (own[k] || added[k])
      heard.push({
        evidence: Object.fromEntries(OVERLAP_EVIDENCE.map((name, n) => [name, evidence[k * size + n] as number])),
        right: Boolean(own[k] && added[k]),
      });
  return heard;
}

const frames = (samples: number): Uint8Array => new Uint8Array(Math.floor((samples / RATE) * TIMBRE_RATE));
const fill = (who: Uint8Array, start: number, end: number) =>
  who.fill(1, Math.round(start * TIMBRE_RATE), Math.round(end * TIMBRE_RATE));

/** Adds samples, faded at both ends so that the joins tell nothing. */
function lay(mix: Float32Array, from: number, samples: Float32Array, { gain }: { readonly gain: number }): void {
  const fade = RATE / 100;
  for (const [k, sample] of samples.entries())
    if (from + k < mix.length)
      mix[from + k] = (mix[from + k] as number) + gain * sample * Math.min(1, k / fade, (samples.length - k) / fade);
}

function loudnessOf(samples: Float32Array, { truth }: FitRecording): number {
  let [sum, count] = [0, 0];
  for (const [start, end] of truth.speech)
    for (const sample of samples.subarray(Math.round(start * RATE), Math.round(end * RATE))) {
      sum += sample ** 2;
      count++;
    }
  return Math.sqrt(sum / Math.max(1, count)) || 1;
}

async function soundOf({ media }: FitRecording): Promise<Float32Array> {
  const { audio, duration } = await probe(media);
  const sound: number[] = [];
  for await (const part of samplesOf(decoded(media, audio[0] ?? { index: 0 }, duration, undefined)))
    for (const one of part) sound.push(one);
  return Float32Array.from(sound);
}

async function writeSamples(path: string, samples: Float32Array): Promise<void> {
  let peak = 1;
  for (const sample of samples) peak = Math.max(peak, Math.abs(sample));
  const input = Buffer.from(samples.map((sample) => sample / peak).buffer);
  // biome-ignore format: one option and its value a pair
  await execa('ffmpeg', ['-v', 'error', '-y', '-f', 'f32le', '-ar', String(RATE), '-ac', '1', '-i', '-', path], { input });
}

function fittedText(model: object, recordings: number): string {
  const text = JSON.stringify(model, (_, value: unknown) => (typeof value === 'number' ? Math.round(value * 1e4) / 1e4 : value));
  return `import type { LogisticModel } from '../detect/calibration/logistic.ts';

/** Written by \`npm run fit:overlap\` on ${new Date().toISOString().slice(0, 10)} from ${recordings} recordings; not to be changed by hand. */
// biome-ignore format: numbers that a script writes
export const FITTED_OVERLAP: LogisticModel & { readonly least: number } = ${text};
`;
}

await program.parseAsync();

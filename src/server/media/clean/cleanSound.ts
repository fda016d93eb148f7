import { mkdir, mkdtemp, rename, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { execa } from 'execa';
import { BREATH_STEP, type BreathSteps, BreathTrace, breathGains, breathsIn } from '@/core/clean/breaths.ts';
import { Cleaner } from '@/core/clean/cleaner.ts';
import { type Cleaning, SOFTER_BREATHS } from '@/core/clean/cleaning.ts';
import { GainRider } from '@/core/clean/gainRider.ts';
import { gainsOf, type LevelSteps, LevelTrace, LINE_STEP } from '@/core/clean/leveller.ts';
import type { Loudness } from '@/core/clean/loudness.ts';
import { NoiseMeter, type NoiseProfile } from '@/core/clean/noiseProfile.ts';
import type { CleaningReport, TrackReport } from '@/core/clean/report.ts';
import type { MediaFacts } from '@/core/contract/media.ts';
import { SOUND_RATE } from '@/core/contract/sound.ts';
import { beyondBounds, bounded, boundsForSound, boundsForSoundFile } from '../bounds.ts';
import { heardThrough } from '../channels.ts';
import { rawSound } from '../decoding.ts';
import { inputArguments, MediaError } from '../ffmpeg.ts';
import { MEASURING, readLoudness } from '../render/loudness.ts';
import type { Running } from '../render/renderSound.ts';
import { SampleSink } from '../sampleSink.ts';
import { mixOf } from '../sound.ts';

/** Tracks keep what they have of left and right. */
const channelsOf = ({ channels }: MediaFacts['audio'][number]): number => Math.min(2, channels);

/** No track is made louder or softer than this to be as loud as the others, in dB. */
const MOST_GAIN = 12;
/** ... nor so loud that its peaks pass this. */
const HIGHEST_PEAK = -1;

/**
 * Writes the sound of a file cleaned: all its tracks, sample for sample at the place where they were, as FLAC in Matroska. The file is
 * there when it is whole.
 * @param target of the file; what was found is written beside it
 * @throws MediaError when the sound cannot be decoded
 */
export async function cleanSound(
  path: string,
  facts: MediaFacts,
  choices: Cleaning,
  target: string,
  { signal, onProgress }: Running,
): Promise<CleaningReport> {
  await mkdir(dirname(target), { recursive: true });
  // Two may clean the same at the same time: each does so by itself, and the last one is kept.
  const work = await mkdtemp(`${target}.part-`);
  try {
    const tracks: TrackReport[] = [];
    const steps = 2 * facts.audio.length;
    const told = (step: number) => (share: number) => onProgress?.(Math.min(1, (step + share) / steps));
    for (const [k, track] of facts.audio.entries()) {
      const reader = { path, track, seconds: facts.duration, signal };
      const profiles = await profilesOf(reader, choices, told(2 * k));
      const { loudness, bands, breaths } = await cleanTrack(reader, profiles, choices, join(work, `${k}.flac`), told(2 * k + 1));
      const [first] = profiles as [ChannelProfile];
      const { noise, speech, hum } = first;
      tracks.push({
        noise,
        speech,
        hum: [...hum],
        gain: 0,
        ...(choices.breaths !== 'off' && { breaths }),
        after: loudness,
        bands: { before: kept(first.bands), after: kept(bands) },
      });
    }
    const evened = choices.evened ? withGains(tracks) : tracks;
    const joined = join(work, 'all.mka');
    await joinTracks(evened, work, joined, facts.duration, signal);
    const after = await loudnessOfMix(joined, cleanedFacts(facts), signal);
    const before = await loudnessOfMix(path, facts, signal);
    const report = { tracks: evened, before: before ?? null, after: after ?? null };
    await writeFile(`${target}.json`, JSON.stringify(report), { flush: true });
    await rename(joined, target);
    return report;
  } finally {
    await rm(work, { recursive: true, force: true });
  }
}

interface TrackReader {
  readonly path: string;
  readonly track: MediaFacts['audio'][number];
  readonly seconds: number;
  readonly signal: AbortSignal;
}

/** Samples of a track by channels, block by block. */
async function* channelBlocks({ path, track, seconds, signal }: TrackReader): AsyncGenerator<Float32Array[]> {
  const channels = channelsOf(track);
  const format = ['-map', `0:${track.index}`, '-af', heardThrough(track, SOUND_RATE), '-ac', String(channels), '-f', 'f32le'];
  let rest: Buffer = Buffer.alloc(0);
  for await (const chunk of rawSound(path, format, seconds, signal)) {
    const bytes = Buffer.concat([rest, chunk]);
    const count = Math.floor(bytes.length / 4 / channels);
    rest = bytes.subarray(4 * channels * count);
    const samples = new Float32Array(channels * count);
    Buffer.from(samples.buffer).set(bytes.subarray(0, 4 * channels * count));
    yield Array.from({ length: channels }, (_, c) =>
      Float32Array.from({ length: count }, (_, k) => samples[k * channels + c] as number),
    );
  }
}

/** What is known of a channel before it is cleaned. */
interface ChannelProfile extends NoiseProfile {
  readonly steps: LevelSteps;
  readonly breaths: BreathSteps;
}

const kept = ({ noise, speech }: NoiseProfile['bands']) => ({ noise: [...noise], speech: [...speech] });

async function profilesOf(
  reader: TrackReader,
  choices: Cleaning,
  onProgress: (share: number) => void,
): Promise<ChannelProfile[]> {
  const meters = Array.from({ length: channelsOf(reader.track) }, () => new NoiseMeter(SOUND_RATE));
  const traces = meters.map(() => new LevelTrace(SOUND_RATE));
  const breaths = meters.map(() => new BreathTrace(SOUND_RATE));
  let count = 0;
  for await (const block of channelBlocks(reader)) {
    for (const [c, samples] of block.entries()) {
      meters[c]?.push(samples);
      traces[c]?.push(samples);
      if (choices.breaths !== 'off') breaths[c]?.push(samples);
    }
    count += block[0]?.length ?? 0;
    onProgress(Math.min(1, count / SOUND_RATE / Math.max(1, reader.seconds)));
  }
  return meters.map((meter, c) => ({
    ...meter.profile(),
    steps: (traces[c] as LevelTrace).steps,
    breaths: (breaths[c] as BreathTrace).steps,
  }));
}

/** Filters of ffmpeg for what is not steady. */
const unsteady = ({ clicks, sibilance }: Cleaning): string[] => [
  ...(clicks ? ['adeclick'] : []),
  ...(sibilance ? ['deesser=i=0.4:m=0.5:f=0.5'] : []),
];

async function cleanTrack(
  reader: TrackReader,
  profiles: readonly ChannelProfile[],
  choices: Cleaning,
  to: string,
  onProgress: (share: number) => void,
): Promise<{ readonly loudness: Loudness | null; readonly bands: NoiseProfile['bands']; readonly breaths: number }> {
  const { seconds, signal } = reader;
  const channels = profiles.length;
  const cleaners = profiles.map((profile) => new Cleaner(choices, profile, SOUND_RATE));
  // Left and right move together, by the louder of them.
  const loudest = profiles.reduce((a, b) => (b.speech > a.speech ? b : a));
  const gains = choices.lines ? gainsOf(loudest.steps, loudest) : new Float32Array(0);
  const breaths = breathsIn(loudest.breaths, loudest);
  const softer = breathGains(breaths, SOFTER_BREATHS[choices.breaths], loudest.breaths.levels.length);
  const riders = profiles.map(() => [
    new GainRider(gains, LINE_STEP, SOUND_RATE),
    new GainRider(softer, BREATH_STEP, SOUND_RATE),
  ]);
  const meter = new NoiseMeter(SOUND_RATE, false);
  const filters = [...unsteady(choices), `aresample=${SOUND_RATE}`, MEASURING];
  const output = ['-af', filters.join(','), '-sample_fmt', 's16', '-c:a', 'flac', '-f', 'flac', `file:${to}`];
  const sink = new SampleSink('f32le', channels, output, boundsForSoundFile(seconds), signal);
  let went = 0;
  let came = 0;
  const write = (parts: readonly Float32Array[], most = Number.POSITIVE_INFINITY): Promise<boolean> => {
    const count = Math.min(most, parts[0]?.length ?? 0);
    came += count;
    for (const [c, part] of parts.entries()) for (const rider of riders[c] ?? []) rider.apply(part);
    if (parts[0]) meter.push(parts[0]);
    return sink.write(interleaved(parts, count));
  };
  try {
    for await (const block of channelBlocks(reader)) {
      went += block[0]?.length ?? 0;
      if (!(await write(block.map((samples, c) => (cleaners[c] as Cleaner).push(samples))))) break;
      onProgress(Math.min(1, went / SOUND_RATE / Math.max(1, seconds)));
    }
    const last = cleaners.map((cleaner) => cleaner.end());
    await write(last, went - came);
    return { loudness: readLoudness(await sink.end()) ?? null, bands: meter.profile().bands, breaths: breaths.length };
  } finally {
    sink.close();
  }
}

function interleaved(parts: readonly Float32Array[], count: number): Float32Array {
  const samples = new Float32Array(parts.length * count);
  for (const [c, part] of parts.entries()) for (let k = 0; k < count; k++) samples[k * parts.length + c] = part[k] as number;
  return samples;
}

/** Brings tracks to the loudness that they have on average: two people are then as loud as one another. */
function withGains(tracks: readonly TrackReport[]): TrackReport[] {
  const loud = tracks.flatMap(({ after }) => (after ? [after.integrated] : []));
  if (loud.length < 2) return [...tracks];
  const mean = loud.reduce((sum, one) => sum + one, 0) / loud.length;
  return tracks.map((track) => ({
    ...track,
    // What is hardly ever heard is no voice that should be as loud as the others.
    gain:
      track.after && track.after.integrated > mean - 2 * MOST_GAIN
        ? Math.max(
            -MOST_GAIN,
            Math.min(MOST_GAIN, mean - track.after.integrated, Math.max(0, HIGHEST_PEAK - track.after.truePeak)),
          )
        : 0,
  }));
}

/** Puts tracks into one file. */
async function joinTracks(
  tracks: readonly TrackReport[],
  work: string,
  to: string,
  seconds: number,
  signal: AbortSignal,
): Promise<void> {
  const graph = tracks.map(({ gain }, k) => `[${k}:a]volume=${gain.toFixed(2)}dB[t${k}]`).join(';');
  const ended = await execa(
    // biome-ignore format: one option and its value a pair
    ...bounded('ffmpeg', ['-hide_banner', '-nostdin', '-v', 'error', '-y', ...tracks.flatMap((_, k) => ['-i', `file:${join(work, `${k}.flac`)}`]),
      '-filter_complex', graph, ...tracks.flatMap((_, k) => ['-map', `[t${k}]`]), '-sample_fmt', 's16', '-c:a', 'flac', '-f', 'matroska', `file:${to}`],
      boundsForSoundFile(seconds * tracks.length)),
    { reject: false, cancelSignal: signal, maxBuffer: 4_000_000 },
  );
  if (signal.aborted) throw new DOMException('cleaning was cancelled', 'AbortError');
  if (ended.exitCode !== 0) throw new MediaError(`The cleaned sound could not be written. ${beyondBounds(ended) ?? ''}`.trim());
}

/**
 * Writes cleaned sound as one wave file, the channels of its tracks one after another.
 * @throws MediaError when it cannot be written
 */
export async function writeWave(from: string, { audio, duration }: MediaFacts, to: string): Promise<void> {
  // One by one: merged whole, a centre and a pair would be put in the order of loudspeakers.
  const names = audio.flatMap(({ index, channels }) => Array.from({ length: channels }, (_, c) => `[${index}-${c}]`));
  const parts = audio.map(({ index, channels }) => {
    const copies = Array.from({ length: channels }, (_, c) => `[in${index}-${c}]`);
    const singles = copies.map((copy, c) => `${copy}pan=mono|c0=c${c}[${index}-${c}]`);
    return [`[0:${index}]asplit=${channels}${copies.join('')}`, ...singles].join(';');
  });
  const graph = `${parts.join(';')};${names.join('')}${names.length > 1 ? `amerge=inputs=${names.length}` : 'anull'}[all]`;
  const ended = await execa(
    // biome-ignore format: one option and its value a pair
    ...bounded('ffmpeg', ['-hide_banner', '-nostdin', '-v', 'error', '-y', ...inputArguments(from), '-filter_complex', graph, '-map', '[all]',
      '-c:a', 'pcm_s16le', '-rf64', 'auto', '-f', 'wav', `file:${to}`], boundsForSoundFile(duration * audio.length)),
    { reject: false, maxBuffer: 4_000_000 },
  );
  if (ended.exitCode !== 0) throw new MediaError(`The cleaned sound could not be written. ${beyondBounds(ended) ?? ''}`.trim());
}

async function loudnessOfMix(path: string, facts: MediaFacts, signal: AbortSignal): Promise<Loudness | undefined> {
  const graph = `${mixOf(facts)};[mix]${MEASURING}[measured]`;
  const ended = await execa(
    // biome-ignore format: one option and its value a pair
    ...bounded('ffmpeg', ['-hide_banner', '-nostdin', '-nostats', '-v', 'info', ...inputArguments(path), '-filter_complex', graph, '-map', '[measured]',
      '-f', 'null', '-'], boundsForSound(facts.duration)),
    { reject: false, cancelSignal: signal, maxBuffer: 4_000_000 },
  );
  return ended.exitCode === 0 ? readLoudness(String(ended.stderr)) : undefined;
}

/** What a file of cleaned sound holds: the tracks of the one it was made from, and nothing else. */
export const cleanedFacts = (facts: MediaFacts): MediaFacts => ({
  ...facts,
  format: 'matroska,webm',
  video: undefined,
  audio: facts.audio.map(({ opposed: _, ...track }, index) => ({
    ...track,
    index,
    codec: 'flac',
    sampleRate: SOUND_RATE,
    channels: channelsOf(track),
  })),
});

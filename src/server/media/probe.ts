import { open } from 'node:fs/promises';
import { execa } from 'execa';
import { z } from 'zod';
import { type MediaFacts, mediaFacts } from '@/core/contract/media.ts';
import { formatRate, parseRate } from '@/core/time/rate.ts';
import { BOUNDS_FOR_A_LOOK, bounded } from './bounds.ts';
import { hasOpposedChannels } from './channels.ts';
import { ffprobe, inputArguments, MediaError } from './ffmpeg.ts';

const stream = z.object({
  index: z.int(),
  codec_type: z.string().optional(),
  codec_name: z.string().optional(),
  pix_fmt: z.string().optional(),
  width: z.int().optional(),
  height: z.int().optional(),
  sample_rate: z.coerce.number().optional(),
  channels: z.int().optional(),
  r_frame_rate: z.string().optional(),
  avg_frame_rate: z.string().optional(),
  duration: z.coerce.number().optional(),
  nb_frames: z.coerce.number().optional(),
  tags: z.record(z.string(), z.string()).optional(),
  disposition: z.record(z.string(), z.number()).optional(),
});
type Stream = z.infer<typeof stream>;

const probed = z.object({
  streams: z.array(stream).default([]),
  format: z.object({
    format_name: z.string(),
    duration: z.coerce.number().optional(),
    start_time: z.coerce.number().optional(),
    tags: z.record(z.string(), z.string()).optional(),
  }),
});

/** Longest recording accepted, in seconds: a day. */
const LONGEST = 86_400;
/** Tracks beyond this are refused rather than left out in silence. */
const MOST_TRACKS = 16;

/** What a file must hold to be of use: a recording is heard, while what ran together with one may be seen alone. */
export type Needs = 'sound' | 'sound or picture';

/**
 * Finds out what a file holds.
 * @throws MediaError when it is damaged, cut short, has not what is needed of it, or is not media at all
 */
export async function probe(path: string, needs: Needs = 'sound'): Promise<MediaFacts> {
  const answer = probed.safeParse(await ffprobe(path, ['-show_streams', '-show_format']));
  if (!answer.success) throw new MediaError('The file opens, but says nothing usable about what it holds.');
  const { streams, format } = answer.data;
  const sounds = streams.filter((s) => s.codec_type === 'audio' && s.codec_name && (s.sample_rate ?? 0) > 0);
  const picture = streams.find(isPicture);
  if (sounds.length === 0 && !(needs === 'sound or picture' && picture))
    throw new MediaError(
      picture
        ? 'The video has no sound, and silences are found in sound. Bring the file that carries the voice.'
        : 'There is no sound in this file.',
    );
  if (sounds.length > MOST_TRACKS)
    throw new MediaError(`The file has ${sounds.length} audio tracks; ${MOST_TRACKS} is the most.`);
  const duration = lengthOf(format) ?? sounds[0]?.duration ?? picture?.duration ?? 0;
  if (duration > LONGEST) throw new MediaError('The recording is longer than a day. Split it first.');
  const facts: MediaFacts = {
    format: format.format_name,
    duration,
    ...timecodeOf(streams, format.tags),
    ...timeReferenceOf(format.tags),
    ...(picture && { video: await videoFacts(path, picture, format) }),
    audio: sounds.map((sound) => ({
      index: sound.index,
      codec: sound.codec_name ?? '',
      sampleRate: sound.sample_rate ?? 0,
      channels: Math.max(1, sound.channels ?? 1),
      ...(sound.tags?.title && { title: sound.tags.title.slice(0, 100) }),
    })),
  };
  if (sounds[0]) await checkEnd(path, sounds[0], format, duration);
  for (const track of facts.audio)
    if (track.channels === 2 && (await hasOpposedChannels(path, track.index, duration))) track.opposed = true;
  return mediaFacts.parse(facts);
}

/** Matroska tells the moment at which the last packet ends, others how long it is from the first to the last. */
function lengthOf({ format_name, duration, start_time: start = 0 }: z.infer<typeof probed>['format']): number | undefined {
  if (duration === undefined || !/matroska/.test(format_name)) return duration;
  return duration > start ? duration - start : duration;
}

/** Cover art is a still picture that some sound files carry; it is no video. */
const isPicture = (s: Stream) => s.codec_type === 'video' && (s.width ?? 0) > 0 && !s.disposition?.attached_pic;

type Tags = Readonly<Record<string, string>> | undefined;

/** A tag by its name, which containers write in letters of either case. */
const tagOf = (tags: Tags, name: string): string | undefined =>
  Object.entries(tags ?? {}).find(([key]) => key.toLowerCase() === name)?.[1];

function timecodeOf(streams: readonly Stream[], tags: Tags) {
  const text = streams.map((s) => tagOf(s.tags, 'timecode')).find(Boolean) ?? tagOf(tags, 'timecode');
  return text && /^\d{2}:\d{2}:\d{2}[:;.]\d{2,3}$/.test(text) ? { timecode: text } : {};
}

/** Where a broadcast wave begins, in samples since midnight (EBU Tech 3285). */
function timeReferenceOf(tags: Tags) {
  const samples = Number(tagOf(tags, 'time_reference') ?? Number.NaN);
  return Number.isSafeInteger(samples) && samples > 0 ? { timeReference: samples } : {};
}

/** What browsers show as it is: containers with the codecs in them that they decode. */
const PLAYABLE: readonly (readonly [family: RegExp, codecs: readonly string[]])[] = [
  [/mp4/, ['h264', 'vp9', 'av1']],
  [/webm/, ['vp8', 'vp9', 'av1']],
];

type Format = z.infer<typeof probed>['format'];

async function videoFacts(path: string, picture: Stream, format: Format): Promise<NonNullable<MediaFacts['video']>> {
  const rate = rateOf(picture.r_frame_rate) ?? rateOf(picture.avg_frame_rate) ?? parseRate('25');
  const { variable, average: seen } = await stepsOf(path, picture.index);
  // Containers that count their frames know the average of all; of others it is told by those at the beginning.
  const average = picture.nb_frames && picture.duration ? picture.nb_frames / picture.duration : seen;
  // A variable stream's nominal rate is a common multiple of all steps; the average is what it looks like.
  const used = variable && average !== undefined ? (rateOf(String(Math.round(average * 100) / 100)) ?? rate) : rate;
  const codec = picture.codec_name ?? '';
  const end = await pictureEnd(path, picture, format);
  return {
    index: picture.index,
    codec,
    width: picture.width ?? 0,
    height: picture.height ?? 0,
    rate: formatRate(used),
    variable,
    ...(end !== undefined && { end }),
    playable:
      picture.pix_fmt === 'yuv420p' &&
      PLAYABLE.some(([family, codecs]) => family.test(format.format_name) && codecs.includes(codec)),
  };
}

const FASTEST = 1000;

function rateOf(text: string | undefined) {
  try {
    const rate = text ? parseRate(text) : undefined;
    // Faster ones are clocks of containers, and no frames.
    return rate && rate.num / rate.den <= FASTEST ? rate : undefined;
  } catch {
    return undefined;
  }
}

/** Read from so long before a file's end; pictures that are stored as groups are found from the start of theirs. */
const LAST_SECONDS = 8;

const packets = z.object({
  packets: z.array(z.object({ pts_time: z.coerce.number().optional(), duration_time: z.coerce.number().optional() })).default([]),
});

/** Seconds from the file's start to the end of the last packet of a stream, or of any; undefined where none is found. */
async function lastMoment(
  path: string,
  { start_time: start = 0, duration = 0 }: Format,
  index?: number,
): Promise<number | undefined> {
  const stream = index === undefined ? [] : ['-select_streams', String(index)];
  const from = Math.max(0, start + duration - LAST_SECONDS);
  const answer = await ffprobe(path, [
    ...stream,
    '-show_entries',
    'packet=pts_time,duration_time',
    '-read_intervals',
    `${from}%`,
  ]);
  const ends = packets
    .parse(answer)
    .packets.flatMap(({ pts_time: at, duration_time: length = 0 }) => (at === undefined ? [] : at + length));
  return ends.length === 0 ? undefined : ends.reduce((latest, end) => Math.max(latest, end)) - start;
}

/** Seconds from the file's start until its last frame has been shown. */
async function pictureEnd(path: string, picture: Stream, format: Format): Promise<number | undefined> {
  const found = await lastMoment(path, format, picture.index).catch(() => undefined);
  const end = found ?? picture.duration;
  return end !== undefined && end > 0 ? end : undefined;
}

/** Whether the steps between the first few hundred frames differ by more than the container's rounding, and frames a second over them. */
async function stepsOf(path: string, index: number): Promise<{ variable: boolean; average: number | undefined }> {
  const answer = packets.parse(
    await ffprobe(path, ['-select_streams', String(index), '-show_entries', 'packet=pts_time', '-read_intervals', '%+#300']),
  );
  const times = answer.packets.flatMap((p) => p.pts_time ?? []).sort((a, b) => a - b);
  const steps = times.slice(1).map((at, k) => at - (times[k] as number));
  // The last of what was read may lack frames that are shown before it but stored after it.
  const settled = steps.slice(0, -4).sort((a, b) => a - b);
  const median = settled[settled.length >> 1];
  if (median === undefined) return { variable: false, average: undefined };
  // Matroska rounds to a millisecond, so one step in a constant stream may differ by two of those.
  const variable = settled.some((step) => Math.abs(step - median) > Math.max(0.0025, median * 0.1));
  return { variable, average: 1 / (settled.reduce((sum, step) => sum + step, 0) / settled.length) };
}

/** A file that was cut short while being copied still has a good beginning: decode its last second. */
async function checkEnd(path: string, sound: Stream, format: Format, duration: number): Promise<void> {
  if (await riffIsShort(path)) throw new MediaError(CUT_SHORT);
  const length = sound.duration ?? duration;
  if (!(length > 0)) return;
  const { stdout, failed } = await execa(
    // biome-ignore format: one option and its value a pair
    ...bounded('ffmpeg', ['-hide_banner', '-nostdin', '-v', 'error', '-ss', String(Math.max(0, length - 2)), ...inputArguments(path),
      '-map', `0:${sound.index}`, '-t', '2', '-ac', '1', '-ar', '8000', '-f', 's16le', 'pipe:1'], BOUNDS_FOR_A_LOOK),
    { encoding: 'buffer', reject: false, timeout: 60_000, maxBuffer: 1_000_000 },
  );
  if (!failed && stdout.length > 0) return;
  // The container's length is that of its longest stream: a picture may go on where the sound has ended.
  const reached = await lastMoment(path, format).catch(() => undefined);
  if (reached === undefined || reached < length - LEAST_MISSING) throw new MediaError(CUT_SHORT);
}

/** Seconds: less is missing from many a file that is whole. */
const LEAST_MISSING = 1;

/** A RIFF file says its own length, and ffprobe goes by the bytes that are there instead. */
async function riffIsShort(path: string): Promise<boolean> {
  const file = await open(path);
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(8), 0, 8, 0);
    const told = buffer.readUInt32LE(4);
    // A recorder that lost power leaves nought or all ones: it never knew, and what is there is all there is.
    if (bytesRead < 8 || buffer.toString('latin1', 0, 4) !== 'RIFF' || told === 0 || told === 0xffffffff) return false;
    return told + 8 > (await file.stat()).size + 1;
  } finally {
    await file.close();
  }
}

const CUT_SHORT = 'The file is cut short: its end is missing. Copy it again from the recorder.';

import { createHash } from 'node:crypto';
import { mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { z } from 'zod';
import { type Loudness, loudness } from '@/core/clean/loudness.ts';
import { isCopied, isOfPicture, type RenderChoices, tracksIn } from '@/core/render/choices.ts';
import { withCopies } from '@/core/render/copying.ts';
import type { PicturePlan } from '@/core/render/picturePlan.ts';
import type { Seconds } from '@/core/time/range.ts';
import { boundsForPicture, boundsForSoundFile, type ProcessBounds } from '../bounds.ts';
import { checkEnded, MediaError, startFfmpeg } from '../ffmpeg.ts';
import type { SoundFile } from './clockSamples.ts';
import { ENCODERS, soundAs } from './encoders.ts';
import { entryFrames } from './entryFrames.ts';
import { bringLetters, burning } from './letters.ts';
import { type PictureShape, shapeFor } from './pictureShape.ts';
import { plainPicture } from './plainPicture.ts';
import { type PictureToRender, renderSegments } from './renderPicture.ts';
import { filtersTo, pourSound, type Running, type SoundToRender, THE_SOUND } from './renderSound.ts';

/** All that a rendered file is made of. */
export interface Rendering extends SoundToRender {
  readonly title: string;
  readonly choices: RenderChoices;
  /** frame by frame; where the format has a picture */
  readonly plan: PicturePlan;
  /** SubRip; empty where there are none */
  readonly captions: string;
  /** in ffmpeg's metadata format; empty where there are none */
  readonly chapters: string;
}

/** What came of it. */
export interface Rendered {
  readonly before: Loudness | undefined;
  readonly after: Loudness | undefined;
}

/** Of the time that it takes, the part of the picture. */
const PICTURE_SHARE = 0.93;
/** Bytes of a container beside its streams, as a share. */
const OVERHEAD = 0.01;
/** A picture gets so much at least: less is no picture. */
const LEAST_BITS = 60_000;

/**
 * Renders a programme to a file. What is finished of its picture stays in the work folder until the file is whole, so that it goes on
 * where it was killed. The file is there when it is whole; one of that name is replaced then.
 * @throws MediaError when a recording cannot be decoded, or the file not written
 */
export async function renderFile(wanted: Rendering, target: string, folder: string, running: Running): Promise<Rendered> {
  // ffmpeg runs in the work folder.
  const [to, work] = [resolve(target), resolve(folder)];
  const rendering = { ...wanted, files: wanted.files.map(withWholePaths) };
  const { choices, programme, files } = rendering;
  if (programme.length === 0) throw new MediaError('Nothing is left of the recording: there is nothing to render.');
  await mkdir(work, { recursive: true });
  const part = `${to}.part`;
  try {
    const isFilmed = isOfPicture(choices.format) && files.some(({ facts }) => facts.video);
    const rendered = await (isFilmed ? filmedFile : soundFile)(rendering, part, work, running);
    await rename(part, to);
    await rm(work, { recursive: true, force: true });
    return rendered;
  } finally {
    await rm(part, { force: true });
  }
}

const withWholePaths = (file: SoundFile): SoundFile => ({
  ...file,
  path: resolve(file.path),
  ...(file.sound && { sound: { ...file.sound, path: resolve(file.sound.path) } }),
  ...(file.angles && {
    angles: Object.fromEntries(Object.entries(file.angles).map(([id, one]) => [id, { ...one, path: resolve(one.path) }])),
  }),
});

/** Picture and sound side by side, each by processes of its own, and then together as they are. */
async function filmedFile(rendering: Rendering, to: string, work: string, { signal, onProgress }: Running): Promise<Rendered> {
  const picture = await pictureOf(rendering, work);
  const failing = new AbortController();
  const both = AbortSignal.any([signal, failing.signal]);
  const done = { picture: 0, sound: 0 };
  const tell = (which: keyof typeof done) => (share: number) => {
    done[which] = share;
    onProgress?.(PICTURE_SHARE * done.picture + (1 - PICTURE_SHARE) * done.sound);
  };
  /** What fails first ends the other, and is what is told. */
  const endingBoth = async <T>(work: Promise<T>): Promise<T> =>
    work.catch((error) => {
      failing.abort(error);
      throw error;
    });
  const [pictures, sound] = await Promise.allSettled([
    endingBoth(renderSegments(picture, work, { signal: both, onProgress: tell('picture') })),
    endingBoth(soundTracks(rendering, work, { signal: both, onProgress: tell('sound') })),
  ]);
  if (pictures.status === 'rejected' || sound.status === 'rejected') throw failing.signal.reason;
  await joinStreams(rendering, { pictures: pictures.value, tracks: sound.value.tracks }, to, work, signal);
  return sound.value.rendered;
}

/** Puts encoded pictures and sound into one file. */
async function joinStreams(
  rendering: Rendering,
  { pictures, tracks }: { readonly pictures: readonly string[]; readonly tracks: readonly string[] },
  to: string,
  work: string,
  signal: AbortSignal,
): Promise<void> {
  const encoder = ENCODERS[rendering.choices.format];
  const list = pictures.map((name) => `file ${name}\n`).join('');
  await writeFile(join(work, 'pictures.txt'), `ffconcat version 1.0\n${list}`);
  const beside = await besideSound(rendering, work, 1 + tracks.length);
  // What is copied and what is encoded have parameters of their own, which stand among the pictures: ISO/IEC 14496-15 names that so.
  const asIs = isCopied(rendering.choices) && rendering.choices.format === 'mp4' ? ['-tag:v', 'avc3'] : [];
  // biome-ignore format: one option and its value a pair
  const options = ['-progress', 'pipe:3', '-y', '-f', 'concat', '-i', 'pictures.txt', ...tracks.flatMap((name) => ['-i', name]), ...beside.options,
    '-map', '0:v', '-c:v', 'copy', ...asIs, ...tracks.flatMap((_, k) => ['-map', `${k + 1}:a`]), '-c:a', 'copy', ...beside.maps,
    ...titled(rendering), ...encoder.container, '-f', encoder.format, `file:${to}`];
  const { running, outputs } = startFfmpeg(options, 1, boundsForFile(rendering), signal, work);
  // What is told of itself shows that it goes on.
  (outputs[0] as NodeJS.ReadableStream).resume();
  const ended = await running;
  if (signal.aborted) throw new DOMException('rendering was cancelled', 'AbortError');
  checkEnded(ended, 'The file cannot be written.');
}

const titled = ({ title }: Rendering): string[] => ['-map_metadata', '-1', '-metadata', `title=${title}`];

/** Sound, with a plain picture where the format has one: both are made from the same samples at once. */
async function soundFile(rendering: Rendering, to: string, work: string, { signal, onProgress }: Running): Promise<Rendered> {
  const { choices, programme } = rendering;
  const encoder = ENCODERS[choices.format];
  const plain = isOfPicture(choices.format) ? await plainPicture(rendering, work, bitsFor(choices, programme.length)) : undefined;
  const { levelled, share } = await levelledTo(rendering, work, { signal, onProgress });
  const count = trackCount(rendering);
  const told = (done: number) => (part: number) => onProgress?.(1 - (share / count) * (count - done - part));
  const others: string[] = [];
  for (let k = 1; k < count; k++) others.push(await poured(rendering, k, levelled, work, { signal, onProgress: told(k - 1) }));
  const beside = await besideSound(rendering, work, 1 + others.length);
  const after = await pourSound(
    count === 1 ? rendering : { ...rendering, files: onlyTrack(rendering.files, 0) },
    {
      cwd: work,
      inputs: [...others.flatMap((name) => ['-i', name]), ...beside.options],
      filters: levelled?.filters ?? [],
      rest: plain?.graph,
      // Of tracks apart there is no loudness of all together.
      isMeasured: levelled !== undefined && count === 1,
      outputs: [
        ...(plain?.outputs ?? []),
        ...THE_SOUND,
        ...others.flatMap((_, k) => ['-map', `${k + 1}:a`]),
        ...beside.maps,
        ...titled(rendering),
        ...encoder.sound,
        ...others.flatMap((_, k) => [`-c:a:${k + 1}`, 'copy']),
        ...encoder.container,
        ...['-f', encoder.format, `file:${to}`],
      ],
      bounds: boundsForFile(rendering),
    },
    { signal, onProgress: told(count - 1) },
  );
  return { before: levelled?.before, after };
}

/** The sound of a programme as files, one a track. */
async function soundTracks(rendering: Rendering, work: string, { signal, onProgress }: Running) {
  const { levelled, share } = await levelledTo(rendering, work, { signal, onProgress });
  const count = trackCount(rendering);
  const tracks: string[] = [];
  let after: Loudness | undefined;
  for (let k = 0; k < count; k++) {
    const told = (part: number) => onProgress?.(1 - (share / count) * (count - k - part));
    tracks.push(
      await poured(rendering, count === 1 ? undefined : k, levelled, work, { signal, onProgress: told }, (loudness) => {
        after = loudness;
      }),
    );
  }
  return { tracks, rendered: { before: levelled?.before, after } };
}

const trackCount = ({ choices, files }: Rendering): number =>
  tracksIn(choices, Math.max(...files.map(({ facts }) => facts.audio.length)));

type Levelled = Awaited<ReturnType<typeof filtersTo>> | undefined;

/**
 * What brings a programme to its loudness, where that is asked for. Measuring takes longer than all the rest: what was found before a kill
 * is used again.
 * @returns also the share of the time that is left for the sound itself
 */
async function levelledTo(
  { choices, programme, files, joins, masked }: Rendering,
  work: string,
  { signal, onProgress }: Running,
): Promise<{ levelled: Levelled; share: number }> {
  if (choices.loudness === null) return { levelled: undefined, share: 1 };
  const path = join(work, 'levelled');
  const sound = { files, programme, joins, masked };
  const of = digestOf({ sound, loudness: choices.loudness });
  const known = keptLevelling.safeParse(JSON.parse(await readFile(path, 'utf8').catch(() => 'null')));
  if (known.success && known.data.of === of) return { levelled: { before: undefined, ...known.data }, share: 1 };
  const told = (share: number) => onProgress?.(share / 2);
  const levelled = await filtersTo(choices.loudness, sound, boundsForSoundFile(programme.length), { signal, onProgress: told });
  await writeWhole(path, JSON.stringify({ of, ...levelled }));
  return { levelled, share: 1 / 2 };
}

const keptLevelling = z.object({
  of: z.string(),
  filters: z.array(z.string()),
  before: z.optional(loudness),
});

/** A file that is there is whole. */
async function writeWhole(path: string, content: string): Promise<void> {
  await writeFile(`${path}.part`, content);
  await rename(`${path}.part`, path);
}

/** Encodes the sound, or one track of it, into a file of the work folder. @returns its name */
async function poured(
  rendering: Rendering,
  track: number | undefined,
  levelled: Levelled,
  work: string,
  running: Running,
  onLoudness?: (loudness: Loudness | undefined) => void,
): Promise<string> {
  const { alone } = ENCODERS[rendering.choices.format];
  const name = `track-${track ?? 'all'}.${alone}`;
  const isMeasured = levelled !== undefined && track === undefined;
  const outputs = [...THE_SOUND, ...soundAs(rendering.choices), '-f', alone, '-y', name];
  const sound = track === undefined ? rendering : { ...rendering, files: onlyTrack(rendering.files, track) };
  const target = { cwd: work, filters: levelled?.filters ?? [], isMeasured, outputs, bounds: boundsForFile(rendering) };
  const loudness = await pourSound(sound, target, running);
  if (isMeasured) onLoudness?.(loudness);
  return name;
}

/** Files with one of their tracks alone; those that have fewer are silent. */
const onlyTrack = (files: readonly SoundFile[], track: number): SoundFile[] => {
  const only = <T extends Pick<SoundFile, 'facts'>>(file: T): T => ({
    ...file,
    facts: { ...file.facts, audio: file.facts.audio.slice(track, track + 1) },
  });
  return files.flatMap((file) => {
    if (file.facts.audio.length <= track) return [];
    return [{ ...only(file), ...(file.sound && { sound: only(file.sound) }) }];
  });
};

/** A whole file: of sound alone, or of sound and picture. */
function boundsForFile({ programme, choices, plan }: Rendering): ProcessBounds {
  if (!isOfPicture(choices.format)) return boundsForSoundFile(programme.length);
  const bounds = boundsForPicture(programme.length);
  const megabytes = choices.megabytes === null ? 20 * programme.length : 2 * choices.megabytes;
  return { ...bounds, writesMegabytes: 200 + Math.ceil(megabytes + plan.length / 1000) };
}

/** Bits a second of a picture in a file of the size that is asked for. */
function bitsFor({ megabytes, format }: RenderChoices, length: Seconds): number | undefined {
  if (megabytes === null) return undefined;
  return Math.max(LEAST_BITS, (megabytes * 8e6 * (1 - OVERHEAD)) / length - ENCODERS[format].soundRate);
}

/** What the picture is made of; what was finished of another is taken away. */
async function pictureOf(rendering: Rendering, work: string): Promise<PictureToRender> {
  const { files, plan, choices, programme, captions } = rendering;
  const first = files.find(({ facts }) => facts.video);
  const shape = await shapeFor(first && { path: first.path, index: first.facts.video?.index ?? 0 }, choices.size);
  const burnt = choices.captions === 'burnt in' ? captions : '';
  const picture: PictureToRender = {
    files,
    plan: isCopied(choices) ? await withCopiesOf(files, plan, shape) : plan,
    choices,
    shape,
    bitsPerSecond: bitsFor(choices, programme.length),
    captions: burning(choices, burnt),
  };
  await keepOnlyIfSame(work, digestOf({ picture, burnt }));
  await bringLetters(work, burnt);
  return picture;
}

/** A plan in which what can be copied is. */
async function withCopiesOf(files: readonly SoundFile[], plan: PicturePlan, shape: PictureShape): Promise<PicturePlan> {
  const entries = await Promise.all(files.map((file) => entryFrames(file, plan.rate, shape)));
  return { ...plan, stretches: withCopies(plan.stretches, entries, plan.rate) };
}

const digestOf = (what: unknown): string => createHash('sha256').update(JSON.stringify(what)).digest('hex');

/** Segments that were rendered for something else are no use. */
async function keepOnlyIfSame(work: string, digest: string): Promise<void> {
  const path = join(work, 'made-of');
  if ((await readFile(path, 'utf8').catch(() => '')) === digest) return;
  await rm(work, { recursive: true, force: true });
  await mkdir(work, { recursive: true });
  await writeFile(path, digest);
}

/** What comes into a file beside its picture and sound, behind so many inputs. */
async function besideSound({ choices, captions, chapters }: Rendering, work: string, inputs: number) {
  const options: string[] = [];
  const maps: string[] = [];
  let count = inputs;
  const asTrack = ENCODERS[choices.format].captions;
  if (choices.captions === 'track' && captions !== '' && asTrack) {
    await writeFile(join(work, 'track.srt'), captions);
    options.push('-f', 'srt', '-i', 'track.srt');
    maps.push('-map', `${count++}:s`, '-c:s', asTrack);
  }
  if (chapters !== '') {
    await writeFile(join(work, 'chapters.txt'), chapters);
    options.push('-f', 'ffmetadata', '-i', 'chapters.txt');
    maps.push('-map_chapters', String(count++));
  }
  return { options, maps };
}

import { createHash } from 'node:crypto';
import { mkdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Loudness } from '@/core/clean/loudness.ts';
import { isCopied, isOfPicture, type RenderChoices, tracksIn } from '@/core/render/choices.ts';
import { withCopies } from '@/core/render/copying.ts';
import type { PicturePlan } from '@/core/render/picturePlan.ts';
import type { Seconds } from '@/core/time/range.ts';
import { boundsForPicture, boundsForSoundFile, type ProcessBounds } from '../bounds.ts';
import { MediaError } from '../ffmpeg.ts';
import type { SoundFile } from './clockSamples.ts';
import { ENCODERS } from './encoders.ts';
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
export async function renderFile(
  rendering: Rendering,
  to: string,
  work: string,
  { signal, onProgress }: Running,
): Promise<Rendered> {
  const { choices, programme, files } = rendering;
  const encoder = ENCODERS[choices.format];
  const hasPicture = isOfPicture(choices.format);
  if (programme.length === 0) throw new MediaError('Nothing is left of the recording: there is nothing to render.');
  await mkdir(work, { recursive: true });
  const isFilmed = files.some(({ facts }) => facts.video);
  const soundShare = hasPicture && isFilmed ? 1 - PICTURE_SHARE : 1;
  const plain = hasPicture && !isFilmed ? await plainPicture(rendering, work, bitsFor(choices, programme.length)) : undefined;
  const pictures =
    hasPicture && isFilmed
      ? await renderedPicture(rendering, work, { signal, onProgress: (share) => onProgress?.(PICTURE_SHARE * share) })
      : [];
  const sound: SoundToRender = rendering;
  const bounds = boundsForFile(rendering);
  const levelled =
    choices.loudness === null
      ? undefined
      : await filtersTo(choices.loudness, sound, boundsForSoundFile(programme.length), {
          signal,
          onProgress: (share) => onProgress?.(1 - soundShare + (soundShare * share) / 2),
        });
  const filters = levelled?.filters ?? [];
  const count = tracksIn(choices, Math.max(...files.map(({ facts }) => facts.audio.length)));
  const encodingShare = (levelled ? soundShare / 2 : soundShare) / count;
  const told = (done: number) => (share: number) => onProgress?.(1 - encodingShare * (count - done - share));
  const part = `${to}.part`;
  try {
    const others: string[] = [];
    for (let k = 1; k < count; k++) {
      const name = `track-${k}.mka`;
      const outputs = [...THE_SOUND, ...encoder.sound, '-f', 'matroska', '-y', name];
      const target = { cwd: work, filters, isMeasured: false, outputs, bounds };
      await pourSound({ ...sound, files: onlyTrack(files, k) }, target, { signal, onProgress: told(k - 1) });
      others.push(name);
    }
    const inputs = await besideSound(rendering, pictures, others, work);
    const after = await pourSound(
      count === 1 ? sound : { ...sound, files: onlyTrack(files, 0) },
      {
        cwd: work,
        inputs: inputs.options,
        filters,
        rest: plain?.graph,
        // Of tracks apart there is no loudness of all together.
        isMeasured: levelled !== undefined && count === 1,
        outputs: [
          ...(plain?.outputs ?? []),
          ...inputs.maps,
          ...['-map_metadata', '-1', '-metadata', `title=${rendering.title}`],
          ...encoder.sound,
          ...others.flatMap((_, k) => [`-c:a:${k + 1}`, 'copy']),
          ...encoder.container,
          ...['-f', encoder.format, `file:${part}`],
        ],
        bounds,
      },
      { signal, onProgress: told(count - 1) },
    );
    await rename(part, to);
    await rm(work, { recursive: true, force: true });
    return { before: levelled?.before, after };
  } finally {
    await rm(part, { force: true });
  }
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

async function renderedPicture(rendering: Rendering, work: string, running: Running): Promise<string[]> {
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
  await keepOnlyIfSame(work, JSON.stringify({ picture, burnt }));
  await bringLetters(work, burnt);
  return renderSegments(picture, work, running);
}

/** A plan in which what can be copied is. */
async function withCopiesOf(files: readonly SoundFile[], plan: PicturePlan, shape: PictureShape): Promise<PicturePlan> {
  const entries = await Promise.all(files.map((file) => entryFrames(file, plan.rate, shape)));
  return { ...plan, stretches: withCopies(plan.stretches, entries, plan.rate) };
}

/** Segments that were rendered for something else are no use. */
async function keepOnlyIfSame(work: string, what: string): Promise<void> {
  const path = join(work, 'made-of');
  const digest = createHash('sha256').update(what).digest('hex');
  if ((await readFile(path, 'utf8').catch(() => '')) === digest) return;
  await rm(work, { recursive: true, force: true });
  await mkdir(work, { recursive: true });
  await writeFile(path, digest);
}

/** What comes into a file beside its sound, in the order of the inputs. */
async function besideSound(
  { choices, captions, chapters }: Rendering,
  pictures: readonly string[],
  tracks: readonly string[],
  work: string,
) {
  const options: string[] = [];
  const maps: string[] = [];
  let count = 1;
  if (pictures.length > 0) {
    await writeFile(join(work, 'pictures.txt'), `ffconcat version 1.0\n${pictures.map((name) => `file ${name}\n`).join('')}`);
    options.push('-f', 'concat', '-i', 'pictures.txt');
    maps.push('-map', `${count++}:v`, '-c:v', 'copy');
    // What is copied and what is encoded have parameters of their own, which stand among the pictures: ISO/IEC 14496-15 names that so.
    if (isCopied(choices) && choices.format === 'mp4') maps.push('-tag:v', 'avc3');
  }
  maps.push(...THE_SOUND);
  for (const track of tracks) {
    options.push('-i', track);
    maps.push('-map', `${count++}:a`);
  }
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

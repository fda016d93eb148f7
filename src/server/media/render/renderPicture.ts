import { mkdir, rename, stat } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import PQueue from 'p-queue';
import type { RenderChoices } from '@/core/render/choices.ts';
import {
  type Dissolve,
  dissolvesIn,
  type PicturePlan,
  type PictureSegment,
  type PictureStretch,
  segmentsOf,
  shiftedBy,
} from '@/core/render/picturePlan.ts';
import { type FrameRate, formatRate } from '@/core/time/rate.ts';
import { boundsForPicture, type ProcessBounds } from '../bounds.ts';
import { checkEnded, inputArguments, MediaError, progressOf, startFfmpeg } from '../ffmpeg.ts';
import type { PictureFile, SoundFile } from './clockSamples.ts';
import { encodedAs } from './encoders.ts';
import { fittedInto, type PictureShape } from './pictureShape.ts';
import type { Running } from './renderSound.ts';

/** What is rendered, and how. */
export interface PictureToRender {
  readonly files: readonly SoundFile[];
  readonly plan: PicturePlan;
  readonly choices: RenderChoices;
  readonly shape: PictureShape;
  /** bits a second; undefined where the quality decides */
  readonly bitsPerSecond?: number | undefined;
  /** a filter that writes captions into the picture */
  readonly captions?: string | undefined;
}

/** The file that a stretch shows. @throws MediaError when it is not there */
function fileOf(files: readonly SoundFile[], { source, angle }: Pick<PictureStretch, 'source' | 'angle'>): PictureFile {
  const own = files[source] as SoundFile;
  const shown = angle === undefined ? own : own.angles?.[angle];
  if (!shown)
    throw new MediaError(
      'A file whose picture was chosen is not here any more: choose another picture there, or bring it again.',
    );
  return shown;
}

/** Frames in front of the first that is shown: where a file's own times are rounded, none is missed. */
const LEAD = 2;

/**
 * Renders the picture of a programme, without its sound, as segments in a folder. Each is a process that decodes forwards, so that no
 * filter grows with the number of cuts, and what was finished before a kill is not done again.
 * @returns names of the files in their order, in the folder
 * @throws MediaError when a picture cannot be decoded or encoded
 */
export async function renderSegments(
  picture: PictureToRender,
  folder: string,
  { signal, onProgress }: Running,
): Promise<string[]> {
  const { plan } = picture;
  const segments = segmentsOf(plan);
  const names = segments.map((_, k) => `picture-${String(k).padStart(5, '0')}.mp4`);
  await mkdir(folder, { recursive: true });
  const done = segments.map(() => 0);
  const tell = (k: number, count: number) => {
    done[k] = count;
    onProgress?.(done.reduce((sum, one) => sum + one, 0) / Math.max(1, plan.length));
  };
  const failing = new AbortController();
  const queue = new PQueue({ concurrency: AT_ONCE });
  await Promise.all(
    segments.map((segment, k) =>
      queue.add(async () => {
        if (failing.signal.aborted || signal.aborted) return;
        const path = join(folder, names[k] as string);
        if (!(await stat(path).catch(() => undefined)))
          await renderSegment(picture, segment, folder, path, AbortSignal.any([signal, failing.signal]), (count) =>
            tell(k, count),
          );
        tell(k, segment.count);
      }),
    ),
  ).catch((error) => {
    failing.abort();
    throw error;
  });
  if (signal.aborted) throw new DOMException('rendering was cancelled', 'AbortError');
  return names;
}

/** One process cannot keep all cores busy where it starts and ends. */
const AT_ONCE = Math.min(2, availableParallelism());

async function renderSegment(
  picture: PictureToRender,
  segment: PictureSegment,
  cwd: string,
  path: string,
  signal: AbortSignal,
  onFrames: (count: number) => void,
): Promise<void> {
  const { plan } = picture;
  const part = `${path}.part`;
  const made = segment.stretches[0]?.copied ? copying(picture, segment) : encoding(picture, segment);
  // biome-ignore format: one option and its value a pair
  const options = ['-progress', 'pipe:3', '-y', ...made, '-frames:v', String(segment.count),
    '-video_track_timescale', String(plan.rate.num), '-f', 'mp4', `file:${part}`];
  const { running, outputs } = startFfmpeg(options, 1, boundsOf(segment, plan.rate, picture.shape), signal, cwd);
  for await (const { frames } of progressOf(outputs[0] as NodeJS.ReadableStream))
    if (frames !== undefined) onFrames(Math.min(segment.count, frames));
  const ended = await running;
  if (signal.aborted) return;
  checkEnded(ended, 'The picture cannot be rendered.');
  await rename(part, path);
}

function isMostlyCopied({ stretches, length }: PicturePlan): boolean {
  const copied = stretches.reduce((sum, stretch) => sum + (stretch.copied ? stretch.count : 0), 0);
  return 2 * copied > length;
}

function encoding(picture: PictureToRender, segment: PictureSegment): string[] {
  const { inputs, filter } = sourceOf(picture, segment);
  const rate = formatRate(picture.plan.rate);
  // biome-ignore format: one option and its value a pair
  return [...inputs, '-filter_complex', `${filter}[picture]`, '-map', '[picture]', '-r', rate,
    ...encodedAs(picture.choices, picture.bitsPerSecond, isMostlyCopied(picture.plan))];
}

/** Takes packets as they are, from a frame at which a decoder can begin; the next such frame is as far away as there are packets. */
function copying({ files, plan }: PictureToRender, { stretches }: PictureSegment): string[] {
  const stretch = stretches[0] as PictureStretch;
  const { first } = stretch;
  const { path, facts } = fileOf(files, stretch);
  // A little behind the frame: times that are rounded would else lead to the entry before.
  const from = ((first + 0.25) * plan.rate.den) / plan.rate.num;
  // biome-ignore format: one option and its value a pair
  return ['-ss', from.toFixed(6), ...inputArguments(path), '-map', `0:${facts.video?.index ?? 0}`, '-c', 'copy',
    '-bsf:v', 'setts=pts=PTS-STARTPTS:dts=DTS-STARTPTS', '-map_metadata', '-1', '-map_chapters', '-1'];
}

/** A segment of a large picture may take as many times longer as it has more points. */
function boundsOf(
  { count, stretches, into }: PictureSegment,
  { num, den }: FrameRate,
  { width, height }: PictureShape,
): ProcessBounds {
  const first = stretches[0] as PictureStretch;
  const last = stretches.at(-1) as PictureStretch;
  const read = last.first + last.count * last.rate - first.first;
  const size = (into ? 2 : 1) * Math.max(1, (width * height) / (1920 * 1080));
  const seconds = (Math.max(count, read) * den) / num + 60;
  const bounds = boundsForPicture(seconds * size);
  // What is copied may be coded as lavishly as a camera does.
  return { ...bounds, writesMegabytes: (first.copied ? 16 : 4) * bounds.writesMegabytes };
}

function sourceOf({ files, plan, choices, shape, captions }: PictureToRender, { start, count, stretches, into }: PictureSegment) {
  const rate = formatRate(plan.rate);
  const first = stretches[0] as PictureStretch;
  const written = captions === undefined ? [] : [`setpts=N+${start}`, captions, `setpts=PTS-${start}`];
  const ending = [...written, 'tpad=stop_mode=clone:stop=-1'];
  if (first.black === 'without picture') {
    const black = `color=black:s=${shape.width}x${shape.height}:r=${rate},settb=${plan.rate.den}/${plan.rate.num},setsar=${shape.sar}`;
    return { inputs: [], filter: [black, ...ending].join(',') };
  }
  const leadOf = (stretch: PictureStretch) => Math.max(0, Math.floor(stretch.first) - LEAD);
  const lead = leadOf(first);
  const inputsOf = (stretch: PictureStretch) => [
    '-ss',
    ((leadOf(stretch) * plan.rate.den) / plan.rate.num).toFixed(6),
    ...inputArguments(fileOf(files, stretch).path),
  ];
  const decodedFrom = (input: number, stretch: PictureStretch) =>
    `[${input}:${fileOf(files, stretch).facts.video?.index ?? 0}]fps=${rate}`;
  const decoded = decodedFrom(0, first);
  const shown = (of: readonly PictureStretch[], lead: number) => [
    `select='${chosenFrames(of, lead)}'`,
    'setpts=N',
    ...fittedInto(shape, choices),
    ...comeCloser(of, shape, choices.centre),
    ...blackened(of),
  ];
  if (into) {
    const sides = [first, into].map((side, k) => [
      decodedFrom(k, side),
      ...shown([side], leadOf(side)),
      // Where a file has nothing beyond the seam, its last picture stays.
      'tpad=stop_mode=clone:stop=-1',
    ]);
    const [stays, comes] = sides as [string[], string[]];
    const over = overInto([{ at: count >> 1, half: count >> 1 }]);
    const filter = `${stays.join(',')}[stays];${comes.join(',')}[comes];${over},${ending.join(',')}`;
    return { inputs: [...inputsOf(first), ...inputsOf(into)], filter };
  }
  const dissolves = dissolvesIn(stretches);
  const filter =
    dissolves.length === 0
      ? [decoded, ...shown(stretches, lead), ...ending].join(',')
      : [
          `${decoded},split[early][late]`,
          `[late]${shown(shiftedBy(stretches, 'stays'), lead).join(',')}[stays]`,
          `[early]${shown(shiftedBy(stretches, 'comes'), lead).join(',')}[comes]`,
          `${overInto(dissolves)},${ending.join(',')}`,
        ].join(';');
  return { inputs: inputsOf(first), filter };
}

/** Steps in which one picture goes over into another: more are not seen. */
const STEPS = 12;

/** Mixes what stays and what comes: one filter for each step, switched on for the frames of all dissolves that are at it. */
function overInto(dissolves: readonly Dissolve[]): string {
  const steps = new Map<number, number[]>();
  for (const { at, half } of dissolves)
    for (let frame = at - half; frame < at + half; frame++) {
      const step = Math.floor(((frame - at + half + 0.5) / (2 * half)) * STEPS);
      steps.set(step, [...(steps.get(step) ?? []), frame]);
    }
  const used = [...steps].map(([step, frames], k) => {
    const staying = (1 - (step + 0.5) / STEPS).toFixed(4);
    const enable = frames.map((frame) => `eq(n,${frame})`).join('+');
    return `[${k === 0 ? 'stays' : `mixed${k - 1}`}][comes${k}]blend=all_mode=normal:all_opacity=${staying}:enable='${enable}'`;
  });
  const copies = used.map((_, k) => `[comes${k}]`).join('');
  return `[comes]split=${used.length}${copies};${used.map((one, k) => (k < used.length - 1 ? `${one}[mixed${k}];` : one)).join('')}`;
}

/** Which frames are shown, as an expression over their count from where decoding begins. */
const chosenFrames = (stretches: readonly PictureStretch[], lead: number): string =>
  stretches
    .map(({ first, count, rate }) => {
      const from = first - lead;
      if (rate === 1) return `between(pts,${Math.floor(from)},${Math.floor(from) + count - 1})`;
      // Of a stretch that is hurried the frames at from, from + rate, from + 2 rate ..., each rounded down.
      const shown = (at: string) => `ceil((${at}-${from.toFixed(6)})/${rate})`;
      return `between(pts,${Math.floor(from)},${Math.floor(from + (count - 1) * rate)})*gt(${shown('pts+1')},max(0,${shown('pts')}))`;
    })
    .join('+');

/** An expression for the frames of some stretches, counted as they are shown; empty where there are none. */
function shownFrames(stretches: readonly PictureStretch[], which: (stretch: PictureStretch) => boolean): string {
  let at = 0;
  const frames: string[] = [];
  for (const stretch of stretches) {
    if (which(stretch)) frames.push(`between(n,${at},${at + stretch.count - 1})`);
    at += stretch.count;
  }
  return frames.join('+');
}

/** Blackens the frames of holes. */
function blackened(stretches: readonly PictureStretch[]): string[] {
  const holes = shownFrames(stretches, ({ black }) => black !== undefined);
  return holes === '' ? [] : [`drawbox=c=black:t=fill:enable='${holes}'`];
}

/** Shows some stretches closer, all by the same: what is seen of them fills the picture. */
function comeCloser(
  stretches: readonly PictureStretch[],
  { width, height, sar }: PictureShape,
  centre: RenderChoices['centre'],
): string[] {
  const closer = stretches.find((stretch) => stretch.closer !== undefined)?.closer;
  if (closer === undefined) return [];
  const frames = shownFrames(stretches, (stretch) => stretch.closer !== undefined);
  const share = (1 / (1 + closer)).toFixed(6);
  const part = `crop=iw*${share}:ih*${share}:(iw-ow)*${centre.x}:(ih-oh)*${centre.y}`;
  return [`split[all][some];[some]${part},scale=${width}:${height},setsar=${sar}[near];[all][near]overlay=enable='${frames}'`];
}

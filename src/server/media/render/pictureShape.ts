import { z } from 'zod';
import type { RenderChoices } from '@/core/render/choices.ts';
import { ffprobe } from '../ffmpeg.ts';

/** What a rendered picture measures, in points, and how wide each of them is. */
export interface PictureShape {
  readonly width: number;
  readonly height: number;
  /** width of a point by its height */
  readonly sar: string;
}

const probed = z.object({
  streams: z.array(
    z.object({
      width: z.int(),
      height: z.int(),
      sample_aspect_ratio: z.string().optional(),
      side_data_list: z.array(z.object({ rotation: z.number().optional() }).loose()).optional(),
    }),
  ),
});

const even = (length: number): number => Math.max(2, 2 * Math.round(length / 2));

/** A picture as it is shown: turned the right way up. */
async function shownShape(path: string, index: number): Promise<PictureShape> {
  const entries = 'stream=width,height,sample_aspect_ratio:stream_side_data=rotation';
  const { streams } = probed.parse(await ffprobe(path, ['-select_streams', String(index), '-show_entries', entries]));
  const { width = 2, height = 2, sample_aspect_ratio: ratio, side_data_list: side } = streams[0] ?? {};
  const [num = 1, den = 1] = /^\d+:\d+$/.test(ratio ?? '') ? (ratio as string).split(':').map(Number) : [];
  const sar = num > 0 && den > 0 ? [num, den] : [1, 1];
  const turn = side?.find(({ rotation }) => rotation !== undefined)?.rotation ?? 0;
  return Math.abs(turn) % 180 === 90
    ? { width: height, height: width, sar: `${sar[1]}/${sar[0]}` }
    : { width, height, sar: `${sar[0]}/${sar[1]}` };
}

/** Shapes that a picture is cut to. */
const CUT_TO: Partial<Record<RenderChoices['size'], PictureShape>> = {
  upright: { width: 1080, height: 1920, sar: '1/1' },
  square: { width: 1080, height: 1080, sar: '1/1' },
};

/** Without any picture, sound is shown on one of this shape. */
const PLAIN: PictureShape = { width: 1280, height: 720, sar: '1/1' };

/**
 * What a rendered picture measures.
 * @param file the first with a picture: it decides
 */
export async function shapeFor(
  file: { path: string; index: number } | undefined,
  size: RenderChoices['size'],
): Promise<PictureShape> {
  const cut = CUT_TO[size];
  if (cut) return cut;
  const own = file ? await shownShape(file.path, file.index) : PLAIN;
  if (size === 'source') return { ...own, width: even(own.width), height: even(own.height) };
  const [num = 1, den = 1] = own.sar.split('/').map(Number);
  const height = even(Math.min(own.height, Number(size)));
  return { width: even((own.width * num * height) / den / own.height), height, sar: '1/1' };
}

/** Filters that bring any picture to a shape: cut around the chosen point, or fitted in with black beside it. */
export function fittedInto({ width, height, sar }: PictureShape, { size, centre }: RenderChoices): string[] {
  const pointsAsWide = `scale='2*trunc(iw*sar/(${sar})/2+0.5)':ih`;
  const fitted = (how: string) => `scale=${width}:${height}:force_original_aspect_ratio=${how}:force_divisible_by=2`;
  const placed = CUT_TO[size]
    ? [fitted('increase'), `crop=${width}:${height}:(iw-ow)*${centre.x}:(ih-oh)*${centre.y}`]
    : [fitted('decrease'), `pad=${width}:${height}:-1:-1`];
  return [pointsAsWide, ...placed, `setsar=${sar}`];
}

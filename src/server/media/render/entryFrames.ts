import { execa } from 'execa';
import { z } from 'zod';
import type { MediaFacts } from '@/core/contract/media.ts';
import type { EntryFrames } from '@/core/render/copying.ts';
import { type FrameRate, parseRate } from '@/core/time/rate.ts';
import { BOUNDS_FOR_A_LOOK, bounded } from '../bounds.ts';
import { ffprobe, inputArguments } from '../ffmpeg.ts';
import type { PictureShape } from './pictureShape.ts';

const probed = z.object({
  streams: z
    .array(
      z.object({
        pix_fmt: z.string().optional(),
        field_order: z.string().optional(),
        width: z.int(),
        height: z.int(),
        side_data_list: z.array(z.object({ rotation: z.number().optional() }).loose()).optional(),
      }),
    )
    .min(1),
  format: z.object({ start_time: z.coerce.number().default(0) }),
});

/** Whether a picture may be copied, as far as is known without looking into it: its container lists frames at which a decoder can begin. */
export const mayBeCopied = ({ format, video }: MediaFacts): boolean =>
  video?.codec === 'h264' && !video.variable && /\bmp4\b/.test(format);

/** Times of frames are rounded by no more than this, as a part of a frame. */
const SLACK = 0.25;

/**
 * The frames of a file from which its picture can be copied into a programme of the same rate and shape.
 * @returns undefined where it cannot: turned, interlaced, of another shape, or with frames that are missing or come at uneven steps
 */
export async function entryFrames(
  { path, facts }: { readonly path: string; readonly facts: MediaFacts },
  rate: FrameRate,
  shape: PictureShape,
): Promise<EntryFrames | undefined> {
  const { video } = facts;
  if (!video || !mayBeCopied(facts)) return undefined;
  const own = parseRate(video.rate);
  if (own.num * rate.den !== rate.num * own.den) return undefined;
  const entries = 'stream=pix_fmt,field_order,width,height:stream_side_data=rotation:format=start_time';
  const found = probed.safeParse(await ffprobe(path, ['-select_streams', String(video.index), '-show_entries', entries]));
  if (!found.success) return undefined;
  const { streams, format } = found.data;
  const [stream] = streams as [(typeof streams)[number]];
  const isTurned = stream.side_data_list?.some(({ rotation = 0 }) => rotation !== 0) ?? false;
  const isPlain = stream.pix_fmt === 'yuv420p' && ['progressive', 'unknown', undefined].includes(stream.field_order);
  if (isTurned || !isPlain || stream.width !== shape.width || stream.height !== shape.height) return undefined;
  const packets = await packetsOf(path, video.index);
  return (
    packets && entriesAmong(packets.map(({ at, isKey }) => ({ frame: ((at - format.start_time) * rate.num) / rate.den, isKey })))
  );
}

/** Three hours of sixty frames a second are ten megabytes of text. */
const MOST_BYTES = 100_000_000;

/** Times and kinds of all packets in the order of decoding; undefined where they cannot be read. */
async function packetsOf(path: string, index: number) {
  const options = ['-v', 'error', '-of', 'csv=p=0', '-select_streams', String(index), '-show_entries', 'packet=pts_time,flags'];
  const ended = await execa(...bounded('ffprobe', [...options, ...inputArguments(path)], BOUNDS_FOR_A_LOOK), {
    reject: false,
    maxBuffer: MOST_BYTES,
  });
  if (ended.exitCode !== 0) return undefined;
  return String(ended.stdout)
    .split('\n')
    .filter((line) => line !== '')
    .map((line) => {
      const [at, flags = ''] = line.split(',');
      return { at: Number.parseFloat(at ?? ''), isKey: flags.includes('K') };
    });
}

/**
 * Entries among packets in the order in which they are decoded: key frames before which all that is shown before them has been decoded, so
 * that neither side needs anything of the other.
 * @returns undefined where frames are missing or come at uneven steps
 */
export function entriesAmong(packets: readonly { readonly frame: number; readonly isKey: boolean }[]): EntryFrames | undefined {
  const seen = new Uint8Array(packets.length);
  const entries: number[] = [];
  let latest = -1;
  for (const [k, { frame, isKey }] of packets.entries()) {
    const at = Math.round(frame);
    if (!(Math.abs(frame - at) <= SLACK) || at < 0 || at >= packets.length || seen[at]) return undefined;
    seen[at] = 1;
    if (isKey && at === k && latest === k - 1) entries.push(at);
    latest = Math.max(latest, at);
  }
  return [...entries, packets.length];
}

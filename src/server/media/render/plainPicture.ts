import type { RenderChoices } from '@/core/render/choices.ts';
import type { PicturePlan } from '@/core/render/picturePlan.ts';
import { formatRate } from '@/core/time/rate.ts';
import { encodedAs } from './encoders.ts';
import { bringLetters, burning, standing } from './letters.ts';
import { shapeFor } from './pictureShape.ts';

const COLOURS = { paper: '0x1d1a16', ink: '0xe8dcc0' } as const;
/** Letters are about this much less wide than high. */
const NARROW = 1.7;

interface Shown {
  readonly title: string;
  readonly plan: Pick<PicturePlan, 'rate'>;
  readonly choices: RenderChoices;
  /** SubRip */
  readonly captions: string;
}

/**
 * The title, and the sound as it goes by, for what has no picture of its own.
 * @returns what becomes of the sound behind its filters, and how the picture that comes of it is written
 */
export async function plainPicture({ title, plan, choices, captions }: Shown, work: string, bitsPerSecond: number | undefined) {
  const { width, height } = await shapeFor(undefined, choices.size);
  const burnt = choices.captions === 'burnt in' ? captions : '';
  await bringLetters(work, burnt);
  const rate = formatRate(plan.rate);
  const wave = `showwaves=s=${width}x${2 * Math.round(height / 6)}:mode=cline:scale=cbrt:draw=full:rate=${rate}:colors=${COLOURS.ink}`;
  const size = Math.max(height / 24, Math.min(height / 16, (NARROW * width) / Math.max(10, title.length)));
  const line = await standing({ text: title, width, height, size, middle: height / 6, colour: COLOURS.ink.slice(2) }, work);
  const written = burning(choices, burnt);
  const drawn = ['overlay=x=0:y=(H-h)/2:shortest=1', line, ...(written === undefined ? [] : [written]), 'format=yuv420p'];
  const graph = [
    ',asplit[sound][heard]',
    `[heard]${wave}[wave]`,
    `color=${COLOURS.paper}:s=${width}x${height}:r=${rate}[paper]`,
    `[paper][wave]${drawn.join(',')}[picture]`,
  ];
  return { graph: graph.join(';'), outputs: ['-map', '[picture]', ...encodedAs(choices, bitsPerSecond)] };
}

import type { Seconds } from './range.ts';

declare const frameBrand: unique symbol;
/** A whole number of frames. Branded, so that seconds cannot be passed for frames. */
export type Frames = number & { readonly [frameBrand]: true };

/** An exact frame rate in frames per second: `num / den`, such as 30000/1001. */
export interface FrameRate {
  readonly num: number;
  readonly den: number;
}

export const frames = (count: number): Frames => {
  if (!Number.isSafeInteger(count)) throw new RangeError(`not a whole number of frames: ${count}`);
  // Adding zero turns −0, which rounding up gives, into 0.
  return (count + 0) as Frames;
};

/** Decimal rates people write for rates that are really n × 1000/1001. */
const DECIMAL_NTSC: readonly [decimal: number, num: number][] = [
  [23.976, 24000],
  [23.98, 24000],
  [29.97, 30000],
  [47.952, 48000],
  [59.94, 60000],
  [119.88, 120000],
];

/**
 * Reads `30000/1001`, `25/1`, `25` or a customary decimal such as `29.97`.
 * @throws RangeError when the text is no rate of 1 to 192,000 frames a second: a timeline of sound may count samples.
 */
export function parseRate(text: string): FrameRate {
  const match = /^(\d{1,9})(?:\/(\d{1,9}))?$/.exec(text.trim());
  let rate: FrameRate | undefined;
  if (match) rate = { num: Number(match[1]), den: Number(match[2] ?? 1) };
  else {
    const decimal = Number(text);
    const known = DECIMAL_NTSC.find(([value]) => Math.abs(value - decimal) < 0.006);
    if (known) rate = { num: known[1], den: 1001 };
    else if (text.trim() !== '' && Number.isFinite(decimal)) rate = { num: Math.round(decimal * 1000), den: 1000 };
  }
  if (!rate || rate.den <= 0 || !(rate.num / rate.den >= 1 && rate.num / rate.den <= 192_000))
    throw new RangeError(`not a frame rate: ${JSON.stringify(text)} (write 25, 30000/1001 or 29.97)`);
  return reduced(rate);
}

/** The rate that a text names, or another where it names none. */
export function parseRateOr(text: string, otherwise: FrameRate): FrameRate {
  try {
    return parseRate(text);
  } catch {
    return otherwise;
  }
}

/** A rate as footage says it, `num/den`, as people say it; it may be none that a timeline can have. */
export function spokenRatio(text: string): string {
  const [num = 0, den = 1] = text.split('/').map(Number);
  return spokenRate({ num, den });
}

export const formatRate = (rate: FrameRate): string => `${rate.num}/${rate.den}`;

/** The rate as people say it: `25`, `29.97`, `23.976`. */
export const spokenRate = (rate: FrameRate): string => String(Math.round((rate.num / rate.den) * 1000) / 1000);

/** Frames a second as timecode counts them: 30 for 30000/1001. */
export const nominalRate = (rate: FrameRate): number => Math.round(rate.num / rate.den);

/**
 * A millionth of a frame: less than any edge means, more than float64 loses in ten hours (about 1e-8 frames),
 * so that 0.12 s at 25 frames a second is 3 frames and not 4 by rounding up 3.0000000000000004.
 */
const FLOAT_SLACK = 1e-6;

/** The whole frame nearest to a moment. */
export const framesNear = (at: Seconds, rate: FrameRate): Frames => frames(Math.round((at * rate.num) / rate.den));

/** The last whole frame at or before a moment. */
export const framesDown = (at: Seconds, rate: FrameRate): Frames => frames(Math.floor((at * rate.num) / rate.den + FLOAT_SLACK));

/** The first whole frame at or after a moment. */
export const framesUp = (at: Seconds, rate: FrameRate): Frames => frames(Math.ceil((at * rate.num) / rate.den - FLOAT_SLACK));

export const framesToSeconds = (count: Frames, rate: FrameRate): Seconds => (count * rate.den) / rate.num;

function reduced({ num, den }: FrameRate): FrameRate {
  let [a, b] = [num, den];
  while (b) [a, b] = [b, a % b];
  return { num: num / a, den: den / a };
}

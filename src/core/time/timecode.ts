import { type FrameRate, type Frames, frames, nominalRate } from './rate.ts';

/** How frames are numbered: drop-frame skips numbers (never frames) so that the count keeps step with the clock. */
export type CountMode = 'drop' | 'nonDrop';

/** Drop-frame counting exists for 30000/1001 and its multiples only. */
export const canDrop = (rate: FrameRate): boolean => rate.den === 1001 && nominalRate(rate) % 30 === 0;

/**
 * Timecode label of a frame count since midnight; wraps at 24 hours. Drop-frame after SMPTE ST 12-1: two numbers
 * (four at 59.94) are left out at each minute that is not a multiple of ten.
 */
export function formatTimecode(count: Frames, rate: FrameRate, mode: CountMode = 'nonDrop'): string {
  const fps = nominalRate(rate);
  const dropping = mode === 'drop' && canDrop(rate);
  let number: number = count;
  const day = framesInDay(fps, dropping);
  number = ((number % day) + day) % day;
  if (dropping) {
    const drop = (fps / 30) * 2;
    const perMinute = fps * 60 - drop;
    const perTen = fps * 600 - drop * 9;
    const tens = Math.floor(number / perTen);
    const rest = number % perTen;
    number += drop * 9 * tens + (rest < fps * 60 ? 0 : drop * (1 + Math.floor((rest - fps * 60) / perMinute)));
  }
  const two = (value: number) => String(value).padStart(2, '0');
  const seconds = Math.floor(number / fps);
  const clock = `${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}`;
  return `${clock}${dropping ? ';' : ':'}${two(number % fps)}`;
}

/**
 * Frame count since midnight of a timecode label; a `;` or `.` before the frames means drop-frame.
 * @throws RangeError for text that is no timecode at this rate, dropped numbers included.
 */
export function parseTimecode(text: string, rate: FrameRate): { count: Frames; mode: CountMode } {
  const match = /^(\d{2}):(\d{2}):(\d{2})([:;.])(\d{2,6})$/.exec(text.trim());
  const fps = nominalRate(rate);
  const [h, m, s, f] = match ? [match[1], match[2], match[3], match[5]].map(Number) : [];
  if (h === undefined || m === undefined || s === undefined || f === undefined || h > 23 || m > 59 || s > 59 || f >= fps)
    throw new RangeError(`not a timecode at ${fps} frames a second: ${JSON.stringify(text)}`);
  const dropping = match?.[4] !== ':' && canDrop(rate);
  let count = (h * 3600 + m * 60 + s) * fps + f;
  if (dropping) {
    const drop = (fps / 30) * 2;
    if (s === 0 && m % 10 !== 0 && f < drop)
      throw new RangeError(`${text} is one of the numbers that drop-frame counting leaves out`);
    const minutes = h * 60 + m;
    count -= drop * (minutes - Math.floor(minutes / 10));
  }
  return { count: frames(count), mode: dropping ? 'drop' : 'nonDrop' };
}

/** Frames that are counted from midnight to midnight. */
export const dayOf = (rate: FrameRate, mode: CountMode): number =>
  framesInDay(nominalRate(rate), mode === 'drop' && canDrop(rate));

function framesInDay(fps: number, dropping: boolean): number {
  return fps * 86400 - (dropping ? (fps / 30) * 2 * 9 * 144 : 0);
}

/** Rates at which a label may have been counted whose frame number is too high for another rate. */
const COUNTED_AT = [24, 25, 30, 48, 50, 60, 100, 120];

/** The moment that a label of another, faster count names, in frames of this rate. Undefined for text that is no label. */
export function nominalTimecode(text: string, rate: FrameRate): { count: Frames; mode: CountMode } | undefined {
  const match = /^(\d{2}):(\d{2}):(\d{2})[:;.](\d{2,3})$/.exec(text.trim());
  if (!match) return undefined;
  const [h = 0, m = 0, s = 0, f = 0] = match.slice(1).map(Number);
  const counted = COUNTED_AT.find((count) => count > f);
  if (h > 23 || m > 59 || s > 59 || counted === undefined) return undefined;
  const fps = nominalRate(rate);
  return { count: frames((h * 3600 + m * 60 + s) * fps + Math.min(fps - 1, Math.floor((f * fps) / counted))), mode: 'nonDrop' };
}

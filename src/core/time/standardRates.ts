import { type FrameRate, formatRate, parseRate } from './rate.ts';

/** Rates that pictures are delivered at. */
const DELIVERED: readonly FrameRate[] = [
  { num: 24000, den: 1001 },
  { num: 24, den: 1 },
  { num: 25, den: 1 },
  { num: 30000, den: 1001 },
  { num: 30, den: 1 },
  { num: 48, den: 1 },
  { num: 50, den: 1 },
  { num: 60000, den: 1001 },
  { num: 60, den: 1 },
  { num: 100, den: 1 },
  { num: 120000, den: 1001 },
  { num: 120, den: 1 },
];

/** How far a container's rounding moves a rate at most: less than half of what parts 59.94 from 60. */
const ROUNDING = 0.0004;

/** A whole number of frames a second, or a whole number × 1000/1001: what timecode can count. */
const isCountable = ({ num, den }: FrameRate): boolean => den === 1 || (den === 1001 && num % 1000 === 0);

/** A rate as it is used, and the rate that the footage says where that is another. */
export interface StandardRate {
  readonly rate: FrameRate;
  /** footage is conformed: its own rate is no standard one, or its frames come at uneven steps */
  readonly conformedFrom: string | undefined;
}

/**
 * The standard rate that footage is counted at. A rate that a container has rounded means the standard rate next to it; footage of
 * uneven steps, or of a rate that cannot be counted, is conformed to the nearest.
 * @param text `num/den` as the file says it; of variable footage, its average
 */
export function standardRateOf(text: string, variable: boolean): StandardRate {
  const own = ownRateOf(text);
  const speed = own.num / own.den;
  if (variable) return { rate: nearest(DELIVERED, speed), conformedFrom: formatRate(own) };
  if (isCountable(own)) return { rate: own, conformedFrom: undefined };
  const whole = Math.max(2, Math.round(speed));
  const meant = nearest([...DELIVERED, { num: whole, den: 1 }, parseRate(`${whole * 1000}/1001`)], speed);
  if (Math.abs(speed / (meant.num / meant.den) - 1) <= ROUNDING) return { rate: meant, conformedFrom: undefined };
  return { rate: nearest(DELIVERED, speed), conformedFrom: formatRate(own) };
}

/** Older measures may hold a rate that nothing counts at. */
function ownRateOf(text: string): FrameRate {
  try {
    return parseRate(text);
  } catch {
    const [num = 0, den = 1] = text.split('/').map(Number);
    return num > 0 && den > 0 ? { num, den } : { num: 25, den: 1 };
  }
}

const nearest = (rates: readonly FrameRate[], speed: number): FrameRate =>
  rates.reduce((best, rate) => (distance(rate, speed) < distance(best, speed) ? rate : best));

const distance = ({ num, den }: FrameRate, speed: number): number => Math.abs(Math.log(num / den / speed));

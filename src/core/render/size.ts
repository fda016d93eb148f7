import type { Seconds } from '../time/range.ts';
import { isCopied, isOfPicture, type RenderChoices } from './choices.ts';

/** Bits a second of sound, as a bound from above. */
const SOUND_BITS: Readonly<Record<RenderChoices['format'], number>> = {
  wav: 1_536_000,
  flac: 1_000_000,
  mp3: 245_000,
  m4a: 200_000,
  opus: 140_000,
  mp4: 200_000,
  webm: 140_000,
  mkv: 200_000,
  av1: 140_000,
};

/** Bits a second of 1080 lines with much that moves. */
const PICTURE_BITS: Readonly<Record<RenderChoices['quality'], number>> = { fine: 16e6, usual: 10e6, small: 4e6 };
const POINTS = 1920 * 1080;

/**
 * Bytes that a rendered file may come to, rather too many than too few.
 * @param points of its picture
 */
export function bytesExpected(choices: RenderChoices, length: Seconds, points = POINTS): number {
  const { format, megabytes } = choices;
  const quality = isCopied(choices) ? 'fine' : choices.quality;
  if (!isOfPicture(format)) return (length * SOUND_BITS[format]) / 8;
  if (megabytes !== null) return 1.1e6 * megabytes;
  return (length * (SOUND_BITS[format] + PICTURE_BITS[quality] * Math.max(0.1, points / POINTS))) / 8;
}

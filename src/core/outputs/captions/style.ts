import * as z from 'zod/mini';

export const LETTER_CASES = ['as written', 'upper', 'lower', 'sentence'] as const;

/** How captions are shaped. */
export const captionStyle = z.object({
  /** letters that a line holds at most */
  letters: z._default(z.int().check(z.minimum(8), z.maximum(100)), 42),
  lines: z._default(z.int().check(z.minimum(1), z.maximum(4)), 2),
  /** words that a caption holds at most, for short clips; nought for as many as fit */
  words: z._default(z.int().check(z.minimum(0), z.maximum(8)), 0),
  letterCase: z._default(z.enum(LETTER_CASES), 'as written'),
  /** seconds that a caption is on screen at least, where the next one lets it */
  least: z._default(z.number().check(z.minimum(0), z.maximum(10)), 1),
  /** seconds at most */
  most: z._default(z.number().check(z.minimum(1), z.maximum(30)), 6),
  /** letters a second that can be read */
  speed: z._default(z.number().check(z.minimum(5), z.maximum(60)), 18),
  /** seconds: a gap to the next caption that is shorter is closed */
  closeGap: z._default(z.number().check(z.minimum(0), z.maximum(5)), 0.4),
  /** names of speakers where they change */
  speakers: z._default(z.boolean(), true),
});
export type CaptionStyle = z.infer<typeof captionStyle>;

export const DEFAULT_STYLE: CaptionStyle = captionStyle.parse({});

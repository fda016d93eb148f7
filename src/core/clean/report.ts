import * as z from 'zod/mini';
import { loudness } from './loudness.ts';

const decibels = z.number();

const bands = z.object({ noise: z.array(decibels), speech: z.array(decibels) });

/** What was found in a track, and what was done. */
const trackReport = z.object({
  /** of its quietest stretches, under full scale */
  noise: decibels,
  /** of what is loud */
  speech: decibels,
  /** frequencies of hum, in hertz */
  hum: z.array(z.number()),
  /** how many were made softer */
  breaths: z.optional(z.number()),
  /** by which it was made as loud as the others */
  gain: decibels,
  after: z.nullable(loudness),
  /** in each of `BANDS`, of what is quiet and of what is loud, before and after */
  bands: z.optional(z.object({ before: bands, after: bands })),
});
export type TrackReport = z.infer<typeof trackReport>;

/** What was found in a recording, and what became of it; loudness is that of all tracks together. */
export const cleaningReport = z.object({
  tracks: z.array(trackReport),
  before: z.nullable(loudness),
  after: z.nullable(loudness),
});
export type CleaningReport = z.infer<typeof cleaningReport>;

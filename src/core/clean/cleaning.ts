import * as z from 'zod/mini';

export const NOISE_STEPS = ['off', 'some', 'much'] as const;
export type NoiseStep = (typeof NOISE_STEPS)[number];

/** dB by which breaths are made softer. */
export const SOFTER_BREATHS: Readonly<Record<NoiseStep, number>> = { off: 0, some: 8, much: 16 };

/** What is cleaned of recorded sound. */
export const cleaning = z.object({
  /** what lies below voices: steps, traffic, a knocked table */
  rumble: z._default(z.boolean(), true),
  /** of the mains and its harmonics, where it is found */
  hum: z._default(z.boolean(), true),
  noise: z._default(z.enum(NOISE_STEPS), 'some'),
  clicks: z._default(z.boolean(), false),
  /** breaths between words are heard softer, not cut */
  breaths: z._default(z.enum(NOISE_STEPS), 'off'),
  sibilance: z._default(z.boolean(), false),
  /** tracks are brought to one loudness */
  evened: z._default(z.boolean(), true),
  /** what is said between two pauses is brought to one loudness too */
  lines: z._default(z.boolean(), false),
});
export type Cleaning = z.infer<typeof cleaning>;

export const USUAL_CLEANING: Cleaning = cleaning.parse({});

import * as z from 'zod/mini';

export const NOISE_STEPS = ['off', 'some', 'much'] as const;
export type NoiseStep = (typeof NOISE_STEPS)[number];

/** What is cleaned of recorded sound. */
export const cleaning = z.object({
  /** what lies below voices: steps, traffic, a knocked table */
  rumble: z._default(z.boolean(), true),
  /** of the mains and its harmonics, where it is found */
  hum: z._default(z.boolean(), true),
  noise: z._default(z.enum(NOISE_STEPS), 'some'),
  clicks: z._default(z.boolean(), false),
  sibilance: z._default(z.boolean(), false),
  /** tracks are brought to one loudness */
  evened: z._default(z.boolean(), true),
  /** what is said between two pauses is brought to one loudness too */
  lines: z._default(z.boolean(), false),
});
export type Cleaning = z.infer<typeof cleaning>;

export const USUAL_CLEANING: Cleaning = cleaning.parse({});

import * as z from 'zod/mini';

/** How loud something is (EBU R 128). */
export const loudness = z.object({
  /** LUFS over all of it */
  integrated: z.number(),
  /** LU between its soft and its loud stretches */
  range: z.number(),
  /** dB under full scale of the highest peak, between samples too */
  truePeak: z.number(),
});
export type Loudness = z.infer<typeof loudness>;

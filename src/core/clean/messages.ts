import * as z from 'zod/mini';
import { cleaningReport } from './report.ts';

/** The sound of an episode's recordings, as far as it is cleaned as it was chosen. */
export const cleanedList = z.object({
  /** names what was chosen */
  key: z.string(),
  recordings: z.array(z.object({ mediaId: z.string(), fileName: z.string(), report: z.nullable(cleaningReport) })),
});
export type CleanedList = z.infer<typeof cleanedList>;

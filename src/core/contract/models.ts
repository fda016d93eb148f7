import * as z from 'zod/mini';

/** What is done one after another when a model is added. */
export const ADDING_STEPS = ['fetching', 'unpacking', 'trying it'] as const;
export type AddingStep = (typeof ADDING_STEPS)[number];

/** Who speaks when is told by two models: one parts a few seconds by who speaks, the other compares voices. */
export const SPEAKER_KINDS = ['speaker segmentation', 'speaker embedding'] as const;

/** Of a hundred words how many a model hears right. @param wrong share that it heard wrong */
export const rightIn100 = (wrong: number): number => Math.round(100 * Math.max(0, 1 - wrong));

/** Models that recognise speech or tell speakers apart, and the one that is being added. */
export const modelList = z.object({
  models: z.array(
    z.object({
      name: z.string(),
      kind: z.string(),
      languages: z.array(z.string()),
      bytes: z.number(),
      /** seconds that a second of speech took on one core of the server */
      pace: z.number(),
      /** share of the words of shipped English speech that it heard wrong; null where it tells speakers apart */
      wrong: z.nullable(z.number()),
      /** whether it tells when each word was said */
      tokenTimes: z.boolean(),
    }),
  ),
  /** bytes of room on the disk that they lie on */
  room: z.number(),
  adding: z.nullable(
    z.object({
      source: z.string(),
      step: z.enum(ADDING_STEPS),
      /** 0..1, where it is known */
      share: z.nullable(z.number()),
      /** why it was not added; null while it goes on */
      problem: z.nullable(z.string()),
    }),
  ),
});
export type ModelList = z.infer<typeof modelList>;

const asked = {
  languages: z
    .array(z.string().check(z.regex(/^[a-zA-Z]{2,3}(-[a-zA-Z0-9]{1,8})*$/, 'A language is written as en or pt-BR is.')))
    .check(z.maxLength(50)),
  /** SHA-256 that its archive must have */
  digest: z.optional(z.string().check(z.regex(/^[0-9a-fA-F]{64}$/))),
};

/** A model to be added: where it is fetched from, or the upload that brought it. */
export const askModel = z.union([
  z.object({ ...asked, address: z.string().check(z.trim(), z.url({ protocol: /^https?$/ }), z.maxLength(2000)) }),
  z.object({ ...asked, upload: z.string().check(z.regex(/^[0-9a-f]{32}$/)) }),
]);
export type AskModel = z.infer<typeof askModel>;

import { resolve } from 'node:path';
import { z } from 'zod';

const schema = z.object({
  HOST: z.string().default('127.0.0.1'),
  PORT: z.coerce.number().int().min(1).max(65535).default(4620),
  DATABASE_URL: z.url({ protocol: /^postgres(ql)?$/ }).default('postgresql://postgres@127.0.0.1:5432/zetemis'),
  /** uploads, media and curves */
  ZETEMIS_DATA_DIR: z.string().min(1).default('var/data'),
  /** a folder whose files can be used where they are */
  ZETEMIS_MEDIA_DIR: z.string().min(1).optional(),
  /** names besides the loopback ones under which browsers may reach the server, with port, separated by commas */
  ZETEMIS_HOSTS: z.string().default(''),
  ZETEMIS_MAX_UPLOAD: z.coerce.number().int().positive().default(200_000_000_000),
  /** bytes of decoded sound that are kept on the disk */
  ZETEMIS_SOUND_CACHE: z.coerce.number().int().nonnegative().default(1_000_000_000),
  /** address of a recogniser service, and the key it wants */
  ZETEMIS_RECOGNISER_URL: z.url({ protocol: /^https?$/ }).optional(),
  ZETEMIS_RECOGNISER_KEY: z.string().min(1).optional(),
  /** how it is asked, found out unless it is set, and the model that it is to use */
  ZETEMIS_RECOGNISER_FORM: z.enum(['own', 'transcriptions']).optional(),
  ZETEMIS_RECOGNISER_MODEL: z.string().min(1).max(200).optional(),
  /** the recogniser that stands in for a service: milliseconds before each answer, and every so many requests that fail */
  ZETEMIS_STAND_IN_DELAY: z.coerce.number().int().min(0).max(60_000).default(0),
  ZETEMIS_STAND_IN_FAILS: z.coerce.number().int().min(0).default(0),
  LOG_LEVEL: z.enum(['fatal', 'error', 'warn', 'info', 'debug', 'trace', 'silent']).default('info'),
});

/** Configuration from the environment. @throws Error naming each variable that is wrong */
export function readConfig(env: NodeJS.ProcessEnv) {
  const parsed = schema.safeParse(env);
  if (!parsed.success) throw new Error(`The configuration is wrong.\n${z.prettifyError(parsed.error)}`);
  const { ZETEMIS_DATA_DIR, ZETEMIS_MEDIA_DIR, ...rest } = parsed.data;
  return {
    ...rest,
    dataDir: resolve(ZETEMIS_DATA_DIR),
    mediaDir: ZETEMIS_MEDIA_DIR ? resolve(ZETEMIS_MEDIA_DIR) : undefined,
    hosts: parsed.data.ZETEMIS_HOSTS.split(',')
      .map((host) => host.trim())
      .filter(Boolean),
  };
}

export type Config = ReturnType<typeof readConfig>;

export const config: Config = readConfig(process.env);

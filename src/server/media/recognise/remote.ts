import { openAsBlob } from 'node:fs';
import { Readable } from 'node:stream';
import type { ReadableStream as WebStream } from 'node:stream/web';
import { setTimeout as sleep } from 'node:timers/promises';
import { z } from 'zod';
import { type RecognisedWord, type Recogniser, RecogniserError, recognisedWord, type SoundPart } from './recogniser.ts';

const TIMEOUT_MS = 120_000;
const TRIES = 3;
const FIRST_WAIT_MS = 300;
const MOST_ANSWER_BYTES = 20_000_000;

/** What a service answers: segments with their words, times in seconds from the start of the part. */
const answerSchema = z.object({
  language: z.string().optional(),
  segments: z
    .array(
      z.object({
        speaker: z.string().max(100).optional(),
        words: z.array(recognisedWord).max(100_000),
      }),
    )
    .max(100_000),
});

export interface RemoteOptions {
  readonly url: string | undefined;
  /** sent as a bearer token, and never logged */
  readonly key: string | undefined;
  readonly timeoutMs?: number;
}

/**
 * A service at an address of one's own. A part is posted as `multipart/form-data` with the fields `audio` (WAV, 16 kHz,
 * one channel), `language`, `recording` and `offset`; see docs/words.md for the answer.
 */
export const remoteAt = ({ url, key, timeoutMs = TIMEOUT_MS }: RemoteOptions): Recogniser => ({
  id: 'remote',
  label: 'A service',
  parallel: 2,
  state: async () => ({
    help: url ? `Sends the sound to ${new URL(url).host}.` : 'Sends the sound to an address set by ZETEMIS_RECOGNISER_URL.',
    languages: ['en', 'de', 'fr', 'es', 'it', 'nl', 'pt', 'pl', 'sv', 'da', 'nb', 'fi', 'cs', 'uk', 'ja', 'zh', 'ko'],
    unavailable: url ? undefined : 'No service is set: start with ZETEMIS_RECOGNISER_URL.',
  }),
  recognise: (part, language, signal) => ask(url ?? '', key, part, language, timeoutMs, signal),
});

async function ask(
  url: string,
  key: string | undefined,
  part: SoundPart,
  language: string,
  timeoutMs: number,
  signal: AbortSignal | undefined,
): Promise<RecognisedWord[]> {
  for (let attempt = 1; ; attempt++) {
    try {
      return await askOnce(
        url,
        key,
        part,
        language,
        AbortSignal.any([AbortSignal.timeout(timeoutMs), ...(signal ? [signal] : [])]),
      );
    } catch (error) {
      if (signal?.aborted) throw new DOMException('recognising was cancelled', 'AbortError');
      const problem = error instanceof RecogniserError ? error : new RecogniserError(unreachable(error as Error), true);
      if (!problem.again || attempt >= TRIES) throw problem;
      await sleep(FIRST_WAIT_MS * 3 ** (attempt - 1), undefined, signal ? { signal } : {});
    }
  }
}

const unreachable = (error: Error): string =>
  error.name === 'TimeoutError' ? 'The service did not answer in time.' : 'The service cannot be reached.';

async function askOnce(
  url: string,
  key: string | undefined,
  { path, recording, offset }: SoundPart,
  language: string,
  signal: AbortSignal,
): Promise<RecognisedWord[]> {
  const form = new FormData();
  form.set('audio', await openAsBlob(path, { type: 'audio/wav' }), 'part.wav');
  form.set('language', language);
  form.set('recording', recording);
  form.set('offset', String(offset));
  const answer = await fetch(url, {
    method: 'POST',
    body: form,
    signal,
    redirect: 'error',
    ...(key && { headers: { authorization: `Bearer ${key}` } }),
  });
  if (!answer.ok) {
    await answer.body?.cancel();
    throw new RecogniserError(`The service answered ${answer.status}.`, answer.status === 429 || answer.status >= 500);
  }
  const parsed = answerSchema.safeParse(parse(await readBounded(answer)));
  if (!parsed.success) throw new RecogniserError('The answer of the service does not have the agreed form.', false);
  return parsed.data.segments.flatMap(({ speaker, words }) =>
    words.map((word) => ({ ...word, ...(speaker && !word.speaker && { speaker }) })),
  );
}

async function readBounded(answer: Response): Promise<string> {
  if (!answer.body) return '';
  const chunks: Uint8Array[] = [];
  let bytes = 0;
  for await (const chunk of Readable.fromWeb(answer.body as WebStream)) {
    bytes += chunk.byteLength;
    if (bytes > MOST_ANSWER_BYTES) throw new RecogniserError('The answer of the service is far too long.', false);
    chunks.push(chunk);
  }
  return Buffer.concat(chunks).toString('utf8');
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

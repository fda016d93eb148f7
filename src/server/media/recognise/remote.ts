import { createHash } from 'node:crypto';
import { Readable } from 'node:stream';
import type { ReadableStream as WebStream } from 'node:stream/web';
import { setTimeout as sleep } from 'node:timers/promises';
import { COMMON_LANGUAGES, type RecognisedWord, type Recogniser, RecogniserError, type SoundPart } from './recogniser.ts';
import { formsFor, REMOTE_FORMS, type RemoteFormId } from './remoteForms.ts';

const TIMEOUT_MS = 120_000;
const TRIES = 3;
const FIRST_WAIT_MS = 300;
const MOST_ANSWER_BYTES = 20_000_000;

export interface RemoteOptions {
  readonly url: string | undefined;
  /** sent as a bearer token, and never logged */
  readonly key: string | undefined;
  /** how it is asked; found out where it is not set */
  readonly form?: RemoteFormId | undefined;
  /** the model that it is to use, where its form has such a field */
  readonly model?: string | undefined;
  readonly timeoutMs?: number;
}

/**
 * A service at an address of one's own, asked in one of two forms: our own (docs/words.md), or that of self-hosted transcription servers. Nothing but
 * that address is ever asked.
 */
export const remoteAt = (options: RemoteOptions): Recogniser => {
  const { url } = options;
  let found: RemoteFormId | undefined;
  return {
    id: 'remote',
    label: 'A service',
    parallel: 2,
    state: async () => ({
      help: url ? `Sends the sound to ${new URL(url).host}.` : 'Sends the sound to an address set by ZETEMIS_RECOGNISER_URL.',
      languages: COMMON_LANGUAGES,
      unavailable: url ? undefined : 'No service is set: start with ZETEMIS_RECOGNISER_URL.',
    }),
    variant: async () => createHash('sha256').update(`${url} ${options.model}`).digest('hex').slice(0, 12),
    async recognise(part, language, signal) {
      if (!url) throw new RecogniserError('No service is set.', false);
      const forms = found ? [found] : formsFor(url, options.form);
      for (const [k, id] of forms.entries()) {
        try {
          const words = await ask({ ...options, url }, id, part, language, signal);
          found = id;
          return words;
        } catch (error) {
          if (!(error instanceof OtherForm) || k + 1 === forms.length) throw error;
        }
      }
      return [];
    },
  };
};

type Asked = RemoteOptions & { readonly url: string };

/** The service does not know the form in which it was asked. */
class OtherForm extends RecogniserError {}

async function ask(
  options: Asked,
  form: RemoteFormId,
  part: SoundPart,
  language: string,
  signal: AbortSignal | undefined,
): Promise<RecognisedWord[]> {
  const { timeoutMs = TIMEOUT_MS } = options;
  for (let attempt = 1; ; attempt++) {
    try {
      const stopping = AbortSignal.any([AbortSignal.timeout(timeoutMs), ...(signal ? [signal] : [])]);
      return await askOnce(options, form, part, language, stopping);
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

/** Answers of a service that does not find in a form what it needs. */
const NOT_UNDERSTOOD: readonly number[] = [400, 404, 405, 415, 422];

async function askOnce(
  { url, key, model = 'default' }: Asked,
  form: RemoteFormId,
  part: SoundPart,
  language: string,
  signal: AbortSignal,
): Promise<RecognisedWord[]> {
  const { ask, read } = REMOTE_FORMS[form];
  const answer = await fetch(url, {
    method: 'POST',
    body: await ask(part, language, model),
    signal,
    redirect: 'error',
    ...(key && { headers: { authorization: `Bearer ${key}` } }),
  });
  if (!answer.ok) {
    await answer.body?.cancel();
    const said = `The service answered ${answer.status}.`;
    if (NOT_UNDERSTOOD.includes(answer.status)) throw new OtherForm(said, false);
    throw new RecogniserError(said, answer.status === 429 || answer.status >= 500);
  }
  const words = read(parse(await readBounded(answer)));
  if (!words) throw new OtherForm('The answer of the service does not have the agreed form.', false);
  return words;
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

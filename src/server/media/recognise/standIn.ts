import { readFileSync } from 'node:fs';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { basename, extname, join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import type { Word } from '@/core/transcript/word.ts';
import { type Recogniser, RecogniserError } from './recogniser.ts';
import { remoteAt } from './remote.ts';

export interface StandInOptions {
  /** folder with `NAME.words.json` for each recording that it knows */
  readonly folder: string;
  /** milliseconds before each answer */
  readonly delay?: number;
  /** every so many requests fail once with 503; 0 for none */
  readonly failEvery?: number;
}

const MOST_BYTES = 50_000_000;

/**
 * A small service that ships with the program and answers as a real one would, from the words of the demo: it looks up
 * what is said in the part that it is sent. It is asked over HTTP by the same code as a real one.
 */
export async function startStandIn(options: StandInOptions): Promise<{ url: string; server: Server }> {
  let requests = 0;
  const server = createServer((request, response) => {
    requests++;
    const fails = (options.failEvery ?? 0) > 0 && requests % (options.failEvery as number) === 0;
    void answer(request, response, options, fails).catch(() => response.writeHead(400).end());
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  server.unref();
  return { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}/recognise`, server };
}

async function answer(request: IncomingMessage, response: ServerResponse, { folder, delay = 0 }: StandInOptions, fails: boolean) {
  const chunks: Buffer[] = [];
  let bytes = 0;
  for await (const chunk of request) {
    bytes += (chunk as Buffer).length;
    if (bytes > MOST_BYTES) return response.writeHead(413).end();
    chunks.push(chunk as Buffer);
  }
  await sleep(delay);
  if (fails) return response.writeHead(503).end();
  const form = await new Response(Buffer.concat(chunks), {
    headers: { 'content-type': request.headers['content-type'] ?? '' },
  }).formData();
  const isOwn = !TRANSCRIPTIONS.test(request.url ?? '');
  const audio = form.get(isOwn ? 'audio' : 'file');
  if (!(audio instanceof File)) return response.writeHead(422).end();
  // A service knows no recordings; in the form without a field for it, the name of the file says which, and where in it.
  const [, named = '', at = ''] = /^(.*)_([\d.]+)\.wav$/.exec(audio.name) ?? [];
  const words = knownWords(folder, isOwn ? String(form.get('recording')) : `${named}.wav`);
  if (!words) return response.writeHead(422).end();
  const from = Number(isOwn ? form.get('offset') : at);
  // 16 kHz, two bytes a sample, behind a header of 44.
  const to = from + (audio.size - 44) / 32_000;
  const inside = words.filter(({ start, end }) => (start + end) / 2 >= from && (start + end) / 2 < to);
  const timed = inside.map((word) => ({ ...word, start: Math.max(0, word.start - from), end: Math.max(0, word.end - from) }));
  const language = form.get('language');
  const told = isOwn
    ? { language, segments: ownSegments(timed) }
    : { task: 'transcribe', language, ...verbose(timed, to - from) };
  return response.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify(told));
}

/** Where the widely used form is asked for. */
const TRANSCRIPTIONS = /\/v1\/audio\/transcriptions$/;

const ownSegments = (words: readonly Word[]) =>
  words.map(({ text, start, end, confidence, speaker }) => ({
    ...(speaker && { speaker }),
    words: [{ text, start, end, confidence }],
  }));

const verbose = (words: readonly Word[], duration: number) => {
  const text = words.map((word) => word.text).join(' ');
  const [start, end] = [words[0]?.start ?? 0, words.at(-1)?.end ?? 0];
  return {
    duration,
    text,
    words: words.map(({ text, start, end }) => ({ word: text, start, end })),
    segments: words.length > 0 ? [{ id: 0, start, end, text, avg_logprob: -0.1 }] : [],
  };
};

function knownWords(folder: string, recording: string): readonly Word[] | undefined {
  // Only the name counts: what comes over the wire must not choose a file elsewhere.
  const name = basename(recording, extname(recording));
  if (!/^[\w -]+$/.test(name)) return undefined;
  try {
    return (JSON.parse(readFileSync(join(folder, `${name}.words.json`), 'utf8')) as { words: Word[] }).words;
  } catch {
    return undefined;
  }
}

/** The stand-in as a recogniser; its service is started when it is first asked. */
export function standInWith(options: StandInOptions): Recogniser {
  let started: ReturnType<typeof startStandIn> | undefined;
  return {
    id: 'stand-in',
    label: 'Stand-in',
    parallel: 2,
    state: async () => ({ help: 'Answers like a service, from the words of the demo; for trying out.', languages: ['en'] }),
    async recognise(part, language, signal) {
      if (!knownWords(options.folder, part.recording))
        throw new RecogniserError('The stand-in knows the demo recordings alone.', false);
      started ??= startStandIn(options);
      return remoteAt({ url: (await started).url, key: undefined }).recognise(part, language, signal);
    },
  };
}

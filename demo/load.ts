import { readFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { created, shelf } from '@/core/contract/messages.ts';

const MEDIA = join(import.meta.dirname, 'media');

const EPISODES = [
  { file: 'fog-and-birds.mka', words: 'fog-and-birds.words.json', title: 'The Lamp Room: fog and birds' },
  { file: 'carriage-clock.mp4', words: 'carriage-clock.words.json', title: 'Quill & Verge: the carriage clock' },
] as const;

/**
 * Puts the demo episodes on the shelf by the same requests that a browser makes; those already there are left alone.
 * @param token for a server that has a passphrase
 */
export async function loadDemo(address: string, say: (line: string) => void = () => {}, token?: string): Promise<void> {
  const ask = askWith(token);
  const present = new Set((await readShelf(ask, address)).episodes.map((episode) => episode.fileName));
  for (const { file, words, title } of EPISODES) {
    if (present.has(file)) continue;
    say(`putting “${title}” on the shelf`);
    const id = await bring(ask, address, join(MEDIA, file));
    const send = (path: string, method: string, body: unknown) =>
      ask(`${address}/api/episodes/${id}${path}`, {
        method,
        body: JSON.stringify(body),
        headers: { 'content-type': 'application/json' },
      });
    await send('', 'PATCH', { title });
    await send('/words', 'PUT', { text: await readFile(join(MEDIA, words), 'utf8') });
  }
  while ((await readShelf(ask, address)).episodes.some((episode) => !episode.measured && episode.jobs.some(isUnderWay)))
    await sleep(200);
}

const isUnderWay = (job: { state: string }) => job.state === 'queued' || job.state === 'running';

const readShelf = async (ask: Ask, address: string) => shelf.parse(await (await ask(`${address}/api/episodes`)).json());

/** Uploads a file by the tus protocol in one go and makes an episode of it. */
async function bring(ask: Ask, address: string, path: string): Promise<string> {
  const bytes = await readFile(path);
  const tus = { 'tus-resumable': '1.0.0' };
  const opened = await ask(`${address}/api/uploads`, {
    method: 'POST',
    headers: {
      ...tus,
      'upload-length': String(bytes.length),
      'upload-metadata': `filename ${Buffer.from(basename(path)).toString('base64')}`,
    },
  });
  const place = new URL(opened.headers.get('location') ?? '', address);
  await ask(place.href, {
    method: 'PATCH',
    headers: { ...tus, 'upload-offset': '0', 'content-type': 'application/offset+octet-stream' },
    body: new Uint8Array(bytes),
  });
  const answer = await ask(`${address}/api/episodes`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ from: 'upload', upload: basename(place.pathname) }),
  });
  return created.parse(await answer.json()).id;
}

type Ask = (url: string, options?: RequestInit) => Promise<Response>;

/** Requests that show a token, where the server wants one. */
const askWith =
  (token: string | undefined): Ask =>
  async (url, options) => {
    const headers = { ...options?.headers, ...(token && { authorization: `Bearer ${token}` }) };
    const answer = await fetch(url, { ...options, headers });
    if (!answer.ok) throw new Error(`${options?.method ?? 'GET'} ${url}: ${answer.status} ${await answer.text()}`);
    return answer;
  };

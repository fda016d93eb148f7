import { randomUUID } from 'node:crypto';
import { request } from 'node:http';
import { XML_ROOT } from '@/core/outputs/timelines/xmlText.ts';

/** A request as an attacker, or a broken program, makes it. */
export interface HostileRequest {
  readonly method: string;
  readonly path: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly body?: string | Uint8Array;
}

/** Numbers that are the same in each run (Park and Miller 1988). */
export function numbers(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state * 48_271) % 2_147_483_647;
    return state / 2_147_483_647;
  };
}

const TEXTS = [
  ...['', ' ', '0', '-1', '1e309', 'NaN', 'null', 'true', '[]', '{}', '\0', 'a\0b', '\ud800', '\udfff\ud800', '\u202egnp', '%00'],
  ...[
    '../../../../etc/passwd',
    '..%2f..%2fetc%2fpasswd',
    'C:\\windows',
    '/proc/self/environ',
    'file:///etc/passwd',
    'http://127.0.0.1:1/',
  ],
  ...[
    "'; drop table episodes; --",
    '" or 1=1',
    '$(id)',
    '`id`',
    '{{7*7}}',
    '<script>alert(1)</script>',
    '__proto__',
    'constructor',
  ],
  ...['ÿ', '🕰️', 'e\u0301'.repeat(50), 'a'.repeat(3000), '1/0', '0/1', '1/999999999', '999999999/1', '0.1', '1e-9', '30000/1001 '],
];
const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'HEAD', 'OPTIONS', 'TRACE', 'PROPFIND'];
const HOSTS = ['evil.example', 'localhost', '127.0.0.1', '[::1]:1', '169.254.169.254', ''];

/** Requests against everything the server answers, about an episode and a medium that are there and others that are not. */
export function hostileRequests(
  count: number,
  seed: number,
  about: { readonly episode: string; readonly media: string; readonly host: string },
): HostileRequest[] {
  const next = numbers(seed);
  const pick = <T>(from: readonly T[]): T => from[Math.floor(next() * from.length)] as T;
  const text = () => pick(TEXTS);
  const inPath = () => encodeURIComponent(text().replace(/\p{Surrogate}/gu, '\ufffd'));
  const id = () => pick([about.episode, randomUUID(), inPath(), about.media]);
  const paths = [
    () => `/api/episodes/${id()}`,
    () =>
      `/api/episodes/${id()}/${pick(['decisions', 'words', 'recordings', 'recognise', 'retry', 'restore', 'replacement', 'archive', 'handoff', 'edited'])}`,
    () =>
      `/api/episodes/${id()}/handoff-archive?formats=${pick(['xml,vtt', inPath()])}&by=${pick(['parts', 'ranges', inPath()])}`,
    () => `/api/episodes/${id()}/edited?format=${pick(['vtt', inPath()])}`,
    () => `/api/episodes/${id()}/decisions?after=${inPath()}`,
    () =>
      `/api/episodes/${id()}/handoff?range=${inPath()}&format=${pick(['edl', 'xml', 'vtt', 'json', inPath()])}&file=${inPath()}`,
    () => `/api/episodes/${id()}/handoff?part=${inPath()}`,
    () => `/api/episodes/${id()}/transcript?format=${pick(['vtt', 'srt', inPath()])}&mask=${inPath()}`,
    () =>
      `/api/media/${pick([about.media, inPath()])}/${pick(['sound', 'picture', `curves/${inPath()}`, 'curves/level-0.ztcv'])}?part=${inPath()}`,
    () => `/api/uploads/${inPath()}`,
    () => `/api/jobs/${id()}/cancel`,
    () =>
      pick(['/api/sets', `/api/sets/${id()}`, '/api/masks', '/api/folder', '/api/recognisers', '/api/sign-in', '/api/episodes']),
    () => `/episodes/${id()}`,
    () =>
      pick([
        '/_image?href=/favicon.svg',
        '/_astro/../../package.json',
        '/%2e%2e/%2e%2e/etc/passwd',
        '/.env',
        '//etc/passwd',
        '/a%',
        '/%00',
      ]),
    () => `/${inPath()}`,
  ];
  const value = (depth = 0): unknown => {
    const kind = next();
    if (depth > 3 || kind < 0.4) return text();
    if (kind < 0.6) return pick([0, -1, 1e308, 1.5, null, true, Number.MAX_SAFE_INTEGER, []]);
    if (kind < 0.8) return Array.from({ length: Math.floor(next() * 4) }, () => value(depth + 1));
    return Object.fromEntries(Array.from({ length: Math.floor(next() * 4) }, () => [text(), value(depth + 1)]));
  };
  const event = () => ({
    id: pick([randomUUID(), text()]),
    type: pick(['cut', 'correct', 'speaker', 'takes', 'settings', 'move', 'undo', 'break', text()]),
    about: pick([{ start: 0, end: 1 }, { start: 1, end: 0 }, { start: -1, end: 1e9 }, [], value()]),
    changes: [{ about: { start: 0, end: 1 }, text: text() }],
    values: value(),
    to: text(),
    title: text(),
    target: text(),
    at: value(),
  });
  const bodies = [
    () => JSON.stringify(value()),
    () => JSON.stringify({ events: [event(), event()] }),
    () => JSON.stringify({ title: text() }),
    () => JSON.stringify({ [pick(['folder', 'reel', 'names', 'rate', 'captions', 'recordStart', text()])]: value() }),
    () =>
      JSON.stringify({
        name: text(),
        texts: [
          pick([
            `<${XML_ROOT} version="5">${text()}</${XML_ROOT}>`,
            `<!DOCTYPE x [<!ENTITY a "${text()}">]><${XML_ROOT}>&a;</${XML_ROOT}>`,
            `{"OTIO_SCHEMA":"Timeline.1","tracks":${JSON.stringify(value())}}`,
            `TITLE: ${text()}\n001  AX V C 00:00:00:00 ${text()}`,
            '<a>'.repeat(3000),
            '[{"a":'.repeat(2000),
          ]),
        ],
      }),
    () =>
      JSON.stringify({
        text: pick([text(), `WEBVTT\n\n00:00.000 --> ${text()}\n${text()}`, JSON.stringify({ words: value() })]),
      }),
    () => JSON.stringify({ from: pick(['upload', 'folder', text()]), upload: text(), entry: text() }),
    () => JSON.stringify({ name: text(), settings: value(), forNew: value(), language: text(), words: value() }),
    () => `{"a":${'['.repeat(5000)}`,
    () => text(),
    () => Uint8Array.from({ length: 200 }, () => Math.floor(next() * 256)),
  ];
  return Array.from({ length: count }, () => {
    const method = pick(METHODS);
    const hasBody = !['GET', 'HEAD', 'TRACE', 'OPTIONS'].includes(method);
    const headers: Record<string, string> = {
      host: next() < 0.95 ? about.host : pick(HOSTS),
      ...(next() < 0.5 && {
        'content-type': pick(['application/json', 'text/plain', 'application/offset+octet-stream', 'multipart/form-data']),
      }),
      ...(next() < 0.2 && {
        range: pick(['bytes=0-0', 'bytes=999999999999-', 'bytes=-0', 'bytes=5-1', 'lines=1-2', 'bytes=0-1,3-4']),
      }),
      ...(next() < 0.3 && {
        'tus-resumable': '1.0.0',
        'upload-offset': pick(['0', '-1', 'x', '99999999999']),
        'upload-length': pick(['10', '-1', '1e99']),
      }),
      ...(next() < 0.1 && {
        'upload-metadata': pick(['filename AAA=', 'filename', 'filename ,,,', '=;=', `filename ${'QQ'.repeat(2000)}`]),
      }),
      ...(next() < 0.1 && { origin: pick(['http://evil.example', 'null', `http://${about.host}`]) }),
      ...(next() < 0.1 && { 'accept-encoding': pick(['gzip', 'br;q=1', 'identity']) }),
      ...(next() < 0.05 && { cookie: `zetemis=${'A'.repeat(300)}.00` }),
      ...(next() < 0.05 && { authorization: pick(['Bearer x', `Bearer ${'0'.repeat(64)}`, 'Basic eDp5']) }),
    };
    return { method, path: pick(paths)(), headers, ...(hasBody && { body: pick(bodies)() }) };
  });
}

/** What an answer must not tell: places on this machine, stacks, and what the database says. */
const TELLTALE =
  /\/(work|home|root|tmp|var\/lib|usr\/lib)\/|node_modules|\bat \w+.*\(.*:\d+:\d+\)|error: |select .* from|relation "|ENOENT|EACCES/i;

/** Sends a request as it is; nothing on the way makes it well-formed. @returns what is wrong with the answer */
export function faultOf(address: string, { method, path, headers, body }: HostileRequest): Promise<string | undefined> {
  const { hostname, port } = new URL(address);
  return new Promise((resolve) => {
    const asked = request(
      { hostname, port, method, path: path.replace(/[\s\0]/g, ''), headers, timeout: 60_000, setHost: false },
      (answer) => {
        let said = '';
        answer.on('data', (chunk) => {
          if (said.length < 100_000) said += String(chunk);
        });
        answer.on('close', () => {
          const { statusCode = 0 } = answer;
          const isText = /json|text\/plain/.test(answer.headers['content-type'] ?? '');
          if (statusCode >= 500) resolve(`${statusCode} ${said.slice(0, 200)}`);
          else if (isText && statusCode >= 400 && TELLTALE.test(said)) resolve(`tells: ${said.slice(0, 200)}`);
          else resolve(undefined);
        });
      },
    );
    asked.on('timeout', () => asked.destroy(new Error('no answer within a minute')));
    // A connection that is closed on a body nobody wants to read is an answer.
    asked.on('error', (error) => resolve(/ECONNRESET|EPIPE|socket hang up/.test(String(error)) ? undefined : String(error)));
    asked.end(body);
  });
}

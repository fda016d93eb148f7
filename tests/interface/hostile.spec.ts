import { readFileSync } from 'node:fs';
import { basename } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { faultOf, hostileRequests } from '../hostile.ts';
import { hostileFiles } from '../hostileMedia.ts';
import { folderFor } from '../media.ts';
import { expect, test } from './app.ts';

test('hostile requests are answered without an error of the server, a path or a stack', async ({ app, page }) => {
  test.setTimeout(600_000);
  const { episodes } = await app.json('/api/episodes');
  const [{ id, mediaId }] = episodes;
  const about = { episode: id, media: mediaId, host: new URL(app.address).host };
  const requests = hostileRequests(600, 17, about).filter(
    // Those would be obeyed.
    ({ method, path }) => !(method === 'DELETE' && /^\/api\/(episodes|sets|uploads)/.test(path)),
  );
  const faults: string[] = [];
  for (let k = 0; k < requests.length; k += 8)
    await Promise.all(
      requests.slice(k, k + 8).map(async (request) => {
        const fault = await faultOf(app.address, request);
        if (fault) faults.push(`${request.method} ${request.path} ${String(request.body).slice(0, 100)}: ${fault}`);
      }),
    );
  expect(faults).toEqual([]);
  await page.goto(app.address);
  await expect(page.getByRole('list', { name: 'Episodes' }).getByRole('listitem')).toHaveCount(episodes.length);
});

test('ranges, tags and headers are answered as the standards have it', async ({ app }) => {
  const { episodes } = await app.json('/api/episodes');
  const { mediaId } = episodes.find(({ hasVideo }: { hasVideo: boolean }) => hasVideo);
  const ask = (path: string, headers: Record<string, string> = {}) => fetch(`${app.address}${path}`, { headers });
  const picture = `/api/media/${mediaId}/picture`;
  const whole = await ask(picture);
  const bytes = new Uint8Array(await whole.arrayBuffer());
  const etag = whole.headers.get('etag') as string;
  const part = await ask(picture, { range: 'bytes=10-19' });
  expect([part.status, part.headers.get('content-range')]).toEqual([206, `bytes 10-19/${bytes.length}`]);
  expect(new Uint8Array(await part.arrayBuffer())).toEqual(bytes.subarray(10, 20));
  const beyond = await ask(picture, { range: `bytes=${bytes.length}-` });
  expect([beyond.status, beyond.headers.get('content-range')]).toEqual([416, `bytes */${bytes.length}`]);
  expect((await ask(picture, { 'if-none-match': etag })).status).toBe(304);
  expect((await ask(picture, { range: 'bytes=0-9', 'if-range': '"another"' })).status).toBe(200);
  expect((await ask('/episodes/00000000-0000-4000-8000-000000000000')).status).toBe(404);
  for (const path of ['/', '/favicon.svg', '/api/episodes', picture, '/nothing']) {
    const { headers } = await ask(path);
    expect(headers.get('content-security-policy'), path).not.toMatch(/script-src[^;]*unsafe/);
    expect(headers.get('permissions-policy'), path).toContain('microphone=()');
    expect(headers.get('x-content-type-options'), path).toBe('nosniff');
  }
  expect((await ask('/api/episodes')).headers.get('cache-control')).toBe('no-store');
});

test('hostile files are refused in words or taken, and the queue goes on', async ({ app }) => {
  test.setTimeout(600_000);
  const files = hostileFiles(folderFor('hostile'), 25, 29);
  const taken: string[] = [];
  for (const path of files) {
    const { status, error, id } = await app.bring(readFileSync(path), basename(path));
    expect([201, 422]).toContain(status);
    if (status === 201) taken.push(id as string);
    else expect(error).not.toContain(app.folder);
  }
  for (const id of taken) {
    for (;;) {
      const { jobs } = await app.json(`/api/episodes/${id}`);
      const under = jobs.filter(({ state }: { state: string }) => state === 'queued' || state === 'running');
      if (under.length === 0) break;
      await sleep(200);
    }
    await app.json(`/api/episodes/${id}`, 'DELETE');
    await app.json(`/api/episodes/${id}?forGood`, 'DELETE');
  }
});

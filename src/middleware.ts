import { defineMiddleware } from 'astro:middleware';
import { randomBytes } from 'node:crypto';
import { contentSecurityPolicy } from './server/http/webServer.ts';

/**
 * Gives the scripts that stand in a page a number of their own, which its policy names: no other inline script runs. Who may ask at
 * all is seen to ahead of this, in `server/http/webServer.ts`.
 */
export const onRequest = defineMiddleware(async (_, next) => {
  const response = await next();
  const type = response.headers.get('content-type') ?? '';
  if (type.includes('json') && !response.headers.has('cache-control')) response.headers.set('cache-control', 'no-store');
  if (!type.startsWith('text/html')) return response;
  const nonce = randomBytes(16).toString('base64');
  const html = (await response.text()).replaceAll('<script', `<script nonce="${nonce}"`);
  response.headers.set('content-security-policy', contentSecurityPolicy(nonce));
  response.headers.set('cache-control', 'no-store');
  return new Response(html, { status: response.status, headers: response.headers });
});

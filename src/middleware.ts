import { defineMiddleware } from 'astro:middleware';
import { config } from './server/config.ts';
import { refuse } from './server/http/answer.ts';

const SAFE_METHODS = new Set(['GET', 'HEAD', 'OPTIONS']);

/**
 * Answers only under the names it is meant to be reached by (a page elsewhere could otherwise point a name of its
 * own at this machine), and takes changes only from its own pages.
 */
export const onRequest = defineMiddleware(async ({ request }, next) => {
  const host = request.headers.get('host') ?? '';
  if (!isOwn(host)) return refuse(403, 'This server does not answer under that name.');
  const origin = request.headers.get('origin');
  const foreign = origin !== null && !isOwn(origin.replace(/^https?:\/\//, ''));
  if (!SAFE_METHODS.has(request.method) && (foreign || request.headers.get('sec-fetch-site') === 'cross-site'))
    return refuse(403, 'Changes are taken from this program’s own pages only.');
  const response = await next();
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('referrer-policy', 'no-referrer');
  response.headers.set('cross-origin-resource-policy', 'same-origin');
  response.headers.set('x-frame-options', 'DENY');
  return response;
});

function isOwn(host: string): boolean {
  const loopback = [`127.0.0.1:${config.PORT}`, `localhost:${config.PORT}`, `[::1]:${config.PORT}`];
  return loopback.includes(host) || config.hosts.includes(host);
}

import type { APIRoute } from 'astro';

/** Whether this process answers. */
export const GET: APIRoute = () =>
  new Response('ok\n', { headers: { 'content-type': 'text/plain', 'cache-control': 'no-store' } });

import type { APIRoute } from 'astro';
import { eventStream } from '@/server/http/eventStream.ts';

export const GET: APIRoute = ({ request }) =>
  new Response(eventStream(request.signal), { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' } });

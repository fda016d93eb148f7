import type { APIRoute } from 'astro';
import { subscribe } from '@/server/events.ts';

const HEARTBEAT_MS = 15_000;

/** Server-sent events: jobs as they go on, decisions from other tabs, episodes that come and change. */
export const GET: APIRoute = ({ request }) => {
  const encoder = new TextEncoder();
  let end = () => {};
  const body = new ReadableStream({
    start(controller) {
      const send = (text: string) => controller.enqueue(encoder.encode(text));
      send('retry: 1000\n\n');
      const stop = subscribe((event) => send(`data: ${JSON.stringify(event)}\n\n`));
      const heartbeat = setInterval(() => send(': still here\n\n'), HEARTBEAT_MS);
      end = () => {
        stop();
        clearInterval(heartbeat);
      };
      request.signal.addEventListener('abort', end);
    },
    cancel: () => end(),
  });
  return new Response(body, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' } });
};

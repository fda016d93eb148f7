import type { APIRoute } from 'astro';
import { EVENT_BEAT_MS } from '@/core/contract/messages.ts';
import { subscribe } from '@/server/events.ts';

/**
 * Server-sent events: jobs as they go on, decisions from other tabs, episodes that come and change. Each has a number, one more
 * than the one before, and beats in between repeat the last: who counts knows when something is missing.
 */
export const GET: APIRoute = ({ request }) => {
  const encoder = new TextEncoder();
  let end = () => {};
  const body = new ReadableStream({
    start(controller) {
      let number = 0;
      const send = (text: string) => controller.enqueue(encoder.encode(text));
      const beat = () => send(`event: beat\ndata: ${number}\n\n`);
      send('retry: 1000\n\n');
      const stop = subscribe((event) => send(`id: ${++number}\ndata: ${JSON.stringify(event)}\n\n`));
      const beating = setInterval(beat, EVENT_BEAT_MS);
      end = () => {
        stop();
        clearInterval(beating);
      };
      request.signal.addEventListener('abort', end);
      beat();
    },
    cancel: () => end(),
  });
  return new Response(body, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' } });
};

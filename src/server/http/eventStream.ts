import { EVENT_BEAT_MS } from '@/core/contract/messages.ts';
import { subscribe } from '../events.ts';

/**
 * Server-sent events: jobs as they go on, decisions from other tabs, episodes that come and change. Each has a number, one more
 * than the one before, and beats in between repeat the last: who counts knows when something is missing.
 * @param signal ends it
 */
export function eventStream(signal: AbortSignal): ReadableStream {
  const encoder = new TextEncoder();
  let end = () => {};
  return new ReadableStream({
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
      signal.addEventListener('abort', end);
      beat();
    },
    cancel: () => end(),
  });
}

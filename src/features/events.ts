import { type ServerEvent, serverEvent } from '@/core/contract/messages.ts';
import { readStream } from '@/workers/eventStream.ts';

/**
 * Listens to what the server tells. A browser opens six connections to one server at most, so all its tabs share one stream, held
 * by a shared worker; where there are none each tab has its own.
 * @param onEvent told each event; `missed` when there may have been others
 * @returns a function that stops it
 */
export function listen(onEvent: (event: ServerEvent) => void): () => void {
  if (typeof SharedWorker === 'undefined') return readStream(onEvent);
  const { port } = new SharedWorker(new URL('../workers/events.shared.ts', import.meta.url), { type: 'module' });
  port.onmessage = ({ data }) => {
    const event = serverEvent.safeParse(data);
    if (event.success) onEvent(event.data);
  };
  return () => port.close();
}

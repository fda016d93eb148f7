import { type ServerEvent, serverEvent } from '@/core/contract/messages.ts';
import { readStream } from '@/workers/eventStream.ts';

const listeners = new Set<(event: ServerEvent) => void>();
let isConnected = false;

/**
 * Listens to what the server tells.
 * @param onEvent told each event; `missed` when there may have been others
 * @returns a function that stops it
 */
export function listen(onEvent: (event: ServerEvent) => void): () => void {
  listeners.add(onEvent);
  if (!isConnected) connect();
  return () => listeners.delete(onEvent);
}

const tell = (event: ServerEvent): void => {
  for (const listener of listeners) listener(event);
};

/**
 * A browser opens six connections to one server at most, so all its tabs share one stream, held by a shared worker; where there are
 * none each tab has its own.
 */
function connect(): void {
  isConnected = true;
  if (typeof SharedWorker === 'undefined') {
    readStream(tell);
    return;
  }
  const { port } = new SharedWorker(new URL('../workers/events.shared.ts', import.meta.url), { type: 'module' });
  port.onmessage = ({ data }) => {
    const event = serverEvent.safeParse(data);
    if (event.success) tell(event.data);
  };
}

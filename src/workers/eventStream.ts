import * as z from 'zod/mini';
import { EVENT_BEAT_MS, type ServerEvent, serverEvent } from '@/core/contract/messages.ts';

z.config({ jitless: true });

/** A stream that has said nothing for so many beats is gone, whatever the browser believes. */
const SILENT_BEATS = 3;

/**
 * Reads the server's stream of events, and opens another when that is lost or falls silent.
 * @param onEvent told each event; `missed` after a stream was lost, or a number left out
 */
export function readStream(onEvent: (event: ServerEvent) => void): void {
  let source: EventSource;
  let last = 0;
  let silence: ReturnType<typeof setTimeout>;
  let isFirst = true;
  const heard = () => {
    clearTimeout(silence);
    silence = setTimeout(() => {
      source.close();
      open();
    }, SILENT_BEATS * EVENT_BEAT_MS);
  };
  const open = () => {
    source = new EventSource('/api/events');
    heard();
    source.onopen = () => {
      heard();
      last = 0;
      if (!isFirst) onEvent({ type: 'missed' });
      isFirst = false;
    };
    source.onmessage = ({ data, lastEventId }) => {
      heard();
      const number = Number(lastEventId);
      if (number !== last + 1) onEvent({ type: 'missed' });
      last = number;
      const event = serverEvent.safeParse(JSON.parse(data));
      if (event.success) onEvent(event.data);
    };
    source.addEventListener('beat', ({ data }) => {
      heard();
      if (Number(data) !== last) onEvent({ type: 'missed' });
      last = Number(data);
    });
    // A browser gives up for good where the answer is no stream, as that of a proxy whose server is away.
    source.onerror = () => {
      if (source.readyState !== EventSource.CLOSED) return;
      clearTimeout(silence);
      silence = setTimeout(open, EVENT_BEAT_MS);
    };
  };
  open();
}

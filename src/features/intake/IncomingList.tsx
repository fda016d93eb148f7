import { useStore } from 'zustand';
import { Measure } from '@/ui/Measure.tsx';
import { dismiss, type Incoming, incoming, stop } from './uploads.ts';

/** Files on their way, with measure and time left, and those that could not be taken. */
export function IncomingList() {
  const list = useStore(incoming, (state) => state.list);
  if (list.length === 0) return null;
  return (
    <ul className="mb-4 grid gap-3 text-sm" aria-label="Coming in">
      {list.map((item) => (
        <li key={item.key} className={`rounded border p-3 ${item.state === 'failed' ? 'border-error' : 'border-base-300'}`}>
          <Coming item={item} />
        </li>
      ))}
    </ul>
  );
}

function Coming({ item }: { item: Incoming }) {
  if (item.state === 'failed')
    return (
      <div role="alert" className="flex items-start gap-3">
        <p className="min-w-0 grow break-words">
          <b>
            <bdi>{item.name}</bdi>
          </b>{' '}
          was not taken. {item.message} Nothing was changed.
        </p>
        <button type="button" className="btn btn-sm" onClick={() => dismiss(item.key)}>
          Dismiss
        </button>
      </div>
    );
  const doing = { sending: 'Sending', waiting: 'The server does not answer; trying again:', checking: 'Checking' }[item.state];
  const share = item.state === 'checking' ? 1 : item.bytes > 0 ? item.sent / item.bytes : 0;
  return (
    <div className="flex items-end gap-3">
      <div className="min-w-0 grow">
        <Measure label={`${doing} ${item.name}`} share={share} remaining={item.state === 'sending' ? item.remaining : null} />
      </div>
      {item.state !== 'checking' && (
        <button type="button" className="btn btn-sm" onClick={() => stop(item.key)}>
          Cancel
        </button>
      )}
    </div>
  );
}

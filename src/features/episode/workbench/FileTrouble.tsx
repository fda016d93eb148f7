import { useState } from 'react';
import type { RecordingDetail } from '@/core/contract/messages.ts';
import { api } from '../../api.ts';
import { useEpisode, useModel } from '../session/useEpisode.ts';

const NONE: readonly RecordingDetail[] = [];

/** Files that are no longer the ones that were measured: what is heard, and handed over, is another sound then. */
export function FileTrouble() {
  const recordings = useEpisode((s) => s.detail?.recordings ?? NONE);
  const troubled = recordings.filter(({ file }) => file !== 'there');
  if (troubled.length === 0) return null;
  return (
    <div className="border-base-300 border-b bg-base-200">
      {troubled.map((recording) => (
        <Troubled key={recording.id} recording={recording} />
      ))}
    </div>
  );
}

function Troubled({ recording: { id, fileName, file } }: { recording: RecordingDetail }) {
  const model = useModel();
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string>();
  const measure = async () => {
    setBusy(true);
    await api.takeReplacement(model.id, id).catch((error: Error) => setProblem(error.message));
    await model.refresh();
    setBusy(false);
  };
  return (
    <div role="alert" className="flex items-center gap-3 px-4 py-2 text-sm">
      <p className="grow">
        <b>
          <bdi>{fileName}</bdi>
        </b>{' '}
        {file === 'replaced'
          ? 'was exchanged for another file since it was measured. What you see is of the old one, and what you hear is the new one.'
          : 'is not where it was. It can be looked at and decided on, but not heard.'}
        {problem && <span className="block text-error">{problem}</span>}
      </p>
      {file === 'replaced' && (
        <button type="button" className="btn btn-outline btn-sm" disabled={busy} onClick={() => void measure()}>
          Measure the new file
        </button>
      )}
    </div>
  );
}

import { FileText } from 'lucide-react';
import { useState } from 'react';
import type { RecordingDetail } from '@/core/contract/messages.ts';
import { FileButton } from '@/ui/FileButton.tsx';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { bringWords, WORD_ENDINGS } from '../intake/words.ts';

const NONE: readonly RecordingDetail[] = [];

/** Brings a transcript of any format that is read. */
export function BringWords() {
  const model = useModel();
  const has = useEpisode((s) => s.words.length > 0);
  const recordings = useEpisode((s) => s.detail?.recordings ?? NONE);
  const [recording, setRecording] = useState<string>();
  return (
    <>
      {recordings.length > 1 && (
        <label className="text-xs">
          Words of
          <select
            className="select select-xs flex w-full"
            value={recording ?? recordings[0]?.id}
            onChange={(event) => setRecording(event.target.value)}
          >
            {recordings.map(({ id, fileName }) => (
              <option key={id} value={id}>
                {fileName}
              </option>
            ))}
          </select>
        </label>
      )}
      <FileButton
        label="Transcript file"
        accept={WORD_ENDINGS}
        className="btn btn-sm"
        onFiles={([file]) => file && void bringWords(model, file, recording ?? recordings[0]?.id)}
      >
        <FileText size={15} aria-hidden /> {has ? 'Bring other words' : 'Bring words'}
      </FileButton>
    </>
  );
}

import { FileText } from 'lucide-react';
import { useState } from 'react';
import type { RecordingDetail } from '@/core/contract/messages.ts';
import { readTranscriptFile } from '@/core/interchange/transcripts/transcriptFile.ts';
import { MAX_TRANSCRIPT_BYTES } from '@/core/transcript/word.ts';
import { FileButton } from '@/ui/FileButton.tsx';
import { languageName } from '@/ui/LanguageSelect.tsx';
import type { Message } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

/** What words wait for. */
const WAITING = {
  recogniser: 'The recogniser listens for where these words are said.',
  reading: 'There are many words to be read: they appear when that is done. You can leave this page.',
};

const NONE: readonly RecordingDetail[] = [];

const tooLarge = (bytes: number): Error => {
  const [own, most] = [bytes, MAX_TRANSCRIPT_BYTES].map((size) => `${Math.ceil(size / 1e6)} MB`);
  return new Error(`That comes to ${own}; ${most} of words is the most.`);
};

interface Props {
  /** told what came of it */
  readonly onSaid: (message: Message) => void;
}

/** Brings a transcript of any format that is read. */
export function BringWords({ onSaid }: Props) {
  const model = useModel();
  const has = useEpisode((s) => s.words.length > 0);
  const recordings = useEpisode((s) => s.detail?.recordings ?? NONE);
  const [recording, setRecording] = useState<string>();
  const bring = async (file: File) => {
    onSaid({ text: `Reading ${file.name} …`, bad: false });
    try {
      if (file.size > MAX_TRANSCRIPT_BYTES) throw tooLarge(file.size);
      const { text, notes: ofFile } = await readTranscriptFile(new Uint8Array(await file.arrayBuffer()));
      // Quotes and ends of lines take more room on their way than in the file.
      const bytes = new Blob([JSON.stringify(text)]).size;
      if (bytes > MAX_TRANSCRIPT_BYTES) throw tooLarge(bytes);
      const { words, language, notes, queued } = await api.importWords(model.id, text, recording);
      const done = queued ? WAITING[queued] : `${words} words brought in${language ? ` (${languageName(language)})` : ''}.`;
      onSaid({ text: [done, ...ofFile, ...notes].join('\n'), bad: false });
      await model.refresh();
    } catch (error) {
      onSaid({ text: `${(error as Error).message} Nothing was changed.`, bad: true });
    }
  };
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
        accept=".json,.vtt,.srt,.ttml,.xml,.ctm,.sbv,.tsv,.txt,.text,.md,.docx,.odt"
        className="btn btn-sm"
        onFiles={([file]) => file && void bring(file)}
      >
        <FileText size={15} aria-hidden /> {has ? 'Bring other words' : 'Bring words'}
      </FileButton>
    </>
  );
}

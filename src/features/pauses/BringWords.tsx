import { FileText } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/store.ts';

/** Brings a transcript of our own JSON. */
export function BringWords() {
  const model = useModel();
  const has = useEpisode((s) => s.words.length);
  const [said, setSaid] = useState<{ text: string; bad: boolean }>();
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => setSaid(undefined), [has]);
  const bring = async (file: File) => {
    try {
      const { words } = await api.importWords(model.id, await file.text());
      setSaid({ text: `${words} words brought in.`, bad: false });
      await model.refresh();
    } catch (error) {
      setSaid({ text: `${(error as Error).message} Nothing was changed.`, bad: true });
    }
  };
  return (
    <section className="mt-3 border-base-300 border-t pt-3 text-sm" aria-label="Words">
      <p className="mb-2">
        {has > 0
          ? `${has} words guard the pauses.`
          : 'With a transcript, no pause can enter a word, and the words are printed on the score.'}
      </p>
      <input
        ref={input}
        type="file"
        accept=".json,application/json"
        className="sr-only"
        tabIndex={-1}
        aria-label="Transcript file"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = '';
          if (file) void bring(file);
        }}
      />
      <button type="button" className="btn btn-sm" onClick={() => input.current?.click()}>
        <FileText size={15} aria-hidden /> {has > 0 ? 'Bring other words' : 'Bring words'}
      </button>
      {said && (
        <p role={said.bad ? 'alert' : 'status'} className={`mt-2 ${said.bad ? 'text-error' : ''}`}>
          {said.text}
        </p>
      )}
    </section>
  );
}

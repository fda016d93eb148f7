import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { useState } from 'react';
import type { RecordingDetail } from '@/core/contract/messages.ts';
import { Dialog } from '@/ui/Dialog.tsx';
import { FileButton } from '@/ui/FileButton.tsx';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { FolderDialog } from '../intake/FolderDialog.tsx';
import { type Beside, bringBeside } from '../intake/uploads.ts';

const client = new QueryClient();

const PLACES: readonly (readonly [by: Beside['by'], label: string])[] = [
  ['sound', 'By what both hear'],
  ['clock', 'By the time of day in both files'],
  ['start', 'They begin at the same moment'],
];
const SOUNDS: readonly (readonly [sound: Beside['sound'], label: string])[] = [
  ['beside', 'Is heard too, on tracks of its own: another voice'],
  ['instead', 'Is heard instead: a better microphone'],
  ['unused', 'Is not used: another camera, or a screen'],
];

/** Asks for a file that ran together with a recording, and how the two belong together. */
export function TogetherDialog({ detail, onClose }: { readonly detail: RecordingDetail; readonly onClose: () => void }) {
  const model = useModel();
  const hasFolder = useEpisode((s) => s.detail?.mediaFolder);
  const [by, setBy] = useState<Beside['by']>('sound');
  const [sound, setSound] = useState<Beside['sound']>('beside');
  const [choosing, setChoosing] = useState(false);
  const about = { recording: detail.id, by, sound };
  if (choosing)
    return (
      <QueryClientProvider client={client}>
        <FolderDialog
          onClose={onClose}
          onUse={async (entry) => {
            await api.changeTogether(model.id, { ...about, do: 'add', source: { from: 'folder', entry } });
            await model.refresh();
          }}
        />
      </QueryClientProvider>
    );
  return (
    <Dialog title="A file that ran together with it" onClose={onClose}>
      <p className="mb-3 text-sm">
        Another camera, a screen, a recorder at the bench, or the other voice of a talk: it is laid on{' '}
        <bdi>{detail.fileName}</bdi>, in the clock of that, and becomes part of this recording. What you decided stays where it
        is.
      </p>
      <Choice legend="Where it lies" options={PLACES} chosen={by} onChoose={setBy} />
      {detail.facts.video && <Choice legend="Its sound" options={SOUNDS} chosen={sound} onChoose={setSound} />}
      <div className="mt-3 flex gap-2">
        <FileButton
          label="File that ran together"
          accept="audio/*,video/*,.mka,.mkv,.flac,.opus"
          className="btn btn-primary btn-sm"
          onFiles={([file]) => {
            if (file) bringBeside(file, model.id, about, () => void model.refresh());
            onClose();
          }}
        >
          Choose the file
        </FileButton>
        {hasFolder && (
          <button type="button" className="btn btn-sm" onClick={() => setChoosing(true)}>
            From the media folder
          </button>
        )}
      </div>
    </Dialog>
  );
}

interface ChoiceProps<T extends string> {
  readonly legend: string;
  readonly options: readonly (readonly [value: T, label: string])[];
  readonly chosen: T;
  readonly onChoose: (value: T) => void;
}

function Choice<T extends string>({ legend, options, chosen, onChoose }: ChoiceProps<T>) {
  return (
    <fieldset className="mb-2 text-sm">
      <legend className="font-semibold">{legend}</legend>
      {options.map(([value, label]) => (
        <label key={value} className="flex items-center gap-2 py-0.5">
          <input
            type="radio"
            className="accent-primary"
            name={legend}
            checked={chosen === value}
            onChange={() => onChoose(value)}
          />
          {label}
        </label>
      ))}
    </fieldset>
  );
}

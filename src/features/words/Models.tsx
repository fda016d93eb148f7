import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { type AskModel, type ModelList, rightIn100 } from '@/core/contract/models.ts';
import { spokenBytes } from '@/ui/bytes.ts';
import { FileButton } from '@/ui/FileButton.tsx';
import { Measure } from '@/ui/Measure.tsx';
import { type Message, Said } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import { IncomingList } from '../intake/IncomingList.tsx';
import { bringModel } from '../intake/uploads.ts';
import { ModelGuide } from './ModelGuide.tsx';

const LOOK_MS = 700;
const STEP = { fetching: 'Fetching it', unpacking: 'Unpacking it', 'trying it': 'Loading it, and letting it listen' } as const;

interface Props {
  /** told that there is one more, or one less */
  readonly onChange: () => void;
}

/** Models that recognise speech or tell speakers apart on the server: what is there, and a way to bring one. */
export function Models({ onChange }: Props) {
  const queries = useQueryClient();
  const { data } = useQuery({
    queryKey: ['models'],
    queryFn: api.models,
    refetchInterval: ({ state }) => (state.data?.adding && !state.data.adding.problem ? LOOK_MS : false),
  });
  const [said, setSaid] = useState<Message>();
  const after = (work: Promise<unknown>) =>
    work
      .then(() => setSaid(undefined))
      .catch((error) => setSaid({ text: (error as Error).message, bad: true }))
      .then(() => queries.invalidateQueries({ queryKey: ['models'] }));
  const names = data?.models.map(({ name }) => name).join();
  useEffect(() => {
    if (names !== undefined) onChange();
  }, [names, onChange]);
  if (!data) return null;
  const { models, adding, room } = data;
  return (
    <>
      {models.length === 0 && !adding && (
        <p className="text-xs leading-snug quiet">
          None is here yet. A model hears far better than the last resort. Bring an archive of ONNX files with tokens.txt below,
          by its address or as a file of yours, or on the server: <code>bin/zetemis models add FILE</code>.
        </p>
      )}
      <ul aria-label="Models here">
        {models.map((one) => (
          <Model key={one.name} model={one} onRemove={() => void after(api.removeModel(one.name))} />
        ))}
      </ul>
      {adding ? (
        <Adding adding={adding} onStop={() => void after(api.stopAddingModel())} />
      ) : (
        <Add
          room={room}
          onAdd={(wanted) => after(api.addModel(wanted))}
          onFile={(file, about) => bringModel(file, about, () => void after(Promise.resolve()))}
        />
      )}
      <IncomingList />
      <Said message={said} />
      <ModelGuide />
    </>
  );
}

function Model({ model, onRemove }: { readonly model: ModelList['models'][number]; readonly onRemove: () => void }) {
  const { name, kind, languages, bytes, pace, wrong, tokenTimes } = model;
  return (
    <li className="border-base-300 border-t py-1">
      <div className="flex justify-between gap-2">
        <bdi className="min-w-0 break-words font-semibold">{name}</bdi>
        <button type="button" className="btn btn-xs" aria-label={`Remove the model ${name}`} onClick={onRemove}>
          Remove
        </button>
      </div>
      <p className="text-xs leading-snug quiet">
        {kind}, {Math.ceil(bytes / 1e6)} MB, {languages.length > 0 ? languages.join(', ') : 'any language'}. A minute takes{' '}
        {(60 * pace).toFixed(1)} s on one core
        {wrong === null
          ? '. It helps to tell who speaks.'
          : `; of shipped English speech it heard ${rightIn100(wrong)} words in 100 right. Times of words are ${tokenTimes ? 'its own' : 'shared out by the sound'}.`}
      </p>
    </li>
  );
}

function Adding({ adding, onStop }: { readonly adding: NonNullable<ModelList['adding']>; readonly onStop: () => void }) {
  const { source, step, share, problem } = adding;
  return (
    <div className="mt-1 border-base-300 border-t pt-1">
      <bdi className="break-words text-xs quiet">{source}</bdi>
      {problem ? (
        <p role="alert" className="text-error text-sm">
          {problem}
        </p>
      ) : share === null ? (
        <p className="text-sm">{STEP[step]} …</p>
      ) : (
        <Measure label={STEP[step]} share={share} />
      )}
      <button type="button" className="btn btn-xs mt-1" onClick={onStop}>
        {problem ? 'All right' : 'Cancel'}
      </button>
    </div>
  );
}

const SPACES = /[\s,]+/;

interface AddProps {
  /** bytes that the disk of the server has left */
  readonly room: number;
  readonly onAdd: (wanted: AskModel) => Promise<void>;
  readonly onFile: (file: File, about: Pick<AskModel, 'languages' | 'digest'>) => void;
}

function Add({ room, onAdd, onFile }: AddProps) {
  const [address, setAddress] = useState('');
  const [languages, setLanguages] = useState('');
  const [digest, setDigest] = useState('');
  const form = useRef<HTMLFormElement>(null);
  const about = { languages: languages.split(SPACES).filter(Boolean), ...(digest.trim() && { digest: digest.trim() }) };
  return (
    <form
      ref={form}
      className="mt-1 border-base-300 border-t pt-1 text-xs"
      onSubmit={(event) => {
        event.preventDefault();
        void onAdd({ ...about, address });
      }}
    >
      <label className="block">
        Address of a model
        <input
          className="input input-xs block w-full"
          type="url"
          placeholder="https://…/model.tar.bz2"
          value={address}
          onChange={(event) => setAddress(event.target.value)}
        />
      </label>
      <div className="flex items-end gap-2">
        <label>
          Languages
          <input
            className="input input-xs block w-20"
            placeholder="as it says"
            pattern="[a-zA-Z0-9\-]+([\s,]+[a-zA-Z0-9\-]+)*"
            title="Such as en or pt-BR, several with commas between"
            value={languages}
            onChange={(event) => setLanguages(event.target.value)}
          />
        </label>
        <label className="min-w-0 grow">
          SHA-256, if you have it
          <input
            className="input input-xs block w-full"
            pattern="\s*[0-9a-fA-F]{64}\s*"
            value={digest}
            onChange={(event) => setDigest(event.target.value)}
          />
        </label>
        <button type="submit" className="btn btn-xs" disabled={address.trim() === ''}>
          Add
        </button>
      </div>
      <p className="mt-1 flex items-center justify-between gap-2 quiet">
        {spokenBytes(room)} of room on the server.
        <FileButton
          label="File of a model"
          accept=".bz2,.gz,.tgz,.tbz,.tbz2,.tar,.zip,.onnx,.ort"
          onFiles={([file]) => {
            // What is wrong beside it is said before gigabytes are sent.
            if (file && form.current?.reportValidity()) onFile(file, about);
          }}
        >
          Send a file instead …
        </FileButton>
      </p>
    </form>
  );
}

import { QueryClient, QueryClientProvider, useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { SettingsSet } from '@/core/contract/messages.ts';
import { parseSettings, writeSettingsFile } from '@/core/detect/settings.ts';
import { FileButton } from '@/ui/FileButton.tsx';
import { type Message, Said } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { listen } from '../events.ts';

const client = new QueryClient();

/** Named sets of settings: kept, taken up again, compared, given on as files. */
export function SettingsSets() {
  return (
    <QueryClientProvider client={client}>
      <Sets />
    </QueryClientProvider>
  );
}

function Sets() {
  const model = useModel();
  const { data, error } = useQuery({ queryKey: ['sets'], queryFn: api.sets });
  const [said, setSaid] = useState<Message>();
  const renew = () => client.invalidateQueries({ queryKey: ['sets'] });
  useEffect(() => listen(({ type }) => (type === 'sets' || type === 'missed') && void renew()), []);
  const tried = async (work: () => Promise<unknown>, done: string) => {
    try {
      await work();
      setSaid({ text: done, bad: false });
      await renew();
    } catch (problem) {
      setSaid({ text: `${(problem as Error).message} Nothing was changed.`, bad: true });
    }
  };
  const bring = (file: File) => void tried(async () => api.importSet(await file.text()), `${file.name} is kept.`);
  const settings = () => ({ ...model.state.decisions.settings });
  return (
    <div className="text-sm">
      {error && (
        <p role="alert" className="text-error">
          {error.message}
        </p>
      )}
      <ul>
        {data?.sets.map((set) => (
          <SetRow key={set.id} set={set} settings={settings} tried={tried} />
        ))}
      </ul>
      {data?.sets.length === 0 && (
        <p className="py-1 text-xs">Keep what you have set here under a name, for the next recording.</p>
      )}
      <form
        className="mt-1 flex gap-1"
        onSubmit={(event) => {
          event.preventDefault();
          const form = event.currentTarget;
          const name = String(new FormData(form).get('name') ?? '').trim();
          if (name)
            void tried(() => api.addSet({ name, settings: settings(), forNew: false }), `“${name}” is kept.`).then(() =>
              form.reset(),
            );
        }}
      >
        <input
          name="name"
          className="input input-xs grow"
          placeholder="Name for these settings"
          aria-label="Name for these settings"
          maxLength={80}
        />
        <button type="submit" className="btn btn-xs">
          Keep
        </button>
        <FileButton label="Settings file" accept=".json,application/json" onFiles={([file]) => file && bring(file)}>
          From a file
        </FileButton>
      </form>
      <Said message={said} />
    </div>
  );
}

interface RowProps {
  readonly set: SettingsSet;
  readonly settings: () => SettingsSet['settings'];
  readonly tried: (work: () => Promise<unknown>, done: string) => Promise<void>;
}

function SetRow({ set, settings, tried }: RowProps) {
  const model = useModel();
  const { id, name, forNew } = set;
  const beside = useEpisode((s) => s.beside?.name === name);
  const values = parseSettings(set.settings);
  const save = (change: Partial<SettingsSet>, done: string) =>
    tried(() => api.changeSet(id, { name, settings: set.settings, forNew, ...change }), done);
  return (
    <li className="border-base-300 border-b py-1">
      <div className="flex items-center justify-between gap-1">
        <b className="truncate">{name}</b>
        <label className="flex shrink-0 cursor-pointer items-center gap-1 text-xs">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={forNew}
            onChange={(event) =>
              void save({ forNew: event.target.checked }, event.target.checked ? `New recordings start with “${name}”.` : '')
            }
          />
          for new recordings
        </label>
      </div>
      <div className="flex flex-wrap gap-1 pt-1">
        <button type="button" className="btn btn-xs" onClick={() => model.tuning.applySettings(values, name, set.lessons)}>
          Apply
        </button>
        <button
          type="button"
          className="btn btn-xs"
          aria-pressed={beside}
          onClick={() => model.tuning.compareWith(beside ? undefined : { name, values })}
        >
          {beside ? 'Stop comparing' : 'Compare'}
        </button>
        <button
          type="button"
          className="btn btn-xs"
          onClick={() => void save({ settings: settings() }, `“${name}” now holds these settings.`)}
        >
          Replace
        </button>
        <a
          className="btn btn-xs"
          download={`${name.replace(/[^\p{L}\p{N} _-]/gu, '')}.settings.json`}
          href={`data:application/json;charset=utf-8,${encodeURIComponent(writeSettingsFile(name, values))}`}
        >
          To a file
        </a>
        <button type="button" className="btn btn-xs" onClick={() => void tried(() => api.removeSet(id), `“${name}” is removed.`)}>
          Remove
        </button>
      </div>
    </li>
  );
}

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useStore } from 'zustand';
import type { AskRecognition, EpisodeSummary } from '@/core/contract/messages.ts';
import { TIMELINE_NAMES } from '@/core/outputs/timelines/names.ts';
import { LanguageSelect } from '@/ui/LanguageSelect.tsx';
import { Measure } from '@/ui/Measure.tsx';
import { api } from '../api.ts';
import { applySet, batch, dismissBatch, handOffAll, recogniseAll, shareOf, stopBatch } from './batch.ts';

interface Props {
  readonly chosen: readonly EpisodeSummary[];
  readonly onNone: () => void;
  readonly onAll: () => void;
}

/** What can be done with all chosen episodes at once. */
export function BatchBar({ chosen, onNone, onAll }: Props) {
  const current = useStore(batch, (state) => state.current);
  if (chosen.length === 0 && !current) return null;
  return (
    <section
      className="sticky bottom-0 z-10 mt-4 border-base-300 border-t bg-base-200 px-4 py-3"
      aria-label="With all chosen episodes"
    >
      {current ? <Progress /> : <Actions {...{ chosen, onNone, onAll }} />}
    </section>
  );
}

function Actions({ chosen, onNone, onAll }: Props) {
  const { data: sets } = useQuery({ queryKey: ['sets'], queryFn: api.sets });
  const { data: recognisers } = useQuery({ queryKey: ['recognisers'], queryFn: api.recognisers });
  const [set, setSet] = useState('');
  const [recogniser, setRecogniser] = useState<AskRecognition['recogniser']>();
  const [language, setLanguage] = useState<string>();
  const [format, setFormat] = useState<string>('xml');
  const chosenSet = sets?.sets.find(({ id }) => id === set) ?? sets?.sets[0];
  const listener = recognisers?.recognisers.find(({ id, unavailable }) =>
    recogniser ? id === recogniser : unavailable === null,
  );
  const languages = listener?.languages ?? [];
  const spoken = languages.find((tag) => tag === language) ?? languages[0] ?? 'en';
  return (
    <div className="flex flex-wrap items-end gap-x-5 gap-y-2 text-sm">
      <p className="font-semibold">{chosen.length === 1 ? '1 episode chosen' : `${chosen.length} episodes chosen`}</p>
      <Action
        label="Settings"
        onRun={() => chosenSet && void applySet(chosen, chosenSet)}
        run="Give to all"
        can={chosenSet !== undefined}
      >
        <select
          className="select select-xs w-40"
          aria-label="Set of settings"
          value={chosenSet?.id ?? ''}
          onChange={(event) => setSet(event.target.value)}
        >
          {sets?.sets.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
          {!chosenSet && <option value="">no set is kept yet</option>}
        </select>
      </Action>
      <Action
        label="Words"
        run="Recognise all"
        can={listener?.unavailable === null}
        onRun={() => listener && void recogniseAll(chosen, { recogniser: listener.id, language: spoken })}
      >
        <select
          className="select select-xs w-44"
          aria-label="Recogniser"
          value={listener?.id ?? ''}
          onChange={(event) => setRecogniser(event.target.value as AskRecognition['recogniser'])}
        >
          {recognisers?.recognisers.map(({ id, label }) => (
            <option key={id} value={id}>
              {label}
            </option>
          ))}
        </select>
        {languages.length > 1 && <LanguageSelect {...{ value: spoken, languages }} className="w-28" onChoose={setLanguage} />}
      </Action>
      <Action label="Hand-off" run="Hand off all" can onRun={() => void handOffAll(chosen, format)}>
        <select
          className="select select-xs w-36"
          aria-label="Format"
          value={format}
          onChange={(event) => setFormat(event.target.value)}
        >
          {Object.entries(TIMELINE_NAMES).map(([id, label]) => (
            <option key={id} value={id}>
              {label}
            </option>
          ))}
        </select>
      </Action>
      <span className="ml-auto flex gap-1">
        <button type="button" className="btn btn-xs" onClick={onAll}>
          Choose all
        </button>
        <button type="button" className="btn btn-xs" onClick={onNone}>
          Choose none
        </button>
      </span>
    </div>
  );
}

interface ActionProps {
  readonly label: string;
  readonly run: string;
  readonly can: boolean;
  readonly onRun: () => void;
  readonly children: React.ReactNode;
}

function Action({ label, run, can, onRun, children }: ActionProps) {
  return (
    <div>
      <div className="text-xs quiet">{label}</div>
      <div className="flex gap-1">
        {children}
        <button type="button" className="btn btn-xs" disabled={!can} onClick={onRun}>
          {run}
        </button>
      </div>
    </div>
  );
}

function Progress() {
  const current = useStore(batch, (state) => state.current);
  if (!current) return null;
  const { label, failed, isRunning, outcome } = current;
  return (
    <div className="text-sm">
      <div className="flex items-end gap-3">
        <div className="min-w-0 grow">
          {isRunning ? <Measure label={label} share={shareOf(current)} /> : <output>{`${label}: ${outcome ?? ''}`}</output>}
        </div>
        {isRunning ? (
          <button type="button" className="btn btn-sm" onClick={stopBatch}>
            Stop
          </button>
        ) : (
          <button type="button" className="btn btn-sm" onClick={dismissBatch}>
            Done
          </button>
        )}
      </div>
      {failed.length > 0 && (
        <ul role="alert" className="mt-1 text-error">
          {failed.map(({ title, message }) => (
            <li key={title}>
              {title}: {message}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

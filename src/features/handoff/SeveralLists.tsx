import { Download } from 'lucide-react';
import { useState } from 'react';
import type { HandoffOptions, HandoffView } from '@/core/outputs/messages.ts';
import { Check } from '@/ui/Check.tsx';
import { Choice } from '@/ui/Choice.tsx';
import { api } from '../api.ts';
import { useModel } from '../episode/session/useEpisode.ts';
import { TextField } from './TextField.tsx';

interface Props {
  readonly view: HandoffView;
  readonly options: HandoffOptions;
  readonly onChange: (changed: Partial<HandoffOptions>) => void;
}

type By = 'all' | 'parts' | 'ranges';

/** Several formats, for all of it or for each part or marked range, in one archive with a list of what is in it. */
export function SeveralLists({ view, options, onChange }: Props) {
  const model = useModel();
  const can = view.outputs.filter(({ refused }) => refused === null);
  const [wanted, setWanted] = useState<readonly string[]>(['xml', 'vtt']);
  const [by, setBy] = useState<By>('parts');
  const chosen = can.filter(({ id }) => wanted.includes(id)).map(({ id }) => id);
  const isEmpty = chosen.length === 0 || (by === 'ranges' && view.ranges.length === 0);
  return (
    <>
      <Choice<By>
        label="A list for"
        help={by === 'ranges' && view.ranges.length === 0 ? 'There are no marked ranges: select one and press M.' : undefined}
        options={[
          ['all', 'the whole'],
          ['parts', 'each part'],
          ['ranges', 'each marked range'],
        ]}
        value={by}
        onChoose={setBy}
      />
      <fieldset className="py-1">
        <legend className="font-semibold">Files of each</legend>
        <div className="grid grid-cols-2 gap-x-2">
          {can.map(({ id, label }) => (
            <Check
              key={id}
              checked={wanted.includes(id)}
              onChange={(checked) => setWanted(checked ? [...wanted, id] : wanted.filter((one) => one !== id))}
            >
              {label}
            </Check>
          ))}
        </div>
      </fieldset>
      {by !== 'all' && (
        <TextField
          label="Names"
          help="{episode}, {number} and {part} are filled in."
          value={options.names}
          onSettle={(names) => onChange({ names })}
        />
      )}
      <a
        className={`btn btn-outline btn-sm ${isEmpty ? 'btn-disabled' : ''}`}
        aria-disabled={isEmpty}
        href={isEmpty ? undefined : api.handoffArchive(model.id, chosen, by)}
        download
      >
        <Download size={14} aria-hidden /> All in one archive
      </a>
    </>
  );
}

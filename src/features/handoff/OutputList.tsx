import { Download } from 'lucide-react';
import type { HandoffScope, HandoffView } from '@/core/outputs/messages.ts';
import type { Receiver } from '@/core/outputs/receivers.ts';
import { api } from '../api.ts';
import { useModel } from '../episode/session/useEpisode.ts';

interface Props {
  readonly view: HandoffView;
  readonly receiver: Receiver;
  readonly scope: HandoffScope;
}

/** What can be handed to a kind of receiver; the first is the one to take where there is no reason for another. */
export function OutputList({ view, receiver, scope }: Props) {
  const outputs = view.outputs.filter(({ receivers }) => receivers.includes(receiver));
  return (
    <ul className="mt-2" aria-label="Files to hand over">
      {outputs.map((output, k) => (
        <Row key={output.id} output={output} scope={scope} isFirst={k === 0 && output.refused === null} />
      ))}
    </ul>
  );
}

function Row({
  output,
  scope,
  isFirst,
}: {
  readonly output: HandoffView['outputs'][number];
  readonly scope: HandoffScope;
  readonly isFirst: boolean;
}) {
  const model = useModel();
  const { id, label, help, refused, files, cannotCarry } = output;
  return (
    <li className="border-base-300 border-t py-1.5">
      <div className="font-semibold">{label}</div>
      <p className="text-xs leading-snug quiet">{refused ?? help}</p>
      {cannotCarry.length > 0 && <p className="text-xs leading-snug quiet">It cannot say: {cannotCarry.join('; ')}.</p>}
      <div className="mt-1">
        {files.map((name, index) => (
          <a
            key={name}
            className={`btn btn-sm mr-1 mb-1 h-auto min-h-8 max-w-full justify-start py-1 ${isFirst ? 'btn-primary' : 'btn-outline'}`}
            href={api.handoffFile(model.id, id, index, scope)}
            download={name}
          >
            <Download size={14} aria-hidden className="shrink-0" />
            <span className="break-all text-left">{name}</span>
          </a>
        ))}
      </div>
    </li>
  );
}

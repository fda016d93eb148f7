import { useCallback, useEffect, useRef, useState } from 'react';
import type { HandoffOptions, HandoffScope, HandoffView } from '@/core/outputs/messages.ts';
import { api } from '../api.ts';
import { isMeasured } from '../episode/session/recordings.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

export interface Handoff {
  readonly isMeasured: boolean;
  readonly view: HandoffView | undefined;
  readonly error: string | undefined;
  /** what was just chosen, before the server has answered */
  readonly options: HandoffOptions | undefined;
  readonly change: (changed: Partial<HandoffOptions>) => void;
  /** when the server has all that was chosen: what is made by it must not begin before */
  readonly kept: () => Promise<void>;
}

/** What a hand-off will hold, as it is chosen and decided; asked for anew whenever either changes. */
export function useHandoff(scope: HandoffScope): Handoff {
  const model = useModel();
  const measured = useEpisode((s) => isMeasured(s.detail, 'measure'));
  const saved = useEpisode((s) => s.save === 'saved');
  const cut = useEpisode((s) => s.cut);
  const words = useEpisode((s) => s.words);
  const [view, setView] = useState<HandoffView>();
  const [chosen, setChosen] = useState<HandoffOptions>();
  const [error, setError] = useState<string>();
  const [turn, setTurn] = useState(0);
  /** changes that were made, and those that the server has; one is sent after another */
  const changes = useRef({ made: 0, kept: 0, last: Promise.resolve() });
  const { part, range } = scope;

  useEffect(() => {
    if (!measured || !saved) return;
    let current = true;
    const { kept } = changes.current;
    api
      .handoff(model.id, { ...(part !== undefined && { part }), ...(range !== undefined && { range }) })
      .then((found) => {
        if (!current) return;
        setView(found);
        // A choice that this answer does not know yet is shown until one does.
        if (changes.current.made === kept) setChosen(undefined);
        setError(undefined);
      })
      .catch((problem) => current && setError((problem as Error).message));
    return () => {
      current = false;
    };
  }, [model, measured, saved, cut, words, part, range, turn]);

  const change = useCallback(
    (changed: Partial<HandoffOptions>) => {
      setChosen((before) => ({ ...(before ?? view?.options ?? ({} as HandoffOptions)), ...changed }));
      const { current } = changes;
      current.made++;
      current.last = current.last
        .then(() => api.chooseHandoff(model.id, changed))
        .then(() => setError(undefined))
        .catch((problem) => setError((problem as Error).message))
        .finally(() => {
          current.kept++;
          setTurn((n) => n + 1);
        });
    },
    [model, view],
  );
  const kept = useCallback(() => changes.current.last, []);
  return { isMeasured: measured, view, error, options: chosen ?? view?.options, change, kept };
}

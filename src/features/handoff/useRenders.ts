import { useCallback, useEffect, useState } from 'react';
import type { HandoffOptions } from '@/core/outputs/messages.ts';
import type { RenderList } from '@/core/render/messages.ts';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { listen } from '../events.ts';

export interface Renders {
  readonly list: RenderList | undefined;
  readonly error: string | undefined;
  readonly refresh: () => void;
}

/** What of the choices for a hand-off makes a render old, as it is chosen and then kept. */
export type GrownOldBy = Pick<HandoffOptions, 'centre' | 'cleaning'>;

/** What was rendered of this episode, and how far the rest is, as it goes on. */
export function useRenders({ centre, cleaning }: GrownOldBy): Renders {
  const model = useModel();
  const decisions = useEpisode((s) => s.decisions);
  const saved = useEpisode((s) => s.save === 'saved');
  const [list, setList] = useState<RenderList>();
  const [error, setError] = useState<string>();
  const refresh = useCallback(() => {
    api
      .renders(model.id)
      .then((found) => {
        setList(found);
        setError(undefined);
      })
      .catch((problem) => setError((problem as Error).message));
  }, [model]);

  // What is decided makes renders old, and so does another point that stays in view or another cleaning.
  useEffect(() => {
    if (saved) refresh();
  }, [refresh, saved, decisions, centre, cleaning]);

  useEffect(
    () =>
      listen((event) => {
        if (event.type === 'missed') refresh();
        if (event.type !== 'job' || event.job.kind !== 'render') return;
        const { job } = event;
        setList(
          (before) =>
            before && { ...before, renders: before.renders.map((one) => (one.job?.id === job.id ? { ...one, job } : one)) },
        );
        if (job.state !== 'running') refresh();
      }),
    [refresh],
  );
  return { list, error, refresh };
}

import { useCallback, useEffect, useState } from 'react';
import type { CentrePoint } from '@/core/programme/views.ts';
import type { RenderList } from '@/core/render/messages.ts';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { listen } from '../events.ts';

export interface Renders {
  readonly list: RenderList | undefined;
  readonly error: string | undefined;
  readonly refresh: () => void;
}

/**
 * What was rendered of this episode, and how far the rest is, as it goes on.
 * @param centre the point that stays in view, as it is chosen and as it is then kept
 */
export function useRenders(centre: CentrePoint): Renders {
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

  // What is decided makes renders old, and so does another point that stays in view.
  // biome-ignore lint/correctness/useExhaustiveDependencies: they are asked for anew when these change
  useEffect(() => {
    if (saved) refresh();
  }, [refresh, saved, decisions, centre]);

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

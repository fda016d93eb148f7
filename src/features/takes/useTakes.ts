import { useStore } from 'zustand';
import type { TakeGroup } from '@/core/detect/takes/takes.ts';
import { useModel } from '../episode/session/useEpisode.ts';
import type { TakesState } from './takesModel.ts';

export const useTakes = <T>(select: (state: TakesState) => T): T => useStore(useModel().takes.store, select);

/** The group that is looked at. */
export function useGroup(): TakeGroup | undefined {
  const { takes } = useModel();
  return useTakes(() => takes.group());
}

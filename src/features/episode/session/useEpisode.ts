import { createContext, use } from 'react';
import { useStore } from 'zustand';
import type { EpisodeModel } from './model.ts';
import type { EpisodeState } from './state.ts';

const ModelContext = createContext<EpisodeModel | undefined>(undefined);
export const ModelProvider = ModelContext.Provider;

export function useModel(): EpisodeModel {
  const model = use(ModelContext);
  if (!model) throw new Error('no episode here');
  return model;
}

export function useEpisode<T>(select: (state: EpisodeState) => T): T {
  return useStore(useModel().store, select);
}

import { useStore } from 'zustand';
import { useModel } from '../episode/session/useEpisode.ts';
import type { DocketState } from './docketModel.ts';

/** A part of what the docket shows. */
export const useDocket = <T>(select: (state: DocketState) => T): T => useStore(useModel().docket.store, select);

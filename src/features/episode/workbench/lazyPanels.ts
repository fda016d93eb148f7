import { type ComponentType, lazy } from 'react';

/**
 * What an episode does not open with, each in a script of its own: opening waits for the score and the pauses alone.
 * They are fetched once these stand, so that nobody waits for them later, nor needs the server.
 */
const PARTS = {
  words: () => import('../../words/WordsTray.tsx').then((file) => file.WordsTray),
  takes: () => import('../../takes/TakesTray.tsx').then((file) => file.TakesTray),
  order: () => import('../../order/OrderTray.tsx').then((file) => file.OrderTray),
  handoff: () => import('../../handoff/HandoffTray.tsx').then((file) => file.HandoffTray),
  reading: () => import('../../reading/ReadingView.tsx').then((file) => file.ReadingView),
  keys: () => import('./KeysDialog.tsx').then((file) => file.KeysDialog),
  palette: () => import('./Palette.tsx').then((file) => file.Palette),
};

const part = <P>(load: () => Promise<ComponentType<P>>) => lazy(async () => ({ default: await load() }));

export const WordsTray = part(PARTS.words);
export const TakesTray = part(PARTS.takes);
export const OrderTray = part(PARTS.order);
export const HandoffTray = part(PARTS.handoff);
export const ReadingView = part(PARTS.reading);
export const KeysDialog = part(PARTS.keys);
export const Palette = part(PARTS.palette);

/** Fetches all of them. One that fails is tried again when it is shown. */
export function fetchParts(): void {
  for (const load of Object.values(PARTS)) void load().catch(() => undefined);
}

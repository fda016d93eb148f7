import type { ComponentType } from 'react';

/**
 * The trays in the order of work, each about one question. A new one is a file of its own and an entry here: its key, its tab, its place
 * in the palette and its script follow from it.
 */
export const TRAYS = {
  pauses: { label: 'Pauses', load: () => import('./pauses/PausesTray.tsx').then((file) => file.PausesTray) },
  words: { label: 'Words', load: () => import('./words/WordsTray.tsx').then((file) => file.WordsTray) },
  takes: { label: 'Takes', load: () => import('./takes/TakesTray.tsx').then((file) => file.TakesTray) },
  order: { label: 'Order', load: () => import('./order/OrderTray.tsx').then((file) => file.OrderTray) },
  docket: { label: 'Docket', load: () => import('./docket/DocketTray.tsx').then((file) => file.DocketTray) },
  handoff: { label: 'Hand-off', load: () => import('./handoff/HandoffTray.tsx').then((file) => file.HandoffTray) },
} as const satisfies Record<string, { readonly label: string; readonly load: () => Promise<ComponentType> }>;

export type TrayName = keyof typeof TRAYS;
export const TRAY_NAMES = Object.keys(TRAYS) as TrayName[];

import { type ComponentType, lazy } from 'react';
import { TRAY_NAMES, TRAYS, type TrayName } from '../../trays.ts';

/**
 * What an episode does not open with, each in a script of its own: opening waits for the score and the pauses alone.
 * They are fetched once these stand, so that nobody waits for them later, nor needs the server.
 */
const PARTS = {
  reading: () => import('../../reading/ReadingView.tsx').then((file) => file.ReadingView),
  keys: () => import('./KeysDialog.tsx').then((file) => file.KeysDialog),
  refused: () => import('./RefusedDialog.tsx').then((file) => file.RefusedDialog),
  palette: () => import('./Palette.tsx').then((file) => file.Palette),
};

const part = <P>(load: () => Promise<ComponentType<P>>) => lazy(async () => ({ default: await load() }));

const trays: Readonly<Record<string, ComponentType>> = Object.fromEntries(
  TRAY_NAMES.map((name) => [name, part(TRAYS[name].load)]),
);
export const trayPanel = (name: TrayName): ComponentType => trays[name] as ComponentType;
export const ReadingView = part(PARTS.reading);
export const KeysDialog = part(PARTS.keys);
export const RefusedDialog = part(PARTS.refused);
export const Palette = part(PARTS.palette);

/** Fetches all of them. One that fails is tried again when it is shown. */
export function fetchParts(): void {
  const loads: readonly (() => Promise<unknown>)[] = [...TRAY_NAMES.map((name) => TRAYS[name].load), ...Object.values(PARTS)];
  for (const load of loads) void load().catch(() => undefined);
}

import { type ComponentType, type LazyExoticComponent, lazy } from 'react';
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

/** A component in a script of its own, which can be fetched before it is shown. */
type Part<P> = LazyExoticComponent<ComponentType<P>> & { readonly fetch: () => Promise<void> };

/**
 * A part that is there already is handed over at once, not by a promise: React shows what stands for a part that it has to wait for
 * during a third of a second at least, however soon it comes.
 */
function part<P>(load: () => Promise<ComponentType<P>>): Part<P> {
  let there: ComponentType<P> | undefined;
  const Shown = lazy(() => (there ? atOnce({ default: there }) : load().then((loaded) => ({ default: loaded }))));
  const fetch = async () => {
    there = await load();
  };
  return Object.assign(Shown, { fetch });
}

/** What can be waited for like a promise, and is there already. */
// biome-ignore lint/suspicious/noThenProperty: it stands for a promise
const atOnce = <T>(value: T): Promise<T> => ({ then: (take: (value: T) => unknown) => take(value) }) as unknown as Promise<T>;

const trays = Object.fromEntries(TRAY_NAMES.map((name) => [name, part(TRAYS[name].load)])) as Readonly<
  Record<TrayName, Part<unknown>>
>;
export const trayPanel = (name: TrayName): ComponentType => trays[name];
export const ReadingView = part(PARTS.reading);
export const KeysDialog = part(PARTS.keys);
export const RefusedDialog = part(PARTS.refused);
export const Palette = part(PARTS.palette);

/** Fetches all of them. One that fails is tried again when it is shown. */
export function fetchParts(): void {
  for (const { fetch } of [...Object.values(trays), ReadingView, KeysDialog, RefusedDialog, Palette])
    void fetch().catch(() => undefined);
}

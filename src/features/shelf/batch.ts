import { zipSync } from 'fflate';
import { v4 as uuid } from 'uuid';
import { createStore } from 'zustand';
import type { AskRecognition, EpisodeSummary, SettingsSet } from '@/core/contract/messages.ts';
import { api } from '../api.ts';
import { saveAs } from './saveAs.ts';

/** One thing that is done with several episodes. */
export interface Batch {
  readonly label: string;
  /** what was chosen, and how far each is: 0..1 */
  readonly shares: ReadonlyMap<string, number>;
  /** what could not be done, by the episode's title */
  readonly failed: readonly { readonly title: string; readonly message: string }[];
  readonly isRunning: boolean;
  /** what came of it, once it has ended */
  readonly outcome?: string;
}

type Chosen = readonly Pick<EpisodeSummary, 'id' | 'title'>[];

export const batch = createStore<{ readonly current: Batch | undefined }>(() => ({ current: undefined }));
let wanted = 0;

const change = (values: Partial<Batch>): void =>
  batch.setState(({ current }) => (current ? { current: { ...current, ...values } } : {}));

export const shareOf = ({ shares }: Batch): number =>
  shares.size === 0 ? 1 : [...shares.values()].reduce((sum, share) => sum + share, 0) / shares.size;

/** Stops what is under way after the episode that it is at. */
export const stopBatch = (): void => {
  wanted++;
  change({ isRunning: false, outcome: 'Stopped. What was done stays.' });
};

export const dismissBatch = (): void => batch.setState({ current: undefined });

/** Gives all of them the settings of a set, as one decision each, which can be undone there. */
export const applySet = (chosen: Chosen, { name, settings, lessons }: SettingsSet): Promise<boolean> =>
  forEach(chosen, `Giving settings “${name}”`, async ({ id }) => {
    await api.append(id, [{ id: uuid(), type: 'settings', values: settings, name, ...(lessons.length > 0 && { lessons }) }]);
  });

/** Has all of them recognised, and follows the jobs until the last has ended. */
export const recogniseAll = (chosen: Chosen, ask: AskRecognition): Promise<boolean> =>
  forEach(chosen, 'Recognising words', async ({ id }, tell, isWanted) => {
    await api.recognise(id, ask);
    for (;;) {
      const { jobs } = await api.episode(id);
      const own = jobs.filter(({ kind }) => kind === 'recognise');
      const underWay = own.filter(({ state }) => state === 'queued' || state === 'running');
      if (!isWanted()) {
        for (const job of underWay) await api.cancelJob(job.id).catch(() => {});
        return;
      }
      tell(own.reduce((sum, { progress }) => sum + progress, 0) / Math.max(1, own.length));
      const failed = own.find(({ state }) => state === 'failed');
      if (failed) throw new Error(failed.error ?? 'It could not be recognised.');
      if (underWay.length === 0) return;
      await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
    }
  });

/** Hands all of them off in one format, as files in one archive. */
export async function handOffAll(chosen: Chosen, format: string): Promise<void> {
  const files: Record<string, Uint8Array> = {};
  const isWhole = await forEach(chosen, 'Handing off', async ({ id, title }) => {
    const view = await api.handoff(id);
    const output = view.outputs.find((one) => one.id === format);
    if (!output || output.refused !== null) throw new Error(output?.refused ?? 'There is no such format.');
    for (const [part, name] of output.files.entries()) {
      const answer = await fetch(api.handoffFile(id, format, part));
      if (!answer.ok) throw new Error(`The server answered ${answer.status}.`);
      files[freeName(files, `${plainName(title)}/${name}`)] = new Uint8Array(await answer.arrayBuffer());
    }
  });
  if (isWhole && Object.keys(files).length > 0)
    saveAs(new Blob([new Uint8Array(zipSync(files))], { type: 'application/zip' }), `hand-off-${format}.zip`);
}

const LOOK_MS = 500;

/** A title as the name of a folder: no signs that a file system reads as something else. */
const plainName = (title: string): string =>
  title
    .replace(/[\p{Cc}\p{Cf}<>:"/\\|?*]+/gu, ' ')
    .replace(/\s+/g, ' ')
    .trim()
    .replace(/^\.+|\.+$/g, '') || 'episode';

function freeName(taken: Readonly<Record<string, unknown>>, path: string): string {
  let free = path;
  for (let n = 2; free in taken; n++) free = path.replace('/', ` ${n}/`);
  return free;
}

type Work = (episode: Chosen[number], tell: (share: number) => void, isWanted: () => boolean) => Promise<void>;

/** Goes through all that were chosen; one that fails does not keep the others from being done. @returns whether it was not stopped */
async function forEach(chosen: Chosen, label: string, work: Work): Promise<boolean> {
  const run = ++wanted;
  const isWanted = () => run === wanted;
  const shares = new Map(chosen.map(({ id }) => [id, 0]));
  const failed: { title: string; message: string }[] = [];
  batch.setState({ current: { label, shares, failed, isRunning: true } });
  for (const episode of chosen) {
    if (!isWanted()) return false;
    const tell = (share: number) => {
      if (!isWanted()) return;
      shares.set(episode.id, share);
      change({ shares: new Map(shares) });
    };
    try {
      await work(episode, tell, isWanted);
    } catch (error) {
      failed.push({ title: episode.title, message: (error as Error).message });
    }
    tell(1);
    if (isWanted()) change({ failed: [...failed] });
  }
  if (!isWanted()) return false;
  const done = chosen.length - failed.length;
  change({ isRunning: false, outcome: `${done} of ${chosen.length} done.` });
  return true;
}

import { join } from 'node:path';
import { modelsFolder } from '../models/models.ts';
import { local } from './local.ts';
import { modelRecogniser } from './model.ts';
import type { Recogniser, RecogniserId } from './recogniser.ts';
import { remoteAt } from './remote.ts';
import { standInWith } from './standIn.ts';

export interface RecogniserSettings {
  /** address of a service, and the key it wants */
  readonly url?: string | undefined;
  readonly key?: string | undefined;
  /** milliseconds that the stand-in waits before an answer, and how often it fails */
  readonly standInDelay?: number | undefined;
  readonly standInFails?: number | undefined;
}

const DEMO = join(process.cwd(), 'demo', 'media');

/** Every recogniser there is. A new one is a file of its own and a line here. */
export const recognisersWith = ({ url, key, standInDelay, standInFails }: RecogniserSettings): readonly Recogniser[] => [
  modelRecogniser(modelsFolder()),
  local,
  remoteAt({ url, key }),
  standInWith({ folder: DEMO, delay: standInDelay ?? 0, failEvery: standInFails ?? 0 }),
];

export const recogniserOf = (all: readonly Recogniser[], id: RecogniserId): Recogniser =>
  all.find((one) => one.id === id) as Recogniser;

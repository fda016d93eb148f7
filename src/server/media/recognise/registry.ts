import { join } from 'node:path';
import { ROOT } from '../../root.ts';
import { modelsFolder } from '../models/models.ts';
import { local } from './local.ts';
import { modelRecogniser } from './model.ts';
import type { Recogniser, RecogniserId } from './recogniser.ts';
import { remoteAt } from './remote.ts';
import { isForm, type RemoteFormId } from './remoteForms.ts';
import { standInWith } from './standIn.ts';

export interface RecogniserSettings {
  /** address of a service, and the key it wants */
  readonly url?: string | undefined;
  readonly key?: string | undefined;
  /** in which form it is asked, and for which of its models */
  readonly form?: RemoteFormId | undefined;
  readonly model?: string | undefined;
  /** milliseconds that the stand-in waits before an answer, and how often it fails */
  readonly standInDelay?: number | undefined;
  readonly standInFails?: number | undefined;
}

const DEMO = join(ROOT, 'demo', 'media');

/** Settings as they stand in the environment, for commands that have no server. */
export const fromEnvironment = (environment: NodeJS.ProcessEnv): RecogniserSettings => ({
  url: environment.ZETEMIS_RECOGNISER_URL,
  key: environment.ZETEMIS_RECOGNISER_KEY,
  form: isForm(environment.ZETEMIS_RECOGNISER_FORM) ? environment.ZETEMIS_RECOGNISER_FORM : undefined,
  model: environment.ZETEMIS_RECOGNISER_MODEL,
});

/** Every recogniser there is. A new one is a file of its own and a line here. */
export const recognisersWith = ({
  url,
  key,
  form,
  model,
  standInDelay,
  standInFails,
}: RecogniserSettings): readonly Recogniser[] => [
  modelRecogniser(modelsFolder),
  local,
  remoteAt({ url, key, form, model }),
  standInWith({ folder: DEMO, delay: standInDelay ?? 0, failEvery: standInFails ?? 0 }),
];

/** The recogniser that is best here for a language: a model that was brought, else the last resort. */
export async function bestOf(all: readonly Recogniser[], language: string): Promise<'model' | 'local'> {
  const { unavailable, languages, isPoor } = await recogniserOf(all, 'model').state();
  return unavailable === undefined && !isPoor && languages.includes(language) ? 'model' : 'local';
}

export const recogniserOf = (all: readonly Recogniser[], id: RecogniserId): Recogniser =>
  all.find((one) => one.id === id) as Recogniser;

import { readdir, readFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { CARD, type ModelCard, modelCard } from './card.ts';
import { isSpeakerKind } from './modelFiles.ts';

/** A model that can be used: its folder, and what is known of it. */
export interface Model {
  readonly folder: string;
  readonly card: ModelCard;
}

/** Where models lie. */
export const modelsFolder = (): string => resolve(process.env.ZETEMIS_MODELS_DIR || join('var', 'models'));

/** All models that were added, the largest first: it hears best. What lies there without a card was never added whole. */
export async function modelsIn(folder: string = modelsFolder()): Promise<Model[]> {
  const entries = await readdir(folder, { withFileTypes: true }).catch(() => []);
  const found = await Promise.all(
    entries
      .filter((entry) => entry.isDirectory() && !entry.name.startsWith('.'))
      .map(async ({ name }) => {
        const path = join(folder, name);
        const card = await readFile(join(path, CARD), 'utf8').then(
          (text) => modelCard.safeParse(JSON.parse(text)).data,
          () => undefined,
        );
        return card ? [{ folder: path, card }] : [];
      }),
  );
  return found.flat().sort((a, b) => b.card.bytes - a.card.bytes);
}

const base = (language: string): string => language.split('-')[0]?.toLowerCase() ?? '';

/** Those that recognise words. */
export const recognising = (models: readonly Model[]): Model[] => models.filter(({ card }) => !isSpeakerKind(card.kind));

/** The model that hears a language: one that says so comes before one that says nothing. */
export function modelFor(all: readonly Model[], language: string): Model | undefined {
  const models = recognising(all);
  const knowing = models.find(({ card }) => card.languages.some((one) => base(one) === base(language)));
  return knowing ?? models.find(({ card }) => card.languages.length === 0);
}

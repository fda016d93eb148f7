import { createHash, randomUUID } from 'node:crypto';
import { cp, mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { z } from 'zod';
import { wordErrors } from '@/core/align/wordErrors.ts';
import type { AddingStep } from '@/core/contract/models.ts';
import { ROOT } from '../../root.ts';
import { MediaError } from '../ffmpeg.ts';
import { soundPart } from '../recognise/soundPart.ts';
import { unpack } from './archive.ts';
import { CARD, isLanguage, languagesOf, type ModelCard, modelCard } from './card.ts';
import { checkRoom, digestOf, download } from './download.ts';
import { Engine } from './engine.ts';
import { isNetwork, type ModelFiles, modelFilesIn, type SpeakerFile, speakerFileIn } from './modelFiles.ts';
import { modelsFolder, modelsIn } from './models.ts';
import { tryNetwork } from './voices.ts';

export interface AddingOptions {
  readonly folder?: string | undefined;
  /** name of the file, where its path does not tell */
  readonly called?: string | undefined;
  /** in place of what its files say */
  readonly name?: string | undefined;
  readonly languages?: readonly string[] | undefined;
  /** SHA-256 that its archive must have */
  readonly digest?: string | undefined;
  readonly signal?: AbortSignal | undefined;
  /** told how far a step is, 0..1; undefined while that is not known */
  readonly onProgress?: ((step: AddingStep, share: number | undefined) => void) | undefined;
}

/** Folders of models that are being added begin so; what is older was killed. */
const ADDING = '.adding-';
const FORGOTTEN_MS = 3_600_000;
const PLAIN_NAME = /^[\p{L}\p{N}][\p{L}\p{N} ._-]{0,99}$/u;

/**
 * Adds a model: an archive or a single network at an address or on this machine, or a folder with its files. It is loaded and hears shipped speech before it counts as
 * added; when anything goes wrong nothing of it is left but what was fetched.
 * @throws MediaError in words, AbortError when it was cancelled
 */
export async function addModel(source: string, options: AddingOptions = {}): Promise<ModelCard> {
  const { folder = modelsFolder(), signal, onProgress } = options;
  await mkdir(folder, { recursive: true });
  await sweep(folder);
  const wrong = options.languages?.find((tag) => !isLanguage(tag));
  if (wrong !== undefined) throw new MediaError(`"${wrong}" names no language: en, pt-BR and the like do.`);
  const url = addressIn(source);
  const place = url ? decoded(url.pathname) : (options.called ?? source);
  const name = options.name ?? nameOf(place);
  if (!PLAIN_NAME.test(name))
    throw new MediaError(`"${name}" is no name for a model: letters, figures, spaces, dots and dashes are.`);
  if ((await modelsIn(folder)).some(({ card }) => card.name === name)) throw new MediaError(`There is a model ${name} already.`);
  const work = join(folder, `${ADDING}${randomUUID()}`);
  const fetched = url && join(folder, `.fetched-${createHash('sha256').update(url.href).digest('hex').slice(0, 24)}`);
  try {
    await mkdir(work);
    let digest: string | null = null;
    if (fetched) await download(url.href, fetched, { signal, onShare: (share) => onProgress?.('fetching', share) });
    const from = fetched ?? source;
    const about = await stat(from).catch(() => undefined);
    if (!about) throw new MediaError(`There is nothing at ${options.called ?? source}.`);
    if (about.isDirectory()) {
      await checkRoom(work, await sizeOf(from));
      await cp(from, work, { recursive: true, filter: async (path) => !(await stat(path)).isSymbolicLink() });
    } else {
      digest = await digestOf(from, signal);
      if (options.digest && options.digest.toLowerCase() !== digest) {
        if (fetched) await rm(fetched, { force: true });
        throw new MediaError(`The file is not the one that was meant: its SHA-256 is ${digest}.`);
      }
      await checkRoom(work, about.size);
      if (isNetwork(basename(place))) await cp(from, join(work, basename(place)));
      else await unpack(from, work, { signal, onBytes: (bytes) => onProgress?.('unpacking', bytes / about.size) });
    }
    const inside = await innermost(work);
    const speakerFile = await speakerFileIn(inside);
    const files = speakerFile ?? (await modelFilesIn(inside));
    onProgress?.('trying it', undefined);
    const tried = await ('network' in files ? trySpeakers(files, signal) : tryOut(files, signal));
    const card: ModelCard = modelCard.parse({
      name,
      kind: files.kind,
      languages: options.languages ?? (await languagesOf(inside)),
      bytes: files.bytes,
      from: url ? `${url.origin}${url.pathname}` : basename(place),
      digest,
      ...tried,
      added: new Date().toISOString(),
    });
    await writeFile(join(inside, CARD), JSON.stringify(card, null, 2), { flush: true });
    await rename(inside, join(folder, name));
    if (fetched) await rm(fetched, { force: true });
    return card;
  } finally {
    await rm(work, { recursive: true, force: true });
  }
}

/** Takes a model away. @throws MediaError where there is none of that name */
export async function removeModel(name: string, folder: string = modelsFolder()): Promise<void> {
  const model = (await modelsIn(folder)).find(({ card }) => card.name === name);
  if (!model) throw new MediaError(`There is no model ${name}.`);
  await rm(model.folder, { recursive: true });
}

function addressIn(source: string): URL | undefined {
  if (!/^[a-z][a-z0-9+.-]*:\/\//i.test(source)) return undefined;
  const url = URL.canParse(source) ? new URL(source) : undefined;
  if (!url || !/^https?:$/.test(url.protocol))
    throw new MediaError('A model is fetched from an address that begins with https:// or http://.');
  return url;
}

function decoded(path: string): string {
  try {
    return decodeURIComponent(path);
  } catch {
    return path;
  }
}

const nameOf = (path: string): string => basename(path).replace(/\.(tar|tar\.(bz2|gz)|tbz2?|tgz|zip|onnx|ort)$/i, '');

/** Archives mostly hold one folder that holds the rest. */
async function innermost(folder: string): Promise<string> {
  const entries = await readdir(folder, { withFileTypes: true });
  const [only] = entries;
  return entries.length === 1 && only?.isDirectory() ? innermost(join(folder, only.name)) : folder;
}

async function sizeOf(folder: string): Promise<number> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  const sizes = await Promise.all(
    entries.filter((entry) => entry.isFile()).map(async (entry) => (await stat(join(entry.parentPath, entry.name))).size),
  );
  return sizes.reduce((sum, size) => sum + size, 0);
}

async function sweep(folder: string): Promise<void> {
  for (const name of await readdir(folder)) {
    const path = join(folder, name);
    if (name.startsWith(ADDING) && Date.now() - (await stat(path)).mtimeMs > FORGOTTEN_MS)
      await rm(path, { recursive: true, force: true });
  }
}

const SPEECH = join(ROOT, 'demo', 'media');
const TRIED_SECONDS = 20;
const shippedWords = z.object({ words: z.array(z.object({ text: z.string(), end: z.number() })) });

type Tried = Pick<ModelCard, 'tokenTimes' | 'pace' | 'wrong'>;

/** Loads a model, and lets it hear speech whose words are known; one that cannot say when tokens were said is not asked for that. */
async function tryOut(files: ModelFiles, signal?: AbortSignal): Promise<Tried> {
  const { words } = shippedWords.parse(JSON.parse(await readFile(join(SPEECH, 'carriage-clock.words.json'), 'utf8')));
  const said = words.filter(({ end }) => end < TRIED_SECONDS).map(({ text }) => text);
  return soundPart(join(SPEECH, 'carriage-clock.mp4'), [{ index: 1 }], { start: 0, end: TRIED_SECONDS }, signal, async (path) => {
    const hear = async (tokenTimes: boolean) => {
      const engine = new Engine(files, 'en', tokenTimes);
      try {
        await engine.ready();
        const began = performance.now();
        const heard = await engine.hear(path, signal);
        return { heard, pace: (performance.now() - began) / 1000 / TRIED_SECONDS };
      } finally {
        engine.close();
      }
    };
    const { heard, pace } = await hear(true).catch((error) => {
      if (files.kind !== 'encoder-decoder' || !(error instanceof MediaError)) throw error;
      return hear(false);
    });
    const tokenTimes = files.kind !== 'encoder-decoder' || heard.timestamps.length > 0;
    return { pace, tokenTimes, wrong: wordErrors(said, heard.text.split(/\s+/)) };
  });
}

/** Networks that part a few seconds by who speaks take ten at a time. */
const SEGMENTED_SECONDS = 10;

/** Lets a network that helps to tell speakers apart go through shipped speech. */
const trySpeakers = (file: SpeakerFile, signal?: AbortSignal): Promise<Tried> =>
  soundPart(join(SPEECH, 'carriage-clock.mp4'), [{ index: 1 }], { start: 0, end: SEGMENTED_SECONDS }, signal, async (wav) => {
    const began = performance.now();
    await tryNetwork(file, wav, SEGMENTED_SECONDS, signal);
    return { tokenTimes: false, wrong: null, pace: (performance.now() - began) / 1000 / SEGMENTED_SECONDS };
  });

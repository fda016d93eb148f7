import { readdir, readFile, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { SPEAKER_KINDS } from '@/core/contract/models.ts';
import { MediaError } from '../ffmpeg.ts';
import { NoNetwork, onnxMetadata } from './onnxMetadata.ts';

/** How the networks of a model that recognises words work together. */
const RECOGNISING_KINDS = ['encoder-decoder', 'transducer', 'CTC'] as const;
export const MODEL_KINDS = [...RECOGNISING_KINDS, ...SPEAKER_KINDS] as const;
type RecognisingKind = (typeof RECOGNISING_KINDS)[number];
export type SpeakerKind = (typeof SPEAKER_KINDS)[number];
export type ModelKind = (typeof MODEL_KINDS)[number];

export const isSpeakerKind = (kind: ModelKind): kind is SpeakerKind => SPEAKER_KINDS.some((one) => one === kind);

/** A network that helps to tell speakers apart. */
export interface SpeakerFile {
  readonly kind: SpeakerKind;
  readonly network: string;
  readonly bytes: number;
}

/** What the files of a folder are to the engine, where it recognises words. */
export interface ModelFiles {
  readonly kind: RecognisingKind;
  /** which part of the engine's configuration it is, and the files that go there, by the names it gives them */
  readonly engine: string;
  readonly files: Readonly<Record<string, string>>;
  readonly tokens: string;
  /** bytes of all of them */
  readonly bytes: number;
}

/** Kinds of CTC models by what their network says it is; each is its own part of the engine's configuration. */
const CTC: readonly (readonly [says: RegExp, engine: string])[] = [
  [/^zipformer/i, 'zipformerCtc'],
  [/^EncDec/, 'nemoCtc'],
  [/^wenet/i, 'wenetCtc'],
  [/sense.?voice/i, 'senseVoice'],
  [/^dolphin/i, 'dolphin'],
  [/^med.?asr/i, 'medasr'],
  [/^omnilingual/i, 'omnilingual'],
  [/^paraformer/i, 'paraformer'],
  [/^tdnn/i, 'tdnn'],
];
const ENCODER_DECODERS: readonly (readonly [says: RegExp, engine: string])[] = [
  [/fire.?red/i, 'fireRedAsr'],
  [/canary|EncDecMultiTask/i, 'canary'],
  [/cohere/i, 'cohereTranscribe'],
  [/./, 'whisper'],
];

/** What a network that helps to tell speakers apart says of itself. */
const SPEAKER_SIGNS: Readonly<Record<SpeakerKind, readonly string[]>> = {
  'speaker segmentation': ['powerset_max_classes', 'receptive_field_shift'],
  'speaker embedding': ['framework', 'output_dim'],
};

const NETWORK = /\.(onnx|ort)$/i;
/** Whether a file is a network by its name. */
export const isNetwork = (name: string): boolean => NETWORK.test(name);

/**
 * The network in a folder that helps to tell speakers apart; undefined where there is something else.
 * @throws MediaError where it is cut short
 */
export async function speakerFileIn(folder: string): Promise<SpeakerFile | undefined> {
  const networks = (await readdir(folder)).filter(isNetwork).sort();
  // Of several the one of full precision, which is small enough.
  const name = networks.find((one) => !/int8/i.test(one)) ?? networks[0];
  if (!name) return undefined;
  const network = join(folder, name);
  const metadata = await metadataOf(network);
  const kind = SPEAKER_KINDS.find((one) => SPEAKER_SIGNS[one].every((sign) => metadata.has(sign)));
  return kind && { kind, network, bytes: (await stat(network)).size };
}

/**
 * Tells what model lies in a folder, by its files.
 * @throws MediaError saying what is missing
 */
export async function modelFilesIn(folder: string): Promise<ModelFiles> {
  const names = (await readdir(folder)).sort();
  const networks = names.filter(isNetwork);
  if (networks.length === 0) throw new MediaError(`${basename(folder)} holds no network: no file ends in .onnx.`);
  /** Of several the one of whole numbers, which is smaller and quicker. */
  const network = (what: RegExp, not?: RegExp): string | undefined => {
    const fitting = networks.filter((name) => what.test(name) && !not?.test(name));
    const chosen = fitting.find((name) => /int8/i.test(name)) ?? fitting[0];
    return chosen && join(folder, chosen);
  };
  const tokenNames = names.filter((name) => /tokens\.txt$/i.test(name));
  const tokens = tokenNames[0] && join(folder, tokenNames[0]);
  const [encoder, decoder, joiner] = [network(/encode/i), network(/decode/i, /uncached|cached/i), network(/join/i)];
  const found = async (kind: RecognisingKind, engine: string, files: Record<string, string | undefined>): Promise<ModelFiles> => {
    const missing = Object.entries(files).filter(([, path]) => path === undefined);
    if (missing.length > 0)
      throw new MediaError(`${basename(folder)} lacks a network: ${missing.map(([name]) => name).join(', ')}.`);
    if (!tokens) throw new MediaError(`${basename(folder)} lacks tokens.txt, which says what the network writes.`);
    await checkTokens(tokens);
    const all = Object.values(files) as string[];
    for (const path of all) await metadataOf(path);
    const sizes = await Promise.all([...all, tokens].map((path) => stat(path)));
    return {
      kind,
      engine,
      files: files as Record<string, string>,
      tokens,
      bytes: sizes.reduce((sum, { size }) => sum + size, 0),
    };
  };
  if (joiner) return found('transducer', 'transducer', { encoder, decoder, joiner });
  const uncachedDecoder = network(/uncached/i);
  if (uncachedDecoder)
    return found('encoder-decoder', 'moonshine', {
      preprocessor: network(/preprocess/i),
      encoder,
      uncachedDecoder,
      cachedDecoder: network(/(?<!un)cached/i),
    });
  if (encoder || decoder) {
    const says = encoder ? await saysOf(encoder) : '';
    const engine = ENCODER_DECODERS.find(([kind]) => kind.test(`${says} ${basename(encoder ?? '')}`))?.[1] ?? 'whisper';
    return found('encoder-decoder', engine, { encoder, decoder });
  }
  const model = network(/./) as string;
  const says = await saysOf(model);
  const engine = CTC.find(([kind]) => kind.test(says))?.[1];
  if (!engine)
    throw new MediaError(
      `${basename(model)} does not say what kind of recogniser it is${says && ` that is known here (${says})`}.`,
    );
  return found('CTC', engine, { model });
}

const saysOf = async (path: string): Promise<string> => {
  const metadata = await metadataOf(path);
  return metadata.get('model_type') ?? metadata.get('comment') ?? '';
};

async function metadataOf(path: string): Promise<ReadonlyMap<string, string>> {
  try {
    return await onnxMetadata(path);
  } catch (error) {
    if (!(error instanceof NoNetwork)) throw error;
    throw new MediaError(`${basename(path)} is no whole network: it is cut short, or something else.`);
  }
}

/** @throws MediaError where it is not a token and its number a line */
async function checkTokens(path: string): Promise<void> {
  const lines = (await readFile(path, 'utf8')).split(/\r?\n/).filter((line) => line !== '');
  const isWrong = lines.length < 2 || lines.some((line) => !/\s?\d+$/.test(line));
  if (isWrong) throw new MediaError(`${basename(path)} is not what it should be: a token and its number on each line.`);
}

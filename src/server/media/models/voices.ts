import { join } from 'node:path';
import { execa } from 'execa';
import { z } from 'zod';
import type { VoicedStretch } from '@/core/speakers/voices.ts';
import { ROOT } from '../../root.ts';
import { MediaError } from '../ffmpeg.ts';
import { endAbove } from '../resident.ts';
import { type SpeakerFile, type SpeakerKind, speakerFileIn } from './modelFiles.ts';
import { modelsFolder, modelsIn } from './models.ts';

/** The two networks that tell who speaks when. */
export interface SpeakerModels {
  /** as their cards name them */
  readonly names: readonly string[];
  readonly segmentation: SpeakerFile;
  readonly embedding: SpeakerFile;
}

const ENTRY = join(ROOT, 'src/workers/voices.ts');
/** Memory that the process may hold: to begin with, how many times its files, and for an hour of sound. */
const BASE_MEGABYTES = 1200;
const TIMES_FILES = 6;
const HOUR_MEGABYTES = 1500;

const progress = z.object({ share: z.number().min(0).max(1) });
const answered = z.union([
  z.object({ works: z.boolean() }),
  z.object({
    turns: z.array(z.object({ start: z.number(), end: z.number(), speaker: z.number().int().min(0) })).max(1_000_000),
  }),
]);

/** The models that tell who speaks when, the largest of each kind; undefined where one of the two is not here. */
export async function speakerModels(folder: string = modelsFolder()): Promise<SpeakerModels | undefined> {
  const models = await modelsIn(folder);
  const find = async (wanted: SpeakerKind) => {
    const model = models.find(({ card }) => card.kind === wanted);
    const file = model && (await speakerFileIn(model.folder).catch(() => undefined));
    return model && file?.kind === wanted ? { name: model.card.name, file } : undefined;
  };
  const [segmentation, embedding] = await Promise.all([find('speaker segmentation'), find('speaker embedding')]);
  return (
    segmentation &&
    embedding && { names: [segmentation.name, embedding.name], segmentation: segmentation.file, embedding: embedding.file }
  );
}

interface TellOptions {
  /** of people, where it is known */
  readonly count?: number | undefined;
  readonly signal?: AbortSignal | undefined;
  /** told a share of the whole, once turns are found and voices are compared */
  readonly onProgress?: (share: number) => void;
}

/**
 * Who speaks when in a WAV file of 16 kHz, one channel: stretches in order of their starts, which overlap where two speak at once. Voices are
 * numbered as they are first heard.
 * @param length of the file, in seconds
 * @throws MediaError when the networks cannot be used, AbortError when it was cancelled
 */
export async function whoSpeaks(
  wav: string,
  length: number,
  { segmentation, embedding }: SpeakerModels,
  { count, signal, onProgress }: TellOptions = {},
): Promise<VoicedStretch[]> {
  const bytes = segmentation.bytes + embedding.bytes;
  const asked = { wav, segmentation: segmentation.network, embedding: embedding.network, count };
  const answer = await ask(asked, megabytesFor(bytes, length), signal, onProgress);
  const turns = 'turns' in answer ? answer.turns.sort((a, b) => a.start - b.start || a.end - b.end) : [];
  const order = [...new Set(turns.map(({ speaker }) => speaker))];
  return turns.map(({ start, end, speaker }) => ({ start, end, voice: order.indexOf(speaker) }));
}

/**
 * Has one of the two networks go through a few seconds of sound.
 * @throws MediaError when it cannot
 */
export async function tryNetwork(
  { kind, network, bytes }: SpeakerFile,
  wav: string,
  length: number,
  signal?: AbortSignal,
): Promise<void> {
  const part = kind === 'speaker embedding' ? 'embedding' : 'segmentation';
  const answer = await ask({ wav, [part]: network }, megabytesFor(bytes, length), signal);
  if (!('works' in answer && answer.works)) throw new MediaError(UNUSABLE);
}

const UNUSABLE = 'The model cannot be loaded: it is of a kind that the engine does not know, or too large for this machine.';

const megabytesFor = (bytes: number, length: number): number =>
  Math.ceil(BASE_MEGABYTES + (TIMES_FILES * bytes) / 1e6 + (HOUR_MEGABYTES * length) / 3600);

async function ask(
  question: object,
  megabytes: number,
  signal: AbortSignal | undefined,
  onProgress?: (share: number) => void,
): Promise<z.infer<typeof answered>> {
  const running = execa(process.execPath, ['--import', 'tsx', ENTRY], {
    input: JSON.stringify(question),
    reject: false,
    lines: true,
    stdout: function* (line: unknown) {
      const { data } = progress.safeParse(jsonOf(String(line)));
      if (data) onProgress?.(data.share);
      else yield line;
    },
    ...(signal && { cancelSignal: signal }),
  });
  const stopLooking = endAbove(running.pid, megabytes, () => running.kill('SIGKILL'));
  const { stdout } = await running.finally(stopLooking);
  if (signal?.aborted) throw new DOMException('telling speakers apart was cancelled', 'AbortError');
  for (const line of stdout) {
    const { data } = answered.safeParse(jsonOf(line));
    if (data) return data;
  }
  throw new MediaError(UNUSABLE);
}

/** The engine itself may write there, too. */
function jsonOf(line: string): unknown {
  try {
    return JSON.parse(line);
  } catch {
    return undefined;
  }
}

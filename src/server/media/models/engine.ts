import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { execa, type ResultPromise } from 'execa';
import { z } from 'zod';
import type { Range } from '@/core/time/range.ts';
import { ROOT } from '../../root.ts';
import { MediaError } from '../ffmpeg.ts';
import { endAbove } from '../resident.ts';
import type { ModelFiles } from './modelFiles.ts';

/** Memory that the process may hold: beside its model, and how many times its files. */
const BASE_MEGABYTES = 1000;
const TIMES_FILES = 6;
const LOAD_MS = 180_000;
const ENDED = 'The engine ended in the middle of a part.';
const ENTRY = join(ROOT, 'src/workers/engine.ts');

const heard = z.object({
  /** length of the sound */
  seconds: z.number(),
  text: z.string().max(1_000_000),
  tokens: z.array(z.string().max(200)).max(100_000).default([]),
  timestamps: z.array(z.number()).max(100_000).default([]),
  durations: z.array(z.number()).max(100_000).default([]),
  logProbabilities: z.array(z.number()).max(100_000).default([]),
});
/** What the engine heard in a file. */
export type Heard = z.infer<typeof heard>;
const places = z
  .array(z.object({ start: z.number(), end: z.number() }))
  .max(100_000)
  .nullable();
const answer = z.union([
  z.object({ ready: z.literal(true) }),
  z.object({ id: z.number(), error: z.string() }),
  z.object({ id: z.number(), places }),
  heard.extend({ id: z.number() }),
]);

/** What else of the engine's configuration a kind of model takes. */
const OPTIONS: Readonly<Record<string, (language: string, tokenTimes: boolean) => Record<string, string | number>>> = {
  whisper: (language, tokenTimes) => ({ language, task: 'transcribe', enableTokenTimestamps: tokenTimes ? 1 : 0 }),
  senseVoice: (language) => ({ language, useInverseTextNormalization: 1 }),
  canary: (language) => ({ srcLang: language, tgtLang: language, usePnc: 1 }),
  cohereTranscribe: (language) => ({ language, usePunct: 1 }),
};

type Answered = Heard | { readonly places: readonly Range[] | null };

interface Waiting {
  readonly resolve: (answered: Answered) => void;
  readonly reject: (error: Error) => void;
}

/** A model in a process of its own, bounded in memory. It hears several files at a time. */
export class Engine {
  private readonly running: ResultPromise<{ stdin: 'pipe'; stdout: 'pipe'; stderr: 'pipe'; reject: false; buffer: false }>;
  private readonly waiting = new Map<number, Waiting>();
  private next = 0;
  private ended = false;
  private readonly loaded: Promise<void>;

  /** @param tokenTimes whether it is asked when each token was said, which not every model of its kind can tell */
  constructor({ engine, files, tokens, bytes }: ModelFiles, language: string, tokenTimes = true) {
    const megabytes = Math.ceil(BASE_MEGABYTES + (TIMES_FILES * bytes) / 1e6);
    this.running = execa(process.execPath, ['--import', 'tsx', ENTRY], {
      stdin: 'pipe',
      stdout: 'pipe',
      stderr: 'pipe',
      reject: false,
      buffer: false,
    }) as typeof this.running;
    const stopLooking = endAbove(this.running.pid, megabytes, () => this.close());
    this.running.stdin.on('error', () => {});
    this.running.stderr.resume();
    this.loaded = new Promise((resolve, reject) => {
      const late = setTimeout(() => this.close(), LOAD_MS);
      const end = () => {
        clearTimeout(late);
        stopLooking();
        this.ended = true;
        reject(
          new MediaError(
            'The model cannot be loaded: its files do not fit together, or it is of a kind that the engine does not know.',
          ),
        );
        for (const { reject } of this.waiting.values()) reject(new MediaError(ENDED));
        this.waiting.clear();
      };
      this.running.then(end, end);
      createInterface({ input: this.running.stdout }).on('line', (line) => {
        const parsed = answer.safeParse(parseLine(line));
        // The engine itself may write there.
        if (!parsed.success) return;
        if ('ready' in parsed.data) {
          clearTimeout(late);
          resolve();
          return;
        }
        const { id } = parsed.data;
        const who = this.waiting.get(id);
        this.waiting.delete(id);
        if ('error' in parsed.data) who?.reject(new MediaError(parsed.data.error));
        else who?.resolve(parsed.data);
      });
    });
    this.loaded.catch(() => {});
    this.write({ engine, files: { ...files, ...OPTIONS[engine]?.(language.split('-')[0] ?? '', tokenTimes) }, tokens });
  }

  /** @throws MediaError when the model cannot be loaded */
  ready(): Promise<void> {
    return this.loaded;
  }

  /**
   * What is said in a WAV file of 16 kHz, one channel.
   * @throws MediaError when the engine ends, AbortError at once when it is cancelled: then the process is ended, since nothing else stops it
   */
  async hear(path: string, signal?: AbortSignal): Promise<Heard> {
    return heard.parse(await this.ask({ path }, signal));
  }

  /**
   * When words are said in a WAV file of 16 kHz, one channel, by what the network says of each frame.
   * @returns seconds from its start; undefined where it cannot tell
   * @throws as `hear` does
   */
  async place(path: string, words: readonly string[], signal?: AbortSignal): Promise<readonly Range[] | undefined> {
    const answered = await this.ask({ path, words }, signal);
    return 'places' in answered ? (answered.places ?? undefined) : undefined;
  }

  private async ask(what: object, signal?: AbortSignal): Promise<Answered> {
    await this.loaded;
    if (signal?.aborted) throw new DOMException('recognising was cancelled', 'AbortError');
    if (this.ended) throw new MediaError(ENDED);
    const id = this.next++;
    const answered = new Promise<Answered>((resolve, reject) => this.waiting.set(id, { resolve, reject }));
    const cancel = () => this.close();
    signal?.addEventListener('abort', cancel, { once: true });
    try {
      this.write({ id, ...what });
      return await answered;
    } catch (error) {
      if (signal?.aborted) throw new DOMException('recognising was cancelled', 'AbortError');
      throw error;
    } finally {
      signal?.removeEventListener('abort', cancel);
    }
  }

  close(): void {
    this.ended = true;
    this.running.kill('SIGKILL');
  }

  private write(what: unknown): void {
    this.running.stdin.write(`${JSON.stringify(what)}\n`);
  }
}

function parseLine(line: string): unknown {
  try {
    return JSON.parse(line);
  } catch {
    return undefined;
  }
}

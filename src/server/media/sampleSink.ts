import { execa, type ResultPromise } from 'execa';
import { SOUND_RATE } from '@/core/contract/sound.ts';
import { beyondBounds, bounded, type ProcessBounds } from './bounds.ts';
import { MediaError } from './ffmpeg.ts';

/** How samples are written down: ffmpeg's names. */
type SampleForm = 's16le' | 'f32le';

/** One process of ffmpeg that takes samples as they are made, at `SOUND_RATE`, as its first input. */
export class SampleSink {
  private readonly running: ResultPromise<{ stdin: 'pipe'; reject: false }>;
  /** that what was written before has gone through */
  private gone: Promise<unknown> = Promise.resolve();

  /**
   * @param options of ffmpeg behind that input
   * @param cwd where relative names of the options lie
   */
  constructor(
    form: SampleForm,
    channels: number,
    options: readonly string[],
    bounds: ProcessBounds,
    private readonly signal: AbortSignal,
    cwd?: string,
  ) {
    const input = ['-f', form, '-ar', String(SOUND_RATE), '-ac', String(channels), '-i', 'pipe:0'];
    this.running = execa(...bounded('ffmpeg', ['-hide_banner', '-nostats', '-v', 'info', '-y', ...input, ...options], bounds), {
      stdin: 'pipe',
      reject: false,
      cancelSignal: signal,
      maxBuffer: 4_000_000,
      ...(cwd !== undefined && { cwd }),
    }) as ResultPromise<{ stdin: 'pipe'; reject: false }>;
    // How it ended is told by the process itself.
    this.running.stdin.on('error', () => {});
  }

  /**
   * Takes samples, channels interleaved, and waits until those before them have gone through: meanwhile the next can be made.
   * @returns false when no more are taken
   */
  async write(samples: Float32Array | Int16Array): Promise<boolean> {
    const { stdin } = this.running;
    await this.gone;
    if (this.signal.aborted || stdin.destroyed) return false;
    if (samples.length > 0 && !stdin.write(Buffer.from(samples.buffer, samples.byteOffset, samples.byteLength)))
      this.gone = Promise.race([new Promise((resolve) => stdin.once('drain', resolve)), this.running]);
    return true;
  }

  /** @returns what ffmpeg said. @throws MediaError when the file could not be written, AbortError when it was cancelled */
  async end(): Promise<string> {
    this.running.stdin.end();
    const ended = await this.running;
    if (this.signal.aborted) throw new DOMException('writing was cancelled', 'AbortError');
    if (ended.exitCode !== 0) throw new MediaError(`The file could not be written. ${beyondBounds(ended) ?? ''}`.trim());
    return String(ended.stderr);
  }

  /** Ends it, whole or not. */
  close(): void {
    this.running.kill();
  }
}

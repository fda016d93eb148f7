import { wrap } from 'comlink';
import { CutView } from '@/core/assemble/packing.ts';
import type { DecisionState } from '@/core/decisions/replay.ts';
import type { TranscriptColumns } from '@/core/transcript/columns.ts';
import type { CutWorker } from '@/workers/cut.worker.ts';

/**
 * Keeps one worker busy with the newest question only: while it computes, later ones replace each other, so that a
 * slider that moves faster than the answers never falls behind.
 */
export class CutEngine {
  private readonly thread = new Worker(new URL('../../workers/cut.worker.ts', import.meta.url), { type: 'module' });
  private readonly worker = wrap<CutWorker>(this.thread);
  private waiting: DecisionState | undefined;
  private busy = false;

  constructor(private readonly onCut: (cut: CutView) => void) {}

  async load(
    duration: number,
    curves: readonly Uint8Array[],
    columns: TranscriptColumns | null,
  ): Promise<[number, number] | undefined> {
    await this.worker.load(duration, curves, columns);
    return this.worker.autoThreshold();
  }

  request(state: DecisionState): void {
    this.waiting = state;
    if (!this.busy) void this.run();
  }

  evidence(index: number): Promise<Readonly<Record<string, number>> | undefined> {
    return this.worker.evidence(index);
  }

  close(): void {
    this.thread.terminate();
  }

  private async run(): Promise<void> {
    this.busy = true;
    while (this.waiting) {
      const state = this.waiting;
      this.waiting = undefined;
      const packed = await this.worker.compute(state);
      if (packed) this.onCut(new CutView(packed));
    }
    this.busy = false;
  }
}

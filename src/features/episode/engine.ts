import { wrap } from 'comlink';
import { CutView } from '@/core/assemble/packing.ts';
import type { SeamMeasure, SeamRisk } from '@/core/assemble/risk.ts';
import type { Join } from '@/core/assemble/splice.ts';
import type { DecisionState } from '@/core/decisions/replay.ts';
import type { LevelHistogram } from '@/core/detect/overview.ts';
import type { Rhythm } from '@/core/detect/rhythm.ts';
import type { Settings } from '@/core/detect/settings.ts';
import type { TakeGroup } from '@/core/detect/takes/takes.ts';
import type { Range } from '@/core/time/range.ts';
import type { CutWorker, LoadedMaterial } from '@/workers/cut.worker.ts';

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

  async load(material: LoadedMaterial): Promise<[number, number] | undefined> {
    await this.worker.load(material);
    return this.worker.autoThreshold();
  }

  request(state: DecisionState): void {
    this.waiting = state;
    if (!this.busy) void this.run();
  }

  evidence(index: number): Promise<Readonly<Record<string, number>> | undefined> {
    return this.worker.evidence(index);
  }

  reasons(index: number): Promise<string[]> {
    return this.worker.reasons(index);
  }

  seam(index: number): Promise<SeamMeasure | undefined> {
    return this.worker.seam(index);
  }

  riskiest(count: number): Promise<SeamRisk[]> {
    return this.worker.riskiest(count);
  }

  takes(): Promise<TakeGroup[]> {
    return this.worker.takes();
  }

  join(left: Range, right: Range, word: number): Promise<Join | undefined> {
    return this.worker.join(left, right, word);
  }

  like(shown: Range): Promise<Range[]> {
    return this.worker.like(shown);
  }

  rhythm(settings: Settings): Promise<Rhythm | undefined> {
    return this.worker.rhythm(settings);
  }

  histogram(settings: Settings): Promise<LevelHistogram | undefined> {
    return this.worker.histogram(settings);
  }

  /** The cut under other decisions, apart from the one that is followed; undefined before anything is loaded. */
  async aside(state: DecisionState): Promise<CutView | undefined> {
    const packed = await this.worker.aside(state);
    return packed && new CutView(packed);
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

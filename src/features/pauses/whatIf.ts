import { type Remote, wrap } from 'comlink';
import type { DecisionState } from '@/core/decisions/replay.ts';
import type { CutWorker, MaterialAddresses } from '@/workers/cut.worker.ts';
import { startThread } from '../episode/thread.ts';
import { withDraft } from '../episode/tuning.ts';

/** What would come out at one value of a setting. */
export interface WhatIfPoint {
  readonly value: number;
  /** length of the programme in seconds */
  readonly length: number;
  readonly seams: number;
}

export const POINTS = 60;

/** More threads than this wait for memory more than they compute. */
const MOST_THREADS = 3;

/**
 * Computes what other values of a setting would give, in threads of its own, so that a slider never waits for it. A new
 * question ends the one before.
 */
export class WhatIf {
  private readonly threads = Array.from({ length: Math.min(MOST_THREADS, navigator.hardwareConcurrency) }, startThread);
  private readonly workers: readonly Remote<CutWorker>[] = this.threads.map((thread) => wrap<CutWorker>(thread));
  private readonly loaded: Promise<unknown>;
  private question = 0;

  constructor(material: MaterialAddresses) {
    this.loaded = Promise.all(this.workers.map((worker) => worker.load(material)));
  }

  /**
   * @param target the marked range whose setting it is; undefined for that of the whole
   * @returns all points, or undefined when another question came first
   */
  async ask(
    state: DecisionState,
    target: string | undefined,
    name: 'threshold' | 'minPause',
    values: readonly number[],
  ): Promise<WhatIfPoint[] | undefined> {
    const question = ++this.question;
    await this.loaded;
    const points: WhatIfPoint[] = [];
    let next = 0;
    // Each takes the next value that is left: some values take longer than others.
    const work = async (worker: Remote<CutWorker>) => {
      while (question === this.question && next < values.length) {
        const at = next++;
        const value = values[at] as number;
        const outcome = await worker.outcome(withDraft(state, target, { [name]: value }));
        if (outcome) points[at] = { value, ...outcome };
      }
    };
    await Promise.all(this.workers.map(work));
    if (question !== this.question) return undefined;
    performance.mark('zetemis:what-if', { detail: { name, points: points.length } });
    return points.filter((point) => point !== undefined);
  }

  close(): void {
    this.question++;
    for (const thread of this.threads) thread.terminate();
  }
}

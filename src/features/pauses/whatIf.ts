import { type Remote, wrap } from 'comlink';
import type { DecisionState } from '@/core/decisions/replay.ts';
import type { CutWorker, MaterialAddresses } from '@/workers/cut.worker.ts';
import { startThread } from '../episode/thread.ts';

/** What would come out at one value of a setting. */
export interface WhatIfPoint {
  readonly value: number;
  /** length of the programme in seconds */
  readonly length: number;
  readonly seams: number;
}

export const POINTS = 60;

/**
 * Computes what other values of a setting would give, in a worker of its own, so that a slider never waits for it. A
 * new question ends the one before.
 */
export class WhatIf {
  private readonly thread = startThread();
  private readonly worker: Remote<CutWorker> = wrap<CutWorker>(this.thread);
  private readonly loaded: Promise<unknown>;
  private question = 0;

  constructor(material: MaterialAddresses) {
    this.loaded = this.worker.load(material);
  }

  /** @returns all points, or undefined when another question came first */
  async ask(state: DecisionState, name: 'threshold' | 'minPause', values: readonly number[]): Promise<WhatIfPoint[] | undefined> {
    const question = ++this.question;
    await this.loaded;
    const points: WhatIfPoint[] = [];
    for (const value of values) {
      if (question !== this.question) return undefined;
      const outcome = await this.worker.outcome({ ...state, settings: { ...state.settings, [name]: value } });
      if (outcome) points.push({ value, ...outcome });
    }
    if (question !== this.question) return undefined;
    performance.mark('zetemis:what-if', { detail: { name, points: points.length } });
    return points;
  }

  close(): void {
    this.question++;
    this.thread.terminate();
  }
}

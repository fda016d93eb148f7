import { type Remote, wrap } from 'comlink';
import type { DecisionState } from '@/core/decisions/replay.ts';
import type { CutWorker, MaterialAddresses } from '@/workers/cut.worker.ts';
import { withDraft } from '../episode/review/tuning.ts';
import { startThread } from '../episode/session/thread.ts';

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

/** Getting a thread ready takes about as long as so many points. */
const THREAD_WORTH = 40;

/** The settings that curves are drawn over. */
export type WhatIfSetting = 'threshold' | 'minPause';

export interface WhatIfQuestion {
  readonly state: DecisionState;
  /** the marked range whose setting it is; undefined for that of the whole */
  readonly target: string | undefined;
  readonly name: WhatIfSetting;
  readonly values: readonly number[];
}

/** All points, or undefined when another question came first. */
type Answer = Promise<WhatIfPoint[] | undefined>;

/**
 * Computes what other values of a setting would give, in threads of its own, so that a slider never waits for it. A new
 * question ends the one before. What is known about one state of things is not worked out again.
 */
export class WhatIf {
  private readonly threads = Array.from({ length: Math.min(MOST_THREADS, navigator.hardwareConcurrency) }, startThread);
  private readonly workers: readonly Remote<CutWorker>[] = this.threads.map((thread) => wrap<CutWorker>(thread));
  private readonly loading: readonly Promise<unknown>[];
  private isLoaded = false;
  private asked: WhatIfQuestion | undefined;
  private tell: (share: number) => void = () => {};
  /** answers, and those on their way, about one state of things */
  private known: { readonly question: WhatIfQuestion; readonly answer: Answer }[] = [];

  constructor(material: MaterialAddresses) {
    this.loading = this.workers.map((worker) => worker.load(material));
  }

  /** @param onShare told how much of it is done, 0..1; whoever asked before is told no more */
  ask(question: WhatIfQuestion, onShare: (share: number) => void): Answer {
    this.tell = onShare;
    const same = this.known.find((other) => isSame(other.question, question));
    if (same) return same.answer;
    // What is not done yet ends here, and is no answer.
    const { state, target } = question;
    this.known = this.known.filter(
      (other) => other.question !== this.asked && other.question.state === state && other.question.target === target,
    );
    this.asked = question;
    const answer = this.workOut(question);
    this.known.push({ question, answer });
    return answer;
  }

  private async workOut(question: WhatIfQuestion): Answer {
    const { state, target, name, values } = question;
    const isAsked = () => this.asked === question;
    const all = values.length + (this.isLoaded ? 0 : THREAD_WORTH * this.threads.length);
    let done = 0;
    const count = (more: number) => {
      done += more;
      if (isAsked()) this.tell(done / all);
    };
    if (!this.isLoaded) await Promise.all(this.loading.map((one) => one.then(() => count(THREAD_WORTH))));
    this.isLoaded = true;
    const start = performance.now();
    const points: WhatIfPoint[] = [];
    let next = 0;
    // Each takes the next value that is left: some values take longer than others.
    const work = async (worker: Remote<CutWorker>) => {
      while (isAsked() && next < values.length) {
        const at = next++;
        const value = values[at] as number;
        const outcome = await worker.outcome(withDraft(state, target, { [name]: value }));
        if (outcome) points[at] = { value, ...outcome };
        count(1);
      }
    };
    await Promise.all(this.workers.map(work));
    if (!isAsked()) return undefined;
    this.asked = undefined;
    performance.measure('zetemis:what-if', { start, detail: { name, points: points.length } });
    return points.filter((point) => point !== undefined);
  }

  close(): void {
    this.asked = undefined;
    for (const thread of this.threads) thread.terminate();
  }
}

const isSame = (a: WhatIfQuestion, b: WhatIfQuestion): boolean =>
  a.state === b.state && a.target === b.target && a.name === b.name && a.values.join() === b.values.join();

import { type ChildProcess, fork } from 'node:child_process';
import { join } from 'node:path';
import { z } from 'zod';
import { endAbove } from '../media/resident.ts';
import { ROOT } from '../root.ts';
import { BeyondBounds, type Computation } from './computations.ts';

export interface ComputeBounds {
  readonly seconds: number;
  readonly megabytes: number;
}

/** A cut of three hours takes two to six seconds and 700 MB here. */
const BOUNDS: ComputeBounds = { seconds: 120, megabytes: 3000 };

const answer = z.object({ error: z.string().optional() });

/** A process that computes, one thing at a time. It starts when it is first needed, and again after it was ended. */
export class ComputeProcess {
  private child: ChildProcess | undefined;

  constructor(private readonly bounds: ComputeBounds = BOUNDS) {}

  /** @throws BeyondBounds when it took more than it may, Error with what went wrong otherwise */
  readonly compute = async (what: Computation, id: string): Promise<void> => {
    this.child ??= this.start();
    const child = this.child;
    let beyond: string | undefined;
    const end = (why: string) => {
      beyond = why;
      child.kill('SIGKILL');
    };
    const deadline = setTimeout(() => end(`It took longer than ${this.bounds.seconds} seconds.`), this.bounds.seconds * 1000);
    const { megabytes } = this.bounds;
    const stopLooking = endAbove(child.pid, megabytes, () => end(`It took more than ${megabytes} MB of memory.`));
    try {
      await new Promise<void>((resolve, reject) => {
        child.once('message', (message) => {
          const { error } = answer.parse(message);
          if (error === undefined) resolve();
          else reject(new Error(error));
        });
        child.once('exit', (_, signal) =>
          // Node ends itself with SIGABRT when its heap is full.
          reject(
            beyond !== undefined || signal === 'SIGABRT'
              ? new BeyondBounds(beyond ?? `It took more than ${this.bounds.megabytes} MB of memory.`)
              : new Error('the process that computes ended'),
          ),
        );
        child.send({ what, id }, (error) => error && reject(error));
      });
    } finally {
      clearTimeout(deadline);
      stopLooking();
      child.removeAllListeners('message');
      child.removeAllListeners('exit');
      if (child.exitCode !== null || child.signalCode !== null || beyond !== undefined) this.child = undefined;
    }
  };

  close(): void {
    this.child?.disconnect();
    this.child = undefined;
  }

  private start(): ChildProcess {
    const child = fork(join(ROOT, 'src/workers/compute.ts'), {
      execArgv: ['--import', 'tsx', `--max-old-space-size=${this.bounds.megabytes}`],
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    });
    child.once('exit', () => {
      if (this.child === child) this.child = undefined;
    });
    return child;
  }
}

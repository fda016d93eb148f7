import { setTimeout as sleep } from 'node:timers/promises';

/** SQLSTATE: connections (class 08), a server that stops, was stopped, or is not ready yet. */
const STATES = /^(08...|57P0[123])$/;
const SYSTEM = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', 'ENOTFOUND', 'EHOSTUNREACH', 'EAI_AGAIN']);
const SAID =
  /Connection terminated|connection timeout|timeout exceeded when trying to connect|Client has encountered a connection error/i;

/** Whether an error says that the database is away, and not that it refused something. */
export function isOutage(error: unknown): boolean {
  if (error instanceof AggregateError) return error.errors.some(isOutage);
  if (!(error instanceof Error)) return false;
  const { code = '' } = error as NodeJS.ErrnoException;
  return STATES.test(code) || SYSTEM.has(code) || SAID.test(error.message) || error.name === 'KnexTimeoutError';
}

const FIRST_WAIT_MS = 250;
const LONGEST_WAIT_MS = 10_000;

/** The wait after so many failures, in milliseconds. @param chance 0..1 */
export const waitAfter = (times: number, chance: number): number =>
  Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** times) * (0.5 + chance / 2);

/** Waits that grow, each with some chance in it, so that many who wait do not come back at one moment. */
export class GrowingWait {
  private times = 0;

  /** @throws what `signal` was aborted with */
  async next(signal?: AbortSignal): Promise<void> {
    await sleep(waitAfter(this.times++, Math.random()), undefined, signal && { signal });
  }

  reset(): void {
    this.times = 0;
  }
}

/**
 * Does something in the database, again and again while that is away. What it does must come to the same when done twice: an
 * answer may have been lost on its way.
 */
export async function outlast<T>(work: () => Promise<T>, signal?: AbortSignal): Promise<T> {
  for (const wait = new GrowingWait(); ; ) {
    try {
      return await work();
    } catch (error) {
      if (!isOutage(error)) throw error;
      await wait.next(signal);
    }
  }
}

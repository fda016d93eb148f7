/** A thread that computes cuts. */
export const startThread = (): Worker => new Worker(new URL('../../workers/cut.worker.ts', import.meta.url), { type: 'module' });

// The page imports this file by itself, ahead of all others: the thread gets ready while they are still on their way.
let first: Worker | undefined = startThread();

/** The thread that was started with the page, or another one when that is taken. */
export function takeThread(): Worker {
  const thread = first ?? startThread();
  first = undefined;
  return thread;
}

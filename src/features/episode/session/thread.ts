declare global {
  /** The thread that a page may start before anything else; see `pages/episodes/[id].astro`. */
  var zetemisThread: Worker | undefined;
}

/** Whether the page has started one: it does where nobody knows the cut yet. */
export const isThreadAhead = (): boolean => globalThis.zetemisThread !== undefined;

/** A thread that computes cuts. */
export const startThread = (): Worker =>
  new Worker(new URL('../../../workers/cut.worker.ts', import.meta.url), { type: 'module' });

/** The thread that was started with the page, or another one when that is taken. */
export function takeThread(): Worker {
  const thread = globalThis.zetemisThread ?? startThread();
  globalThis.zetemisThread = undefined;
  return thread;
}

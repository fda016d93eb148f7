import { setTimeout as sleep } from 'node:timers/promises';

/** Something that runs. */
export interface Running {
  /** resolves when it has ended, with how */
  readonly ended: Promise<unknown>;
  stop(): Promise<void>;
}

const FIRST_WAIT_MS = 500;
const LONGEST_WAIT_MS = 15_000;
/** What ran for so long is none that ends as soon as it starts. */
const SETTLED_MS = 60_000;

/**
 * Keeps something running: what ends by itself is started again, after waits that grow while it keeps on ending.
 * @param first what runs already
 * @param start starts it anew
 * @returns a function that stops it for good
 */
export function supervise(
  name: string,
  first: Running,
  start: () => Promise<Running>,
  say: (line: string) => void,
): () => Promise<void> {
  let running = first;
  let stopped = false;
  const watching = (async () => {
    let times = 0;
    for (let began = Date.now(); ; began = Date.now()) {
      const how = await running.ended;
      if (stopped) return;
      if (Date.now() - began > SETTLED_MS) times = 0;
      const wait = Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** times++);
      say(`the ${how || name} ended by itself; it is started again`);
      for (let isUp = false; !isUp && !stopped; ) {
        await sleep(wait);
        if (stopped) return;
        isUp = await start().then(
          (next) => {
            running = next;
            return true;
          },
          (error) => {
            say(`the ${name} cannot be started: ${(error as Error).message.split('\n')[0]}`);
            return false;
          },
        );
      }
      // Whoever stopped meanwhile stopped the one before.
      if (stopped) return void (await running.stop());
    }
  })();
  return async () => {
    stopped = true;
    await running.stop();
    await Promise.race([watching, sleep(LONGEST_WAIT_MS, undefined, { ref: false })]);
  };
}

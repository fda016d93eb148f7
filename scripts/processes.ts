import { readFileSync } from 'node:fs';
import { setTimeout as sleep } from 'node:timers/promises';

/** A process that is known again: numbers are given out anew, but never with the same moment of birth. */
export interface KnownProcess {
  readonly pid: number;
  /** in clock ticks since the machine started; field 22 of /proc/PID/stat (proc(5)) */
  readonly born: string;
}

export function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

/** undefined when there is none of that number */
export function knownProcess(pid: number): KnownProcess | undefined {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'latin1');
    // The name, in brackets, may hold anything. A zombie has ended already.
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
    return fields[0] === 'Z' ? undefined : { pid, born: fields[19] as string };
  } catch {
    return undefined;
  }
}

export const isStill = ({ pid, born }: KnownProcess): boolean => knownProcess(pid)?.born === born;

const PATIENCE_MS = 8000;

/** Ends a process that is not a child of this one: asked first, then without asking. */
export async function endProcess(known: KnownProcess): Promise<void> {
  for (const signal of ['SIGTERM', 'SIGKILL'] as const) {
    if (!isStill(known)) return;
    process.kill(known.pid, signal);
    for (const until = Date.now() + PATIENCE_MS; isStill(known) && Date.now() < until; ) await sleep(50);
  }
}

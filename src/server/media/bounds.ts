import { availableParallelism } from 'node:os';

/**
 * What a process of ours may use. Files come from anywhere, and a few bytes of one can ask for gigabytes.
 */
export interface ProcessBounds {
  /** of address space, which is more than what is really held */
  readonly megabytes: number;
  readonly cpuSeconds: number;
  /** largest file it may write */
  readonly writesMegabytes: number;
}

/** Each thread of a decoder takes its part of the address space, and there is one a core. */
const threads = availableParallelism();
const megabytes = (base: number): number => base + 100 * threads;

/** Reading the sound of so many seconds. */
export const boundsForSound = (seconds: number): ProcessBounds => ({
  megabytes: megabytes(4000),
  cpuSeconds: 120 + Math.ceil(seconds),
  writesMegabytes: 10,
});

/** Encoding so many seconds of sound. */
export const boundsForSoundFile = (seconds: number): ProcessBounds => ({
  ...boundsForSound(seconds),
  writesMegabytes: 50 + Math.ceil(0.25 * seconds),
});

/** Decoding and encoding the picture of so many seconds. */
export const boundsForPicture = (seconds: number): ProcessBounds => ({
  megabytes: megabytes(8000),
  cpuSeconds: 300 + 60 * Math.ceil(seconds),
  writesMegabytes: 100 + 3 * Math.ceil(seconds),
});

/** Looking into a file. */
export const BOUNDS_FOR_A_LOOK: ProcessBounds = { megabytes: megabytes(4000), cpuSeconds: 60, writesMegabytes: 10 };

/** A program and its arguments, run under limits of the system (prlimit(1)). */
export const bounded = (
  program: string,
  args: readonly string[],
  { megabytes, cpuSeconds, writesMegabytes }: ProcessBounds,
): [program: string, args: string[]] => [
  'prlimit',
  [
    `--as=${megabytes * 1_000_000}`,
    // Asked to end first, a second before it is ended.
    `--cpu=${cpuSeconds}:${cpuSeconds + 1}`,
    `--fsize=${writesMegabytes * 1_000_000}`,
    '--core=0',
    '--',
    program,
    ...args,
  ],
];

/** What stopped a job is not about the file and may be over soon: a full disk, or somebody who ended the process. */
export class PassingTrouble extends Error {
  constructor(
    message: string,
    readonly isFull = false,
  ) {
    super(message);
  }
}

const FULL = 'The disk of the server is full.';
const ENDED = 'Something ended the program that reads the file, perhaps for want of memory.';

export const isDiskFull = (error: unknown): boolean => {
  const { code } = (error ?? {}) as NodeJS.ErrnoException;
  // 53100 is PostgreSQL's own disk_full.
  return code === 'ENOSPC' || code === 'EDQUOT' || code === '53100';
};

/** An error as a passing trouble, where it is one. */
export const asPassing = (error: unknown): PassingTrouble | undefined => {
  if (error instanceof PassingTrouble) return error;
  return isDiskFull(error) ? new PassingTrouble(FULL, true) : undefined;
};

interface Ended {
  readonly exitCode?: number | undefined;
  readonly signal?: string | undefined;
  readonly stderr?: unknown;
}

/**
 * Why a bounded process ended as it did, where that is not about what is in the file.
 * @throws PassingTrouble when it may do better later
 * @returns what it went beyond, fit to show; undefined when it is the file after all
 */
export function beyondBounds({ exitCode, signal, stderr }: Ended): string | undefined {
  const said = String(stderr ?? '');
  if (/No space left on device|Disk quota exceeded/i.test(said)) throw new PassingTrouble(FULL, true);
  if (signal === 'SIGXCPU' || exitCode === 152) return 'It took far longer to read than a recording of its length may.';
  if (signal === 'SIGXFSZ' || exitCode === 153 || /File too large/i.test(said)) return 'What it would become is far too large.';
  if (/Cannot allocate memory|Out of memory/i.test(said)) return 'It asks for more memory than a recording of its length may.';
  if (signal === 'SIGKILL' || exitCode === 137) throw new PassingTrouble(ENDED);
  return undefined;
}

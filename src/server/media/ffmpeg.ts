import { existsSync } from 'node:fs';
import type { Socket } from 'node:net';
import type { Readable } from 'node:stream';
import { execa } from 'execa';
import { BOUNDS_FOR_A_LOOK, beyondBounds, bounded, type ProcessBounds } from './bounds.ts';

/**
 * Containers that hold their own media. Playlists, image sequences, concatenation scripts and the like are not
 * among them: they can point at other files or at the network.
 */
const FORMATS = 'mov,mp4,m4a,3gp,matroska,webm,wav,w64,flac,mp3,aac,ogg,aiff,caf,mpegts,avi,mxf,asf,flv,amr,ac3,au';

/** Put before each input: local files of known containers only, and the name never read as an option or protocol. */
export const inputArguments = (path: string): string[] => [
  '-protocol_whitelist',
  'file,pipe',
  '-format_whitelist',
  FORMATS,
  '-i',
  `file:${path}`,
];

/** A process that gives nothing for so long is stuck. */
const SILENT_MS = 300_000;

const QUIET = ['-hide_banner', '-nostdin', '-v', 'error'];

/** A file that cannot be used; `message` says why and what to do, and is fit to show. */
export class MediaError extends Error {}

/** What comes out of a file is far longer than its head says. */
export const NOT_AS_TOLD =
  'The file says how long it is, and its sound or picture runs on far beyond that: its times are damaged. Copy it again, or convert it first.';

/** Runs ffprobe and parses its JSON. @throws MediaError when the file is no media this program reads */
export async function ffprobe(path: string, options: readonly string[]): Promise<unknown> {
  const ended = await execa(
    ...bounded('ffprobe', ['-v', 'error', '-of', 'json', ...options, ...inputArguments(path)], BOUNDS_FOR_A_LOOK),
    { reject: false, timeout: 60_000, maxBuffer: 16_000_000 },
  );
  const { stdout, exitCode, timedOut } = ended;
  const beyond = exitCode !== 0 && !timedOut && beyondBounds(ended);
  if (beyond) throw new MediaError(`The file cannot be used. ${beyond}`);
  if (timedOut) throw new MediaError('Looking into the file took over a minute; it is probably damaged.');
  if (exitCode !== 0 && !existsSync(path)) throw new MediaError('There is no such file.');
  if (exitCode !== 0)
    throw new MediaError('This is no audio or video file that can be read: it is damaged, cut short, or of another kind.');
  return JSON.parse(stdout);
}

/**
 * Starts ffmpeg with `pipes` pipes to read from, its file descriptors 3, 4, …; `cancelSignal` ends it. The promise
 * resolves when it has ended, failed or not, with what it said on stderr. Relative names in filters lie in `cwd`.
 */
export function startFfmpeg(
  options: readonly string[],
  pipes: number,
  bounds: ProcessBounds,
  signal?: AbortSignal,
  cwd?: string,
) {
  const extra = Array.from({ length: pipes }, (_, k) => k + 3);
  const silent = new AbortController();
  const running = execa(...bounded('ffmpeg', [...QUIET, ...options], bounds), {
    stdio: ['ignore', 'ignore', 'pipe', ...extra.map(() => 'pipe' as const)],
    buffer: { stderr: true, ...Object.fromEntries(extra.map((fd) => [`fd${fd}`, false])) },
    maxBuffer: 64_000,
    reject: false,
    ...(cwd !== undefined && { cwd }),
    cancelSignal: signal ? AbortSignal.any([signal, silent.signal]) : silent.signal,
  });
  const outputs = extra.map((fd) => running.stdio[fd] as Readable);
  let heard = { bytes: 0, at: Date.now() };
  const watching = setInterval(() => {
    const bytes = outputs.reduce((sum, output) => sum + (output as Socket).bytesRead, 0);
    if (bytes !== heard.bytes) heard = { bytes, at: Date.now() };
    else if (Date.now() - heard.at > SILENT_MS) silent.abort();
  }, SILENT_MS / 10);
  const stop = () => clearInterval(watching);
  running.then(stop, stop);
  return { running, outputs };
}

/**
 * Checks how a process ended that was not cancelled.
 * @param what cannot be done with the file then, fit to show
 * @throws MediaError, or PassingTrouble when it is not the file's fault
 */
export function checkEnded(ended: Awaited<ReturnType<typeof startFfmpeg>['running']>, what: string): void {
  if (ended.isCanceled) throw new MediaError(`${what} Nothing has come of it for ${SILENT_MS / 60_000} minutes.`);
  if (ended.exitCode === 0) return;
  throw new MediaError([what, beyondBounds(ended)].filter(Boolean).join(' '));
}

/** How far a process is that was started with `-progress`, as it tells of itself again and again. */
export async function* progressOf(output: NodeJS.ReadableStream): AsyncGenerator<{ frames?: number; seconds?: number }> {
  let rest = '';
  for await (const chunk of output) {
    const lines = (rest + String(chunk)).split('\n');
    rest = lines.pop() ?? '';
    for (const line of lines) {
      const [, name, value] = /^(frame|out_time_us)=\s*(\d+)/.exec(line) ?? [];
      if (name === 'frame') yield { frames: Number(value) };
      else if (name === 'out_time_us') yield { seconds: Number(value) / 1e6 };
    }
  }
}

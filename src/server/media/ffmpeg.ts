import type { Readable } from 'node:stream';
import { execa } from 'execa';

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

const QUIET = ['-hide_banner', '-nostdin', '-v', 'error'];

/** A file that cannot be used; `message` says why and what to do, and is fit to show. */
export class MediaError extends Error {}

/** Runs ffprobe and parses its JSON. @throws MediaError when the file is no media this program reads */
export async function ffprobe(path: string, options: readonly string[]): Promise<unknown> {
  const { stdout, exitCode, timedOut } = await execa(
    'ffprobe',
    ['-v', 'error', '-of', 'json', ...options, ...inputArguments(path)],
    { reject: false, timeout: 60_000, maxBuffer: 16_000_000 },
  );
  if (timedOut) throw new MediaError('Looking into the file took over a minute; it is probably damaged.');
  if (exitCode !== 0)
    throw new MediaError('This is no audio or video file that can be read: it is damaged, cut short, or of another kind.');
  return JSON.parse(stdout);
}

/**
 * Starts ffmpeg with `pipes` pipes to read from, its file descriptors 3, 4, …; `cancelSignal` ends it. The promise
 * resolves when it has ended, failed or not, with what it said on stderr.
 */
export function startFfmpeg(options: readonly string[], pipes: number, signal?: AbortSignal) {
  const extra = Array.from({ length: pipes }, (_, k) => k + 3);
  const running = execa('ffmpeg', [...QUIET, ...options], {
    stdio: ['ignore', 'ignore', 'pipe', ...extra.map(() => 'pipe' as const)],
    buffer: { stderr: true, ...Object.fromEntries(extra.map((fd) => [`fd${fd}`, false])) },
    maxBuffer: 64_000,
    reject: false,
    ...(signal && { cancelSignal: signal }),
  });
  return { running, outputs: extra.map((fd) => running.stdio[fd] as Readable) };
}

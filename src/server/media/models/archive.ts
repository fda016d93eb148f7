import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, open } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { Duplex, Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { promisify } from 'node:util';
import { createGunzip } from 'node:zlib';
import tar from 'tar-stream';
import bunzip from 'unbzip2-stream';
import { type Entry, type Options, open as openZip, type ZipFile } from 'yauzl';
import { MediaError } from '../ffmpeg.ts';

/** What an archive may unpack to: far more than any recogniser. */
const BOUNDS = { bytes: 20e9, files: 5000 } as const;

/** Kinds of archives by how they begin. */
const KINDS = [
  { kind: 'bzip2', begins: [0x42, 0x5a, 0x68] },
  { kind: 'gzip', begins: [0x1f, 0x8b] },
  { kind: 'zip', begins: [0x50, 0x4b, 0x03, 0x04] },
] as const;

/**
 * Unpacks a tar file, plain or made small by bzip2 or gzip, or a zip file. Nothing is written outside the folder; links and devices are left out.
 * @param onBytes told how much of the archive has been read
 * @throws MediaError where it is no such archive, is cut short, or holds more than a model can be
 */
export async function unpack(
  archive: string,
  folder: string,
  { signal, onBytes = () => {} }: { readonly signal?: AbortSignal | undefined; readonly onBytes?: (bytes: number) => void } = {},
): Promise<void> {
  const kind = await kindOf(archive);
  const room = { bytes: BOUNDS.bytes as number, files: BOUNDS.files as number };
  try {
    if (kind === 'zip') await unzip(archive, folder, room, onBytes, signal);
    else await untar(archive, kind, folder, room, onBytes, signal);
  } catch (error) {
    if (signal?.aborted) throw new DOMException('adding a model was cancelled', 'AbortError');
    if (error instanceof MediaError || (error as NodeJS.ErrnoException).code === 'ENOSPC') throw error;
    throw new MediaError('The archive is damaged or cut short.');
  }
}

async function kindOf(path: string): Promise<'bzip2' | 'gzip' | 'zip' | 'tar'> {
  const file = await open(path, 'r');
  try {
    const head = Buffer.alloc(265);
    const { bytesRead } = await file.read(head, 0, head.length, 0);
    const known = KINDS.find(({ begins }) => begins.every((byte, k) => head[k] === byte));
    if (known) return known.kind;
    if (bytesRead >= 262 && head.subarray(257, 262).toString('latin1') === 'ustar') return 'tar';
    throw new MediaError('This is no archive that can be read: a model comes as .tar.bz2, .tar.gz, .tar or .zip.');
  } finally {
    await file.close();
  }
}

interface Room {
  bytes: number;
  files: number;
}

/** Where in the folder an entry goes; undefined for what has no business there. */
function placeFor(name: string, folder: string): string | undefined {
  const parts = name.split(/[\\/]+/).filter((part) => part !== '' && part !== '.');
  if (name.startsWith('/') || parts.length === 0 || parts.some((part) => part === '..' || /[\0:]/.test(part))) return undefined;
  return join(folder, ...parts);
}

function take(room: Room, bytes: number): void {
  room.bytes -= bytes;
  if (room.bytes < 0 || room.files < 0) throw new MediaError('The archive holds more than a model can be.');
}

async function untar(
  path: string,
  kind: 'bzip2' | 'gzip' | 'tar',
  folder: string,
  room: Room,
  onBytes: (bytes: number) => void,
  signal?: AbortSignal,
): Promise<void> {
  const source = createReadStream(path);
  let read = 0;
  source.on('data', (chunk) => {
    read += chunk.length;
    onBytes(read);
  });
  const extract = tar.extract();
  const stages = kind === 'bzip2' ? [bunzip()] : kind === 'gzip' ? [createGunzip()] : [];
  const reading = pipeline([source, ...stages, extract as unknown as Duplex], { signal });
  const writing = (async () => {
    for await (const entry of extract) {
      const { type, name, size = 0 } = entry.header;
      const place = type === 'file' ? placeFor(name, folder) : undefined;
      room.files--;
      // Its size is what is read of it, whatever comes behind.
      take(room, size);
      if (!place) {
        entry.resume();
        continue;
      }
      await mkdir(dirname(place), { recursive: true });
      await pipeline(entry as unknown as Readable, createWriteStream(place, { flags: 'wx' }));
    }
  })();
  await Promise.all([reading, writing]);
}

async function unzip(
  path: string,
  folder: string,
  room: Room,
  onBytes: (bytes: number) => void,
  signal?: AbortSignal,
): Promise<void> {
  const archive = await promisify<string, Options, ZipFile>(openZip)(path, { lazyEntries: true, autoClose: true });
  const streamOf = promisify<Entry, Readable>(archive.openReadStream.bind(archive));
  let read = 0;
  await new Promise<void>((resolve, reject) => {
    const entryIn = async (entry: Entry) => {
      room.files--;
      take(room, entry.uncompressedSize);
      const place = entry.fileName.endsWith('/') ? undefined : placeFor(entry.fileName, folder);
      if (place) {
        await mkdir(dirname(place), { recursive: true });
        await pipeline(await streamOf(entry), createWriteStream(place, { flags: 'wx' }), { signal });
      }
      read += entry.compressedSize;
      onBytes(read);
      archive.readEntry();
    };
    archive.on('entry', (entry: Entry) => {
      entryIn(entry).catch((error) => {
        archive.close();
        reject(error);
      });
    });
    archive.on('end', resolve);
    archive.on('error', reject);
    archive.readEntry();
  });
}

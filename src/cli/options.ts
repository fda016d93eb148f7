import { statSync } from 'node:fs';
import { dirname } from 'node:path';
import { MediaError } from '@/server/media/ffmpeg.ts';

/** An option that may be given several times. */
export const collect = (value: string, before: string[] = []): string[] => [...before, value];

/** Looked at before minutes of measuring. @throws MediaError where there is no folder for a file that is to be written */
export function checkTargets(...paths: readonly string[]): void {
  for (const path of paths)
    if (path !== '-' && !statSync(dirname(path), { throwIfNoEntry: false })?.isDirectory())
      throw new MediaError(`There is no folder ${dirname(path)} to write into.`);
}

import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';

/** The folder of the program, wherever its code was bundled to: what ships beside the code is found from there. */
export const ROOT = rootAbove(import.meta.dirname);

function rootAbove(folder: string): string {
  if (existsSync(join(folder, 'package.json')) && existsSync(join(folder, 'src'))) return folder;
  const above = dirname(folder);
  if (above === folder) throw new Error('the folder of the program cannot be found');
  return rootAbove(above);
}

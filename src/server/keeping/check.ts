import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { db } from '../db/connection.ts';
import { stateOfFile } from '../episodes/files.ts';
import { forgetUnused } from '../episodes/removal.ts';
import { noticeLost } from '../jobs/missing.ts';
import { isProxyLost, lostJobs } from '../media/lost.ts';
import { findMedium } from '../media/media.ts';
import { contentId, mediumFolder } from '../media/store.ts';
import { mediaInStore, orphans } from '../sweep.ts';

/** Something that is not as it should be. */
export interface Fault {
  readonly media: string;
  /** file names under which people know it */
  readonly names: readonly string[];
  readonly what: 'file missing' | 'file damaged' | 'file exchanged' | 'measures missing' | 'belongs to nothing';
  /** what was done about it, or can be */
  readonly help: string;
  readonly isMended: boolean;
}

/**
 * Compares files and database.
 * @param mend queues what can be measured again, and clears away what belongs to nothing
 * @param reads whether whole files are read and compared with their names
 */
export async function check({ mend, reads }: { mend: boolean; reads: boolean }): Promise<Fault[]> {
  const faults: Fault[] = [];
  for (const id of (await db('media').orderBy('created_at').pluck('id')) as string[]) {
    const medium = await findMedium(id);
    const names = await db('recordings').where({ media_id: id }).distinct().pluck('file_name');
    const fault = (what: Fault['what'], help: string, isMended = false) =>
      faults.push({ media: id, names, what, help, isMended });
    const state = await stateOfFile(medium);
    if (state === 'missing') fault('file missing', 'Bring it in again, or restore it from a backup: what was decided is there.');
    else if (state === 'replaced')
      fault('file exchanged', 'Open its episode, and have the new file measured or the old one put back.');
    else if (reads && medium.linkedPath === null && (await contentId(join(mediumFolder(id), 'original'))) !== id)
      fault('file damaged', 'Restore it from a backup.');
    if ((await lostJobs(medium)).length > 0 || (await isProxyLost(medium))) {
      const isMended = mend && state === 'there' && (await noticeLost(medium));
      fault('measures missing', isMended ? 'Queued: they are measured again.' : 'They can be measured again (--mend).', isMended);
    }
  }
  const known = new Set(await db('media').pluck('id'));
  const stray = new Set([...(await mediaInStore()).filter((id) => !known.has(id)), ...(await orphans(0))]);
  for (const id of stray) {
    const { mtimeMs } = await stat(mediumFolder(id)).catch(() => ({ mtimeMs: Date.now() }));
    // It may be just coming in.
    const isOld = Date.now() - mtimeMs > 3_600_000;
    if (mend && isOld) await forgetUnused(id);
    faults.push({
      media: id,
      names: [],
      what: 'belongs to nothing',
      help:
        mend && isOld ? 'Cleared away.' : isOld ? 'Can be cleared away (--mend).' : 'It came within the last hour: let it be.',
      isMended: mend && isOld,
    });
  }
  return faults;
}

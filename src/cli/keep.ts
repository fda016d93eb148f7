import { createWriteStream } from 'node:fs';
import { rename } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { createInterface } from 'node:readline/promises';
import { Writable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Command } from 'commander';
import { migrateDatabase } from '../../scripts/migrate.ts';
import { startCluster } from '../../scripts/postgres.ts';
import { ROOT } from '../server/root.ts';

const say = (line: string) => process.stdout.write(`${line}\n`);

/** Where the data of this server lie, unless the environment names other places. */
const VAR = resolve(process.env.ZETEMIS_VAR_DIR ?? join(ROOT, 'var'));
const DATA = resolve(process.env.ZETEMIS_DATA_DIR ?? join(VAR, 'data'));

/** Does something with the database, which is started for as long as that takes where it does not run. */
async function withServer<T>(work: () => Promise<T>): Promise<T> {
  const cluster = process.env.DATABASE_URL === undefined ? await startCluster(join(VAR, 'postgres')) : undefined;
  Object.assign(process.env, { ZETEMIS_DATA_DIR: DATA, ...(cluster && { DATABASE_URL: cluster.url }) });
  const { db } = await import('@/server/db/connection.ts');
  try {
    await migrateDatabase(process.env.DATABASE_URL as string);
    return await work();
  } finally {
    await db.destroy();
    if (cluster?.isNew) await cluster.stop();
  }
}

/** Who may use the server. */
async function access() {
  const { Access, accessPath } = await import('@/server/access.ts');
  return new Access(accessPath(DATA));
}

/** Asks for what is not to be seen on the screen. */
async function askSecretly(question: string): Promise<string> {
  if (process.stdin.isTTY) process.stdout.write(question);
  const unseen = new Writable({ write: (_, __, done) => done() });
  const lines = createInterface({ input: process.stdin, output: unseen, terminal: process.stdin.isTTY });
  const answer = await lines.question('');
  lines.close();
  if (process.stdin.isTTY) say('');
  return answer.trim();
}

/** Commands that look after a server: who may use it, and that nothing of it is lost. */
export function addKeepingCommands(program: Command): void {
  program
    .command('passphrase')
    .description('set the passphrase that everybody has to give, and end all sessions (read from the terminal, or from a pipe)')
    .action(async () => {
      await (await access()).setPassphrase(await askSecretly('Passphrase: '));
      say('The passphrase is set. Everybody has to sign in with it from now on.');
    });

  program
    .command('token <name>')
    .description('make a token that a program shows instead of signing in; one of the same name is replaced')
    .option('--remove', 'take it away')
    .action(async (name: string, { remove }: { remove?: boolean }) => {
      const who = await access();
      if (!remove) {
        say(await who.makeToken(name));
        return;
      }
      if (!(await who.removeToken(name))) throw new RangeError(`There is no token named ${name}.`);
      say(`The token ${name} counts no more.`);
    });

  program
    .command('backup <folder>')
    .description('add a snapshot of everything to a folder; only what is new is copied, and all of it is read back')
    .action((folder: string) =>
      withServer(async () => {
        const { backUp } = await import('@/server/keeping/backup.ts');
        const { name, rows, media, copied, missing } = await backUp(resolve(folder));
        say(`${name}: ${rows} rows, ${media} recordings (${copied} files copied), read back and right.`);
        for (const id of missing) say(`missing in the store: ${id}`);
        if (missing.length > 0) process.exitCode = 1;
      }),
    );

  program
    .command('restore <folder>')
    .description('put the last snapshot of a backup into this server, which must be empty')
    .option('--snapshot <name>', 'another than the last')
    .action((folder: string, { snapshot }: { snapshot?: string }) =>
      withServer(async () => {
        const { restore } = await import('@/server/keeping/restore.ts');
        const report = await restore(resolve(folder), snapshot);
        say(`${report.name}, made ${report.madeAt}: ${report.rows} rows, ${report.media} recordings.`);
        for (const id of report.damaged) say(`damaged in the backup: ${id}`);
        for (const path of report.linked) say(`belongs into the media folder: ${path}`);
        if (report.damaged.length > 0) process.exitCode = 1;
      }),
    );

  program
    .command('check')
    .description('compare files and database: what is missing, damaged, or belongs to nothing')
    .option('--mend', 'measure again what can be measured, and clear away what belongs to nothing')
    .option('--quick', 'do not read whole files')
    .action(({ mend = false, quick = false }: { mend?: boolean; quick?: boolean }) =>
      withServer(async () => {
        const { check } = await import('@/server/keeping/check.ts');
        const faults = await check({ mend, reads: !quick });
        for (const { media, names, what, help } of faults) say(`${what}: ${names.join(', ') || media}. ${help}`);
        say(faults.length === 0 ? 'Everything is as it should be.' : `${faults.length} found.`);
        if (faults.some(({ isMended }) => !isMended)) process.exitCode = 1;
      }),
    );

  program
    .command('pack <episode>')
    .description('write an episode into one file: recordings, words, and all that was decided')
    .requiredOption('--to <file>', 'name of the file; .zetemis.tar is its ending')
    .option('--without-media', 'name the recordings only')
    .action((episode: string, { to, withoutMedia = false }: { to: string; withoutMedia?: boolean }) =>
      withServer(async () => {
        const { archiveOf } = await import('@/server/keeping/archive.ts');
        const { title, stream } = await archiveOf(episode, !withoutMedia);
        await pipeline(stream, createWriteStream(`${to}.part`, { flush: true }));
        await rename(`${to}.part`, to);
        say(`“${title}” is in ${to}.`);
      }),
    );

  program
    .command('unpack <file>')
    .description('make an episode of such a file')
    .action((file: string) =>
      withServer(async () => {
        const { episodeFromArchive } = await import('@/server/keeping/archive.ts');
        say(await episodeFromArchive(resolve(file)));
      }),
    );
}

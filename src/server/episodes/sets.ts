import { randomUUID } from 'node:crypto';
import type { SaveSettingsSet, SettingsSet } from '@/core/contract/messages.ts';
import { parseSettings, SettingsError } from '@/core/detect/settings.ts';
import { readSettingsFile } from '@/core/interchange/settingsFile.ts';
import { type Connection, db, type Transaction } from '../db/connection.ts';
import { announce } from '../events.ts';
import { notFound, Refusal } from '../refusal.ts';
import { lessonsUnder } from './lessons.ts';

interface SetRow {
  id: string;
  name: string;
  settings: SettingsSet['settings'];
  for_new: boolean;
}

const UNIQUE_VIOLATION = '23505';

const view = async ({ id, name, settings, for_new }: SetRow, connection: Connection): Promise<SettingsSet> => ({
  id,
  name,
  settings,
  forNew: for_new,
  lessons: await lessonsUnder(id, connection),
});

/** All named sets, by name. */
export async function listSets(): Promise<SettingsSet[]> {
  const rows = (await db('settings_sets').orderBy('name').select('id', 'name', 'settings', 'for_new')) as SetRow[];
  return Promise.all(rows.map((row) => view(row, db)));
}

/** Keeps a set under a new name. @throws Refusal when the name is taken */
export async function addSet({ name, settings, forNew }: SaveSettingsSet): Promise<SettingsSet> {
  return changing(name, async (trx) => {
    if (forNew) await trx('settings_sets').update({ for_new: false });
    const values = { name, settings: JSON.stringify(parseSettings(settings)), for_new: forNew };
    const [row] = (await trx('settings_sets').insert(values).returning(['id', 'name', 'settings', 'for_new'])) as SetRow[];
    return view(row as SetRow, trx);
  });
}

/** Changes name, settings or use of a set. */
export async function changeSet(id: string, { name, settings, forNew }: SaveSettingsSet): Promise<SettingsSet> {
  return changing(name, async (trx) => {
    if (forNew) await trx('settings_sets').whereNot({ id }).update({ for_new: false });
    const values = { name, settings: JSON.stringify(parseSettings(settings)), for_new: forNew };
    const [row] = (await trx('settings_sets')
      .where({ id })
      .update(values)
      .returning(['id', 'name', 'settings', 'for_new'])) as SetRow[];
    if (!row) throw notFound('That set');
    return view(row, trx);
  });
}

export async function removeSet(id: string): Promise<void> {
  if (!(await db('settings_sets').where({ id }).delete())) throw notFound('That set');
  await announce({ type: 'sets' });
}

/** Keeps a set that came as a file, under its own name or that name with a number. */
export async function importSet(text: string): Promise<SettingsSet> {
  const { name, settings } = readOrRefuse(text);
  const taken = new Set((await listSets()).map((set) => set.name));
  let free = name;
  for (let number = 2; taken.has(free); number++) free = `${name} ${number}`;
  return addSet({ name: free, settings: settings as SettingsSet['settings'], forNew: false });
}

/**
 * Gives a new episode the settings that are meant for new recordings, with what earlier ones taught, as the first entry of its log.
 * Without such a set it is given what was taught without one.
 */
export async function applySetForNew(trx: Transaction, episodeId: string): Promise<void> {
  const set = (await trx('settings_sets').where({ for_new: true }).first('id', 'name', 'settings')) as SetRow | undefined;
  const lessons = await lessonsUnder(set?.id ?? null, trx);
  if (!set && lessons.length === 0) return;
  const id = randomUUID();
  const taught = lessons.length > 0 ? { lessons } : {};
  const event = set
    ? { id, type: 'settings', values: set.settings, name: set.name, ...taught }
    : { id, type: 'lessons', lessons };
  await trx('decisions').insert({ episode_id: episodeId, seq: 1, event_id: id, event: JSON.stringify(event) });
  await trx('episodes').where({ id: episodeId }).update({ last_seq: 1 });
}

async function changing(name: string, work: (trx: Transaction) => Promise<SettingsSet>): Promise<SettingsSet> {
  try {
    return await db.transaction(async (trx) => {
      const set = await work(trx);
      await announce({ type: 'sets' }, trx);
      return set;
    });
  } catch (error) {
    if ((error as { code?: string }).code === UNIQUE_VIOLATION) throw new Refusal(409, `There is a set named “${name}” already.`);
    throw error;
  }
}

function readOrRefuse(text: string) {
  try {
    return readSettingsFile(text);
  } catch (error) {
    throw error instanceof SettingsError ? new Refusal(422, error.message) : error;
  }
}

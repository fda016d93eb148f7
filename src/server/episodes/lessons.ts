import { randomUUID } from 'node:crypto';
import type { LessonBook, SwitchLesson } from '@/core/contract/messages.ts';
import { mergedLessons } from '@/core/lessons/book.ts';
import type { Lesson } from '@/core/lessons/lesson.ts';
import { type Connection, db } from '../db/connection.ts';
import { announce } from '../events.ts';
import { notFound } from '../refusal.ts';

/** Recordings whose lessons are remembered, newest first: older ones would hardly count any more. */
const REMEMBERED = 40;

interface Row {
  readonly lessons: Lesson[];
}

const under = (connection: Connection, table: 'lessons' | 'lessons_off', set: string | null) =>
  set === null ? connection(table).whereNull('set_id') : connection(table).where({ set_id: set });

/** Keeps what an episode teaches, under the set that its settings were last taken from, instead of what it taught before. */
export async function keepLessons(episodeId: string, setName: string | undefined, lessons: readonly Lesson[]): Promise<void> {
  if (lessons.length === 0) {
    await db('lessons').where({ episode_id: episodeId }).delete();
    return;
  }
  const set = setName === undefined ? undefined : await db('settings_sets').where({ name: setName }).first('id');
  const row = { set_id: set?.id ?? null, lessons: JSON.stringify(lessons) };
  await db('lessons')
    .insert({ episode_id: episodeId, ...row })
    .onConflict('episode_id')
    .merge(row);
}

/** What recordings under a set taught, but for what is switched off. @param set null for those without a named set */
export async function lessonsUnder(set: string | null, connection: Connection = db): Promise<Lesson[]> {
  const off = new Set((await under(connection, 'lessons_off', set).pluck('about')) as string[]);
  return (await taughtUnder(set, connection)).filter(({ about }) => !off.has(about));
}

async function taughtUnder(set: string | null, connection: Connection): Promise<Lesson[]> {
  const rows = (await under(connection, 'lessons', set)
    .orderBy('taught_at', 'desc')
    .limit(REMEMBERED)
    .select('lessons')) as Row[];
  return mergedLessons(rows.map(({ lessons }) => lessons));
}

/** All that was taught under a set, with what is switched off. */
export async function lessonBook(set: string | null): Promise<LessonBook> {
  const off = new Set((await under(db, 'lessons_off', set).pluck('about')) as string[]);
  const lessons = await taughtUnder(set, db);
  return { lessons: lessons.map((lesson) => ({ ...lesson, off: off.has(lesson.about) })) };
}

/** Switches what was taught about a class off or on for the next recordings, or forgets it. */
export async function switchLesson({ set, about, to }: SwitchLesson): Promise<LessonBook> {
  if (set !== null && !(await db('settings_sets').where({ id: set }).first('id'))) throw notFound('That set');
  await db.transaction(async (trx) => {
    await under(trx, 'lessons_off', set).where({ about }).delete();
    if (to === 'off') await trx('lessons_off').insert({ id: randomUUID(), set_id: set, about });
    if (to !== 'forgotten') return;
    const rows = (await under(trx, 'lessons', set).forUpdate().select('id', 'lessons')) as (Row & { readonly id: string })[];
    for (const { id, lessons } of rows)
      await trx('lessons')
        .where({ id })
        .update({ lessons: JSON.stringify(lessons.filter((lesson) => lesson.about !== about)) });
  });
  await announce({ type: 'sets' });
  return lessonBook(set);
}

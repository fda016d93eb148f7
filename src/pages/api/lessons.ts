import * as z from 'zod';
import { switchLesson } from '@/core/contract/messages.ts';
import { lessonBook, switchLesson as switchTo } from '@/server/episodes/lessons.ts';
import { endpoint } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';
import { notFound } from '@/server/refusal.ts';

const setAsked = z.union([z.literal('').transform(() => null), z.uuid()]);

/** What was taught under a set, or without one where none is named. */
export const GET = endpoint(async ({ url }) => {
  const asked = setAsked.safeParse(url.searchParams.get('set') ?? '');
  if (!asked.success) throw notFound('That set');
  return lessonBook(asked.data);
});

export const PUT = endpoint(async (context) => switchTo(await bodyOf(context, switchLesson)));

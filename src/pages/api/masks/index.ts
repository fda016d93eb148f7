import { maskList } from '@/core/contract/messages.ts';
import { keepMasks, listMasks } from '@/server/episodes/masks.ts';
import { endpoint } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';

export const GET = endpoint(async () => ({ lists: await listMasks() }));

export const PUT = endpoint(async (context) => keepMasks(await bodyOf(context, maskList)));

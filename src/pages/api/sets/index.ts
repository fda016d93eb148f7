import { importSettings, saveSettingsSet } from '@/core/contract/messages.ts';
import { addSet, importSet, listSets } from '@/server/episodes/sets.ts';
import { endpoint } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';

export const GET = endpoint(async () => ({ sets: await listSets() }));
export const POST = endpoint(async (context) => addSet(await bodyOf(context, saveSettingsSet)));
/** Keeps a set that comes as a file. */
export const PUT = endpoint(async (context) => importSet((await bodyOf(context, importSettings)).text));

import { saveSettingsSet } from '@/core/contract/messages.ts';
import { changeSet, removeSet } from '@/server/episodes/sets.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';

export const PUT = endpoint(async (context) => changeSet(uuidOf(context), await bodyOf(context, saveSettingsSet)));
export const DELETE = endpoint((context) => removeSet(uuidOf(context)));

import { changeTogether as wanted } from '@/core/contract/messages.ts';
import { changeTogether } from '@/server/episodes/together.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';

/** Changes which files that ran together a recording is made of. */
export const POST = endpoint(async (context) => changeTogether(uuidOf(context), await bodyOf(context, wanted)));

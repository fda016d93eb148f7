import { takeReplacement as wanted } from '@/core/contract/messages.ts';
import { takeReplacement } from '@/server/episodes/files.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';

/** Measures a linked file anew that was exchanged for another. */
export const POST = endpoint(async (context) => takeReplacement(uuidOf(context), (await bodyOf(context, wanted)).recording));

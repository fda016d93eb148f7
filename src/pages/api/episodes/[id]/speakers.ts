import { askSpeakers as asked } from '@/core/contract/messages.ts';
import { askSpeakers } from '@/server/episodes/recognition.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';

export const POST = endpoint(async (context) => askSpeakers(uuidOf(context), await bodyOf(context, asked)));

import { askPlacingOfAll } from '@/server/episodes/words.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';

export const POST = endpoint((context) => askPlacingOfAll(uuidOf(context)));

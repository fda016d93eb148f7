import { retryEpisode } from '@/server/episodes/episodes.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';

export const POST = endpoint((context) => retryEpisode(uuidOf(context)));

import { bringBack } from '@/server/episodes/removal.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';

/** Brings a removed episode back. */
export const POST = endpoint((context) => bringBack(uuidOf(context)));

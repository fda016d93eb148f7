import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { askAgain, removeRender } from '@/server/render/renders.ts';

/** Has it made again, from what is decided now. */
export const POST = endpoint((context) => askAgain(uuidOf(context)));
export const DELETE = endpoint((context) => removeRender(uuidOf(context)));

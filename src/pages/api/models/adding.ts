import { askModel } from '@/core/contract/models.ts';
import { endpoint } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';
import { beginAdding, stopAdding } from '@/server/models/adding.ts';

export const POST = endpoint(async (context) => beginAdding(await bodyOf(context, askModel)));
export const DELETE = endpoint(async () => stopAdding());

import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { cancel } from '@/server/jobs/jobs.ts';

export const POST = endpoint((context) => cancel(uuidOf(context)));

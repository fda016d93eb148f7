import { endpoint } from '@/server/http/answer.ts';
import { takeAway } from '@/server/models/adding.ts';

export const DELETE = endpoint(({ params }) => takeAway(params.name ?? ''));

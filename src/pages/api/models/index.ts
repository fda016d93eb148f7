import { endpoint } from '@/server/http/answer.ts';
import { listModels } from '@/server/models/adding.ts';

export const GET = endpoint(() => listModels());

import { endpoint } from '@/server/http/answer.ts';
import { listFolder } from '@/server/media/folder.ts';

export const GET = endpoint(() => listFolder());

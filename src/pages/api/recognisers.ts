import { listRecognisers } from '@/server/episodes/recognition.ts';
import { endpoint } from '@/server/http/answer.ts';

export const GET = endpoint(() => listRecognisers());

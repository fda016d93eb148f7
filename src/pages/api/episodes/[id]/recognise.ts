import { askRecognition as asked } from '@/core/contract/messages.ts';
import { askRecognition } from '@/server/episodes/recognition.ts';
import { bodyOf, endpoint, uuidOf } from '@/server/http/answer.ts';

export const POST = endpoint(async (context) => askRecognition(uuidOf(context), await bodyOf(context, asked)));

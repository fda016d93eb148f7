import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { askForCleaning, cleanedOf } from '@/server/render/cleanedSound.ts';

/** Which recordings are cleaned as it is chosen, and what was found in them. */
export const GET = endpoint((context) => cleanedOf(uuidOf(context)));
/** Has the others cleaned. */
export const POST = endpoint((context) => askForCleaning(uuidOf(context)));

import { endpoint } from '@/server/http/answer.ts';
import { signIn, signOut } from '@/server/http/signIn.ts';

export const POST = endpoint(({ request, locals }) => signIn(request, locals));
/** Signs out, here or everywhere. */
export const DELETE = endpoint(({ url, locals }) => signOut(locals, url.searchParams.has('everywhere')));

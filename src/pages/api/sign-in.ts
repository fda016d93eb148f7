import type { APIRoute } from 'astro';
import { Access, accessPath, sessionCookie, TryLimit } from '@/server/access.ts';
import { config } from '@/server/config.ts';
import { isIllFormed } from '@/server/http/body.ts';

const access = new Access(accessPath(config.dataDir));
const tries = new TryLimit();

const seeOther = (location: string, cookie?: string): Response =>
  new Response(null, { status: 303, headers: { location, ...(cookie && { 'set-cookie': cookie }) } });

/** Takes the form of the sign-in page. */
export const POST: APIRoute = async ({ request, locals }) => {
  const form = await request.formData().catch(() => undefined);
  const field = (name: string) => String(form?.get(name) ?? '').slice(0, 500);
  const to = /^\/(?!\/|\\)/.test(field('to')) ? field('to') : '/';
  const again = (wait: number) => seeOther(`/sign-in?wrong=1&wait=${wait}&to=${encodeURIComponent(to)}`);
  const wait = tries.secondsLeft(locals.address);
  if (wait > 0) return again(wait);
  const name = field('name').trim().slice(0, 60);
  const session = name && !isIllFormed(name) ? await access.signIn(name, field('passphrase')) : undefined;
  if (session === undefined) {
    tries.fail(locals.address);
    return again(tries.secondsLeft(locals.address));
  }
  tries.succeed(locals.address);
  return seeOther(to, sessionCookie(session, locals.isSecure));
};

/** Signs out, here or everywhere. */
export const DELETE: APIRoute = async ({ url, locals }) => {
  if (url.searchParams.has('everywhere')) await access.signOutEverywhere();
  return new Response(null, { status: 204, headers: { 'set-cookie': sessionCookie(undefined, locals.isSecure) } });
};

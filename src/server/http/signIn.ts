import { Access, accessPath, sessionCookie, TryLimit } from '../access.ts';
import { config } from '../config.ts';
import { isIllFormed, textOf } from './body.ts';
import type { Asker } from './webServer.ts';

const access = new Access(accessPath(config.dataDir));
const tries = new TryLimit();

const MOST_FORM = 10_000;
const MOST_NAME = 60;

/** Takes the form of the sign-in page: a session and on to where one came from, or the page again with what was wrong. */
export async function signIn(request: Request, { address, isSecure }: Asker): Promise<Response> {
  const form = new URLSearchParams(await textOf(request, MOST_FORM));
  const to = ownAddress(form.get('to') ?? '/');
  const again = (wait: number) => seeOther(`/sign-in?wrong=1&wait=${wait}&to=${encodeURIComponent(to)}`);
  const wait = tries.secondsLeft(address);
  if (wait > 0) return again(wait);
  const name = (form.get('name') ?? '').trim();
  const isName = name !== '' && name.length <= MOST_NAME && !isIllFormed(name);
  const session = isName ? await access.signIn(name, form.get('passphrase') ?? '') : undefined;
  if (session === undefined) {
    tries.fail(address);
    return again(tries.secondsLeft(address));
  }
  tries.succeed(address);
  return seeOther(to, sessionCookie(session, isSecure));
}

/** Ends the session of who asks, or those of everybody. */
export async function signOut({ isSecure }: Asker, everywhere: boolean): Promise<Response> {
  if (everywhere) await access.signOutEverywhere();
  return new Response(null, { status: 204, headers: { 'set-cookie': sessionCookie(undefined, isSecure) } });
}

const seeOther = (location: string, cookie?: string): Response =>
  new Response(null, { status: 303, headers: { location, ...(cookie && { 'set-cookie': cookie }) } });

const HERE = 'http://here.invalid';

/** An address of this server as browsers read it, which see more in a text than its first characters. */
export function ownAddress(to: string): string {
  const url = URL.canParse(to, HERE) ? new URL(to, HERE) : undefined;
  return url?.origin === HERE ? url.pathname + url.search : '/';
}

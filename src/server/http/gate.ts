/** What is known of a request before anything is done for it. */
export interface Asked {
  readonly method: string;
  /** path and query as they came */
  readonly url: string;
  readonly host: string | undefined;
  readonly origin: string | undefined;
  readonly fetchSite: string | undefined;
  /** the address of this machine that the request came in by */
  readonly localAddress: string;
}

/** Names under which this server is meant to be reached, with port, besides those that follow from the address. */
export interface Names {
  readonly port: number;
  readonly hosts: readonly string[];
}

export interface Turned {
  readonly status: number;
  readonly error: string;
}

const METHODS = new Set(['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS']);
const SAFE_METHODS = new Set(['GET', 'HEAD', 'OPTIONS']);
const LONGEST_URL = 4000;

/**
 * Turns away what is no request to this server: it answers only under the names it is meant to be reached by (a page elsewhere
 * could otherwise point a name of its own at this machine), and takes changes only from its own pages.
 * @returns why it is turned away, undefined when it may go on
 */
export function turnedAway(asked: Asked, names: Names): Turned | undefined {
  if (!METHODS.has(asked.method)) return { status: 405, error: 'That is no method this server knows.' };
  if (asked.url.length > LONGEST_URL || !isWellFormed(asked.url)) return { status: 400, error: 'That address is malformed.' };
  // The framework's own endpoint for pictures, which nobody here uses.
  if (asked.url.startsWith('/_image')) return { status: 404, error: 'There is no such address.' };
  const isOwn = (host: string) => ownNames(asked.localAddress, names).includes(host);
  if (!isOwn(asked.host ?? '')) return { status: 403, error: 'This server does not answer under that name.' };
  if (SAFE_METHODS.has(asked.method)) return undefined;
  const isForeign = asked.origin !== undefined && !isOwn(asked.origin.replace(/^https?:\/\//, ''));
  return isForeign || asked.fetchSite === 'cross-site'
    ? { status: 403, error: 'Changes are taken from this program’s own pages only.' }
    : undefined;
}

/** The names of the loopback interface count only for what came in by it: anybody can write `localhost`. */
function ownNames(localAddress: string, { port, hosts }: Names): string[] {
  const address = localAddress.replace(/^::ffff:/, '');
  const own = isLoopback(address) ? ['127.0.0.1', 'localhost', '[::1]'] : [address.includes(':') ? `[${address}]` : address];
  return [...own.map((name) => `${name}:${port}`), ...(port === 80 ? own : []), ...hosts];
}

export const isLoopback = (address: string): boolean =>
  address === 'localhost' || address === '::1' || /^127\./.test(address.replace(/^::ffff:/, ''));

function isWellFormed(url: string): boolean {
  try {
    return !decodeURIComponent(url).includes('\0');
  } catch {
    return false;
  }
}

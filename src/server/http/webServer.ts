import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import send from 'send';
import type { Access } from '../access.ts';
import { log } from '../log.ts';
import { isLoopback, type Names, turnedAway } from './gate.ts';

/** What the application's pages and endpoints are given besides the request. */
export interface Asker {
  /** who is signed in; null where nobody needs to */
  readonly by: string | null;
  /** where the request came from */
  readonly address: string;
  /** whether it came by TLS, as far as a proxy on this machine says */
  readonly isSecure: boolean;
}

/** The built application, as the adapter of the framework gives it. */
export type Application = (
  request: IncomingMessage,
  response: ServerResponse,
  next: (error?: unknown) => void,
  locals: Asker,
) => unknown;

/** Which part of what is served needs nobody to be signed in: the page on which one does so, and what it is made of. */
const OPEN = /^\/(sign-in|api\/sign-in|healthz|readyz|favicon\.svg|_astro\/[^/]+\.(css|woff2?))(\?|$)/;
const HEADERS_WITHIN_MS = 30_000;
const ASSETS = '/_astro/';

const HEADERS: Readonly<Record<string, string>> = {
  'x-content-type-options': 'nosniff',
  // With none at all browsers do not say where a form comes from.
  'referrer-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
  'cross-origin-opener-policy': 'same-origin',
  'x-frame-options': 'DENY',
  'permissions-policy': 'camera=(), microphone=(), geolocation=(), payment=(), usb=(), display-capture=()',
};

/** All that scripts, workers and pages may load comes from here; inline scripts need the number that is in the page's own answer. */
export const contentSecurityPolicy = (nonce?: string): string =>
  [
    "default-src 'none'",
    `script-src 'self'${nonce ? ` 'nonce-${nonce}'` : ''}`,
    "worker-src 'self'",
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "media-src 'self' blob:",
    "font-src 'self'",
    "connect-src 'self'",
    "form-action 'self'",
    "base-uri 'none'",
    "frame-ancestors 'none'",
  ].join('; ');

/** The web server: turns away what is not for it, sees who asks, and hands files and the application out with the same headers. */
export function webServer(application: Application, clientFolder: string, access: Access, names: Names): Server {
  const server = createServer((request, response) => {
    void serve(request, response).catch((error) => {
      log.error({ error: (error as Error).stack }, 'request failed');
      refuse(response, 500, 'Something went wrong on the server. Nothing was changed; try again.');
    });
  });
  server.headersTimeout = HEADERS_WITHIN_MS;
  // An upload may take hours.
  server.requestTimeout = 0;
  return server;

  async function serve(request: IncomingMessage, response: ServerResponse): Promise<void> {
    for (const [name, value] of Object.entries({ ...HEADERS, 'content-security-policy': contentSecurityPolicy() }))
      response.setHeader(name, value);
    const { method = '', url = '/', headers, socket } = request;
    const turned = turnedAway(
      {
        method,
        url,
        host: headers.host,
        origin: headers.origin,
        fetchSite: headers['sec-fetch-site'] as string | undefined,
        localAddress: socket.localAddress ?? '',
      },
      names,
    );
    if (turned) return refuse(response, turned.status, turned.error);
    const isGuarded = await access.isGuarded();
    const by = isGuarded ? await access.whoAsks(headers.cookie, headers.authorization) : undefined;
    if (isGuarded && by === undefined && !OPEN.test(url)) return toSignIn(request, response);
    // Whoever asked has gone meanwhile.
    if (request.destroyed) return;
    const asker: Asker = {
      by: by ?? null,
      address: socket.remoteAddress ?? '',
      isSecure: headers['x-forwarded-proto'] === 'https' && isLoopback(socket.remoteAddress ?? ''),
    };
    const answerIt = () => void application(request, response, (error) => notFound(response, error), asker);
    if (method === 'GET' || method === 'HEAD') sendStatic(request, response, url, answerIt);
    else answerIt();
  }

  function sendStatic(request: IncomingMessage, response: ServerResponse, url: string, otherwise: () => void): void {
    const path = url.split('?')[0] as string;
    if (!/\.[a-z0-9]+$/i.test(path) || path.startsWith('/api/')) {
      otherwise();
      return;
    }
    send(request, path, { root: clientFolder, dotfiles: 'deny', index: false, cacheControl: false })
      .on('error', otherwise)
      .on('headers', (sent: ServerResponse) => {
        // Names of assets change with what is in them.
        sent.setHeader('cache-control', path.startsWith(ASSETS) ? 'public, max-age=31536000, immutable' : 'no-cache');
      })
      .pipe(response);
  }
}

function toSignIn({ method, url = '/', headers }: IncomingMessage, response: ServerResponse): void {
  const wantsPage = method === 'GET' && headers.accept?.includes('text/html');
  if (!wantsPage) {
    refuse(response, 401, 'Nobody is signed in. Open the page again and sign in; what was decided here is kept until then.');
    return;
  }
  response.writeHead(303, { location: `/sign-in?to=${encodeURIComponent(url)}`, 'cache-control': 'no-store' });
  response.end();
}

function notFound(response: ServerResponse, error: unknown): void {
  if (error) log.error({ error: (error as Error).stack }, 'request failed');
  refuse(response, error ? 500 : 404, error ? 'Something went wrong on the server.' : 'There is no such address.');
}

function refuse(response: ServerResponse, status: number, error: string): void {
  if (response.headersSent) {
    response.destroy();
    return;
  }
  response.writeHead(status, {
    'content-type': 'application/json',
    'cache-control': 'no-store',
    // What was not read of the request is not waited for.
    connection: 'close',
  });
  response.end(JSON.stringify({ error }));
}

import { createHash, createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { chmod, mkdir, readFile, rename, stat, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import * as scryptKdf from 'scrypt-kdf';
import { z } from 'zod';

// Who may use this server. Kept in a file beside the media, so that it holds while the database is away.

// Its types name what the module itself has on a default export.
const { kdf, verify } = (scryptKdf as unknown as { default: typeof scryptKdf }).default;

/** Cost of one try: about a tenth of a second and 32 MB here. */
const LOG_N = 15;
export const LEAST_PASSPHRASE = 12;
const SESSION_DAYS = 30;
const COOKIE = 'zetemis';

const accessFile = z.object({
  /** scrypt key of the passphrase, base64 (the format of scrypt-kdf: parameters, salt, and check) */
  passphrase: z.string(),
  /** signs sessions; another one ends them all */
  secret: z.string(),
  tokens: z.array(z.object({ name: z.string(), sha256: z.string(), madeAt: z.string() })),
});
type AccessFile = z.infer<typeof accessFile>;

/** Where passphrase and tokens of a media store are kept. */
export const accessPath = (dataDir: string): string => join(dataDir, 'access.json');

/** Passphrase, sessions and tokens of one server. */
export class Access {
  private known: { readonly at: number; readonly file: AccessFile } | undefined;

  constructor(private readonly path: string) {}

  /** Whether anybody has to sign in. */
  async isGuarded(): Promise<boolean> {
    return (await this.read()) !== undefined;
  }

  /** Sets the passphrase and ends all sessions; tokens stay. @throws RangeError when it is too short */
  async setPassphrase(passphrase: string): Promise<void> {
    if (passphrase.length < LEAST_PASSPHRASE) throw new RangeError(`A passphrase has ${LEAST_PASSPHRASE} characters or more.`);
    const key = (await kdf(passphrase, { logN: LOG_N })).toString('base64');
    const { tokens = [] } = (await this.read()) ?? {};
    await this.write({ passphrase: key, secret: randomBytes(32).toString('hex'), tokens });
  }

  /** Value of the cookie of a new session, or undefined when the passphrase is another. */
  async signIn(name: string, passphrase: string): Promise<string | undefined> {
    const file = await this.read();
    if (!file || !(await verify(Buffer.from(file.passphrase, 'base64'), passphrase))) return undefined;
    const session = Buffer.from(JSON.stringify({ name, until: Date.now() + SESSION_DAYS * 86_400_000 })).toString('base64url');
    return `${session}.${signatureOf(session, file.secret)}`;
  }

  /** Ends all sessions, here and on all other machines. */
  async signOutEverywhere(): Promise<void> {
    const file = await this.read();
    if (file) await this.write({ ...file, secret: randomBytes(32).toString('hex') });
  }

  /** Makes a token for a program. @returns it, which is kept nowhere else */
  async makeToken(name: string): Promise<string> {
    const file = await this.read();
    if (!file) throw new RangeError('Set a passphrase first.');
    const token = randomBytes(32).toString('hex');
    const tokens = [...file.tokens.filter((other) => other.name !== name)];
    await this.write({ ...file, tokens: [...tokens, { name, sha256: digestOf(token), madeAt: new Date().toISOString() }] });
    return token;
  }

  async removeToken(name: string): Promise<boolean> {
    const file = await this.read();
    const tokens = file?.tokens.filter((other) => other.name !== name) ?? [];
    if (!file || tokens.length === file.tokens.length) return false;
    await this.write({ ...file, tokens });
    return true;
  }

  /** Name of whoever asks, from the headers of a request; undefined when nobody is signed in. */
  async whoAsks(cookies: string | undefined, authorization: string | undefined): Promise<string | undefined> {
    const file = await this.read();
    if (!file) return undefined;
    const token = /^Bearer ([0-9a-f]{64})$/.exec(authorization ?? '')?.[1];
    if (token) return file.tokens.find(({ sha256 }) => isSame(sha256, digestOf(token)))?.name;
    const value = new RegExp(`(?:^|; )${COOKIE}=([\\w-]+)\\.([0-9a-f]+)`).exec(cookies ?? '');
    const [, session = '', signature = ''] = value ?? [];
    if (!value || !isSame(signature, signatureOf(session, file.secret))) return undefined;
    const parsed = z
      .object({ name: z.string(), until: z.number() })
      .safeParse(JSON.parse(Buffer.from(session, 'base64url').toString()));
    return parsed.success && parsed.data.until > Date.now() ? parsed.data.name : undefined;
  }

  private async read(): Promise<AccessFile | undefined> {
    const found = await stat(this.path).catch((error: NodeJS.ErrnoException) => {
      // One that cannot be looked at must not let everybody in.
      if (error.code === 'ENOENT') return undefined;
      throw error;
    });
    if (!found) return undefined;
    if (this.known?.at !== found.mtimeMs)
      this.known = { at: found.mtimeMs, file: accessFile.parse(JSON.parse(await readFile(this.path, 'utf8'))) };
    return this.known.file;
  }

  private async write(file: AccessFile): Promise<void> {
    await mkdir(dirname(this.path), { recursive: true });
    await writeFile(`${this.path}.part`, JSON.stringify(file, null, 2), { mode: 0o600, flush: true });
    await chmod(`${this.path}.part`, 0o600);
    await rename(`${this.path}.part`, this.path);
    this.known = undefined;
  }
}

/** The cookie of a session. Without a value it is taken away. */
export function sessionCookie(value: string | undefined, isSecure: boolean): string {
  const age = value === undefined ? 0 : SESSION_DAYS * 86_400;
  return [
    `${COOKIE}=${value ?? ''}`,
    'Path=/',
    'HttpOnly',
    'SameSite=Strict',
    `Max-Age=${age}`,
    ...(isSecure ? ['Secure'] : []),
  ].join('; ');
}

const signatureOf = (session: string, secret: string): string => createHmac('sha256', secret).update(session).digest('hex');
const digestOf = (token: string): string => createHash('sha256').update(token).digest('hex');
const isSame = (a: string, b: string): boolean => a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b));

const FREE_TRIES = 5;
const FIRST_WAIT_SECONDS = 2;
const LONGEST_WAIT_SECONDS = 300;
const MOST_ADDRESSES = 10_000;

/** Counts tries that failed, by address: after a few of them each one costs a wait that doubles. */
export class TryLimit {
  private readonly failed = new Map<string, { times: number; until: number }>();

  constructor(private readonly now: () => number = Date.now) {}

  /** Seconds to be waited before the next try. */
  secondsLeft(address: string): number {
    return Math.max(0, Math.ceil(((this.failed.get(address)?.until ?? 0) - this.now()) / 1000));
  }

  fail(address: string): void {
    const times = (this.failed.get(address)?.times ?? 0) + 1;
    const wait = times < FREE_TRIES ? 0 : Math.min(LONGEST_WAIT_SECONDS, FIRST_WAIT_SECONDS * 2 ** (times - FREE_TRIES));
    this.failed.delete(address);
    this.failed.set(address, { times, until: this.now() + 1000 * wait });
    if (this.failed.size > MOST_ADDRESSES) this.failed.delete(this.failed.keys().next().value as string);
  }

  succeed(address: string): void {
    this.failed.delete(address);
  }
}

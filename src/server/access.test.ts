import { mkdtempSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { Access, sessionCookie, TryLimit } from './access.ts';

const PASSPHRASE = 'the verge escapement ticks';
const newAccess = () => {
  const path = join(mkdtempSync(join(tmpdir(), 'zetemis-access-')), 'access.json');
  return { path, access: new Access(path) };
};
const cookie = (value: string) => `other=1; zetemis=${value}; more=2`;

describe('access', () => {
  it('is open until there is a passphrase', async () => {
    const { access } = newAccess();
    expect(await access.isGuarded()).toBe(false);
    expect(await access.signIn('Marn', PASSPHRASE)).toBeUndefined();
    await expect(access.setPassphrase('short')).rejects.toThrow(/12 characters/);
    expect(await access.isGuarded()).toBe(false);
  });

  it('lets in who knows the passphrase, for others as for itself, until all are signed out', async () => {
    const { path, access } = newAccess();
    await access.setPassphrase(PASSPHRASE);
    expect(await access.signIn('Marn', `${PASSPHRASE} `)).toBeUndefined();
    const session = (await access.signIn('Marn Ödegard', PASSPHRASE)) as string;
    expect(await access.whoAsks(cookie(session), undefined)).toBe('Marn Ödegard');
    expect(await new Access(path).whoAsks(cookie(session), undefined)).toBe('Marn Ödegard');
    await access.signOutEverywhere();
    expect(await access.whoAsks(cookie(session), undefined)).toBeUndefined();
    expect(await access.signIn('Marn', PASSPHRASE)).toBeDefined();
    expect(statSync(path).mode & 0o777).toBe(0o600);
    expect(readFileSync(path, 'utf8')).not.toContain(PASSPHRASE);
  });

  it('believes no session that it has not signed, and none that is over', async () => {
    const { path, access } = newAccess();
    await access.setPassphrase(PASSPHRASE);
    const session = (await access.signIn('Marn', PASSPHRASE)) as string;
    const [body = '', signature = ''] = session.split('.');
    const forged = Buffer.from(JSON.stringify({ name: 'Isolde', until: Date.now() + 1e9 })).toString('base64url');
    for (const value of [`${forged}.${signature}`, `${body}.${'0'.repeat(64)}`, `${body}.`, body, ''])
      expect(await access.whoAsks(cookie(value), undefined)).toBeUndefined();
    const { createHmac } = await import('node:crypto');
    const { secret } = JSON.parse(readFileSync(path, 'utf8'));
    const over = Buffer.from(JSON.stringify({ name: 'Marn', until: Date.now() - 1 })).toString('base64url');
    const signed = `${over}.${createHmac('sha256', secret).update(over).digest('hex')}`;
    expect(await access.whoAsks(cookie(signed), undefined)).toBeUndefined();
  });

  it('knows programs by their tokens, until these are taken away', async () => {
    const { path, access } = newAccess();
    await expect(access.makeToken('nightly')).rejects.toThrow(/passphrase first/);
    await access.setPassphrase(PASSPHRASE);
    const token = await access.makeToken('nightly');
    expect(await access.whoAsks(undefined, `Bearer ${token}`)).toBe('nightly');
    expect(await access.whoAsks(undefined, `Bearer ${'0'.repeat(64)}`)).toBeUndefined();
    expect(readFileSync(path, 'utf8')).not.toContain(token);
    await access.setPassphrase(`${PASSPHRASE} again`);
    expect(await access.whoAsks(undefined, `Bearer ${token}`)).toBe('nightly');
    expect(await access.removeToken('nightly')).toBe(true);
    expect(await access.removeToken('nightly')).toBe(false);
    expect(await access.whoAsks(undefined, `Bearer ${token}`)).toBeUndefined();
  });

  it('lets nobody in when its file is damaged', async () => {
    const { path, access } = newAccess();
    await access.setPassphrase(PASSPHRASE);
    writeFileSync(path, '{}');
    await expect(new Access(path).isGuarded()).rejects.toThrow();
    await expect(new Access(join(path, 'access.json')).isGuarded()).rejects.toThrow(/ENOTDIR/);
  });

  it('puts cookies where no script reads them and no other site sends them', () => {
    expect(sessionCookie('a.b', false)).toBe('zetemis=a.b; Path=/; HttpOnly; SameSite=Strict; Max-Age=2592000');
    expect(sessionCookie('a.b', true)).toMatch(/; Secure$/);
    expect(sessionCookie(undefined, false)).toMatch(/^zetemis=; .*Max-Age=0/);
  });
});

describe('the limit on tries', () => {
  it('lets some go wrong, then doubles the wait, each address for itself', () => {
    let now = 0;
    const limit = new TryLimit(() => now);
    const waits = Array.from({ length: 14 }, () => {
      limit.fail('a');
      return limit.secondsLeft('a');
    });
    expect(waits).toEqual([0, 0, 0, 0, 2, 4, 8, 16, 32, 64, 128, 256, 300, 300]);
    expect(limit.secondsLeft('b')).toBe(0);
    now = 300_000;
    expect(limit.secondsLeft('a')).toBe(0);
    limit.fail('a');
    limit.succeed('a');
    expect(limit.secondsLeft('a')).toBe(0);
  });
});

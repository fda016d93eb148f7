import { describe, expect, it } from 'vitest';
import { isOutage, outlast, waitAfter } from './outage.ts';

const failing = (code: string, message = 'x') => Object.assign(new Error(message), { code });

describe('an outage', () => {
  it('is what a database that is away says, and not what one says that refuses', () => {
    for (const code of ['ECONNREFUSED', 'ECONNRESET', '57P01', '57P03', '08006']) expect(isOutage(failing(code))).toBe(true);
    expect(isOutage(new Error('Connection terminated unexpectedly'))).toBe(true);
    expect(isOutage(new AggregateError([failing('ECONNREFUSED')]))).toBe(true);
    for (const code of ['23505', '42P01', '22021', 'ENOENT', '57014']) expect(isOutage(failing(code))).toBe(false);
    for (const other of [undefined, null, 'ECONNREFUSED', {}]) expect(isOutage(other)).toBe(false);
  });

  it('is waited out with waits that grow up to ten seconds, and never come at one moment for all', () => {
    expect([0, 1, 2, 3, 4, 5, 6, 50].map((times) => waitAfter(times, 1))).toEqual([
      250, 500, 1000, 2000, 4000, 8000, 10_000, 10_000,
    ]);
    expect(waitAfter(3, 0)).toBe(1000);
  });

  it('is outlasted, and everything else is not', async () => {
    let times = 0;
    const work = async () => {
      if (++times < 3) throw failing('ECONNREFUSED');
      return 'here again';
    };
    expect(await outlast(work)).toBe('here again');
    expect(times).toBe(3);
    await expect(outlast(async () => Promise.reject(failing('23505')))).rejects.toMatchObject({ code: '23505' });
    await expect(outlast(async () => Promise.reject(failing('ECONNREFUSED')), AbortSignal.abort())).rejects.toThrow();
  });
});

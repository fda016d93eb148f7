import { execa } from 'execa';
import { describe, expect, it } from 'vitest';
import { asPassing, beyondBounds, bounded, boundsForPicture, boundsForSound, PassingTrouble } from './bounds.ts';

const run = (script: string, change: Partial<ReturnType<typeof boundsForSound>>) =>
  execa(...bounded('node', ['-e', script], { ...boundsForSound(1), megabytes: 8000, ...change }), { reject: false });

describe('a bounded process', () => {
  it('grows with what is asked of it, and not with what a file asks', () => {
    expect(boundsForSound(3600).cpuSeconds).toBeGreaterThan(boundsForSound(60).cpuSeconds);
    expect(boundsForPicture(60).cpuSeconds).toBeGreaterThan(boundsForSound(60).cpuSeconds);
    expect(boundsForSound(3600).megabytes).toBe(boundsForSound(60).megabytes);
  });

  it('is ended by the system when it takes more processor time, or writes more, than it may', async () => {
    const slow = await run('for (;;);', { cpuSeconds: 1 });
    expect(beyondBounds(slow)).toMatch(/far longer to read/);
    const large = await run(
      "process.on('SIGXFSZ', () => {}); require('fs').writeFileSync(require('os').tmpdir() + '/zetemis-large', Buffer.alloc(3e6))",
      { writesMegabytes: 1 },
    );
    expect(beyondBounds(large)).toMatch(/far too large/);
    expect(beyondBounds(await run('0', {}))).toBeUndefined();
  });

  it('that was ended by somebody else, or found the disk full, is begun again', async () => {
    const killed = await run("process.kill(process.pid, 'SIGKILL')", {});
    expect(() => beyondBounds(killed)).toThrow(PassingTrouble);
    expect(() => beyondBounds({ exitCode: 1, stderr: 'av_interleaved_write_frame(): No space left on device' })).toThrow(
      /is full/,
    );
    expect(beyondBounds({ exitCode: 1, stderr: 'Cannot allocate memory' })).toMatch(/more memory/);
    expect(beyondBounds({ exitCode: 1, stderr: 'Invalid data found when processing input' })).toBeUndefined();
  });

  it('knows a full disk by the errors of the system and of the database', () => {
    for (const code of ['ENOSPC', 'EDQUOT', '53100']) {
      const passing = asPassing(Object.assign(new Error('x'), { code }));
      expect(passing).toMatchObject({ isFull: true });
      expect(passing?.message).toMatch(/disk of the server is full/);
    }
    expect(asPassing(Object.assign(new Error('x'), { code: 'ENOENT' }))).toBeUndefined();
    expect(asPassing(undefined)).toBeUndefined();
  });
});

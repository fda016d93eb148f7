import { describe, expect, it } from 'vitest';
import { ownAddress } from './signIn.ts';

describe('where one goes on after signing in', () => {
  it('is a page of this server and no other', () => {
    for (const to of ['/', '/episodes/7?part=2']) expect(ownAddress(to)).toBe(to);
    for (const to of [
      ...[
        '//evil.example/x',
        '/\\evil.example',
        '/\t/evil.example',
        '\n//evil.example',
        'https://evil.example',
        'javascript:alert(1)',
      ],
      ...['http://here.invalid:81/', '\\\\evil.example', 'http://[', 'data:text/html,x'],
    ])
      expect(ownAddress(to), to).toMatch(/^\/($|[^/\\])/);
    expect(ownAddress('/\t/evil.example')).toBe('/');
  });
});

import { describe, expect, it } from 'vitest';
import { type Asked, isLoopback, turnedAway } from './gate.ts';

const names = { port: 4620, hosts: ['clock.example:443'] };
const asked = (change: Partial<Asked> = {}): Asked => ({
  method: 'GET',
  url: '/api/episodes',
  host: '127.0.0.1:4620',
  origin: undefined,
  fetchSite: undefined,
  localAddress: '127.0.0.1',
  ...change,
});
const status = (change: Partial<Asked>) => turnedAway(asked(change), names)?.status;

describe('the gate', () => {
  it('answers under its own names', () => {
    for (const host of ['127.0.0.1:4620', 'localhost:4620', '[::1]:4620', 'clock.example:443'])
      expect(status({ host })).toBeUndefined();
    for (const host of [undefined, '', 'elsewhere.example', 'localhost', 'localhost:80', 'clock.example'])
      expect(status({ host })).toBe(403);
  });

  it('takes no loopback name for what came in by another address', () => {
    for (const localAddress of ['192.168.7.20', '::ffff:192.168.7.20']) {
      expect(status({ localAddress, host: 'localhost:4620' })).toBe(403);
      expect(status({ localAddress, host: '127.0.0.1:4620' })).toBe(403);
      expect(status({ localAddress, host: '192.168.7.20:4620' })).toBeUndefined();
      expect(status({ localAddress, host: 'clock.example:443' })).toBeUndefined();
    }
    expect(status({ localAddress: 'fd00::5', host: '[fd00::5]:4620' })).toBeUndefined();
  });

  it('takes changes from its own pages only', () => {
    for (const method of ['POST', 'PUT', 'PATCH', 'DELETE']) {
      expect(status({ method })).toBeUndefined();
      expect(status({ method, origin: 'http://localhost:4620', fetchSite: 'same-origin' })).toBeUndefined();
      expect(status({ method, origin: 'https://clock.example:443' })).toBeUndefined();
      for (const origin of ['http://elsewhere.example', 'null', 'http://localhost:4621', 'file://'])
        expect(status({ method, origin })).toBe(403);
      expect(status({ method, fetchSite: 'cross-site' })).toBe(403);
    }
    expect(status({ method: 'GET', origin: 'http://elsewhere.example' })).toBeUndefined();
  });

  it('knows methods and addresses that are none', () => {
    for (const method of ['TRACE', 'CONNECT', 'FOO', '']) expect(status({ method })).toBe(405);
    for (const url of ['/api/media/%00/sound', '/a%', '/%E0%A4%A', `/${'a'.repeat(5000)}`]) expect(status({ url })).toBe(400);
    expect(status({ url: '/_image?href=/favicon.svg' })).toBe(404);
    expect(status({ url: '/api/episodes/%F0%9F%95%B0' })).toBeUndefined();
  });

  it('knows the loopback interface', () => {
    for (const address of ['127.0.0.1', '127.9.9.9', '::1', 'localhost', '::ffff:127.0.0.1'])
      expect(isLoopback(address)).toBe(true);
    for (const address of ['0.0.0.0', '::', '10.0.0.1', '128.0.0.1', 'clock.example']) expect(isLoopback(address)).toBe(false);
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type FrameRate, formatRate, frames, framesDown, framesToSeconds, framesUp, parseRate } from './rate.ts';
import { formatTimecode, parseTimecode } from './timecode.ts';

const NTSC: FrameRate = { num: 30000, den: 1001 };
const RATES: readonly FrameRate[] = [
  { num: 24000, den: 1001 },
  { num: 24, den: 1 },
  { num: 25, den: 1 },
  NTSC,
  { num: 30, den: 1 },
  { num: 50, den: 1 },
  { num: 60000, den: 1001 },
];

describe('frame rates', () => {
  it('are read as fractions, whole numbers and customary decimals', () => {
    expect(formatRate(parseRate('30000/1001'))).toBe('30000/1001');
    expect(formatRate(parseRate('29.97'))).toBe('30000/1001');
    expect(formatRate(parseRate('23.976'))).toBe('24000/1001');
    expect(formatRate(parseRate('50/2'))).toBe('25/1');
    expect(formatRate(parseRate('12.5'))).toBe('25/2');
    for (const wrong of ['', '0', '-25', '25/0', 'abc', 'NaN', '1e9', '25;']) expect(() => parseRate(wrong)).toThrow(RangeError);
  });

  it('do not let float noise move a frame', () => {
    expect(framesUp(0.04 * 3, { num: 25, den: 1 })).toBe(3);
    expect(framesDown(0.1 + 0.2, { num: 10, den: 1 })).toBe(3);
    expect(framesUp(0.1201, { num: 25, den: 1 })).toBe(4);
    expect(framesDown(0.1599, { num: 25, den: 1 })).toBe(3);
  });

  it('do not drift over ten hours: every whole frame comes back from its moment', () => {
    fc.assert(
      fc.property(fc.constantFrom(...RATES), fc.integer({ min: 0, max: 36_000 * 60 }), (rate, count) => {
        const at = framesToSeconds(frames(count), rate);
        expect(framesDown(at, rate)).toBe(count);
        expect(framesUp(at, rate)).toBe(count);
      }),
    );
  });
});

describe('timecode', () => {
  it('drops two numbers each minute but the tenth', () => {
    // SMPTE ST 12-1: 00:00:59;29 is followed by 00:01:00;02, 00:09:59;29 by 00:10:00;00.
    expect(formatTimecode(frames(1799), NTSC, 'drop')).toBe('00:00:59;29');
    expect(formatTimecode(frames(1800), NTSC, 'drop')).toBe('00:01:00;02');
    expect(formatTimecode(frames(17981), NTSC, 'drop')).toBe('00:09:59;29');
    expect(formatTimecode(frames(17982), NTSC, 'drop')).toBe('00:10:00;00');
    expect(formatTimecode(frames(107_892), NTSC, 'drop')).toBe('01:00:00;00');
    expect(formatTimecode(frames(108_000), NTSC, 'nonDrop')).toBe('01:00:00:00');
  });

  it('in drop-frame keeps step with the clock over ten hours', () => {
    for (const rate of [NTSC, { num: 60000, den: 1001 }])
      for (let hour = 1; hour <= 10; hour++) {
        const { count } = parseTimecode(`${String(hour).padStart(2, '0')}:00:00;00`, rate);
        expect(Math.abs(framesToSeconds(count, rate) - hour * 3600)).toBeLessThan(0.04 * hour);
      }
  });

  it('reads what it writes', () => {
    fc.assert(
      fc.property(fc.constantFrom(...RATES), fc.boolean(), fc.integer({ min: 0, max: 2_000_000 }), (rate, drop, count) => {
        const mode = drop ? 'drop' : 'nonDrop';
        expect(parseTimecode(formatTimecode(frames(count), rate, mode), rate).count).toBe(count);
      }),
    );
  });

  it('refuses labels that do not exist', () => {
    for (const wrong of ['24:00:00:00', '00:60:00:00', '00:00:00:25', '0:0:0:0', 'nonsense', ''])
      expect(() => parseTimecode(wrong, { num: 25, den: 1 })).toThrow(RangeError);
    expect(() => parseTimecode('00:01:00;01', NTSC)).toThrow(/leaves out/);
  });
});

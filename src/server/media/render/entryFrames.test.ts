import { describe, expect, it } from 'vitest';
import { entriesAmong } from './entryFrames.ts';

/** Packets by their frames in order of decoding; a star marks a key frame. */
const packets = (text: string) => text.split(' ').map((one) => ({ frame: Number.parseFloat(one), isKey: one.endsWith('*') }));

describe('frames at which a copy may begin or end', () => {
  it('are key frames that nothing decoded after them is shown before, and the end', () => {
    expect(entriesAmong(packets('0* 3 1 2 4* 7 5 6 8*'))).toEqual([0, 4, 8, 9]);
    // An open group: two frames shown before its key frame are decoded after it.
    expect(entriesAmong(packets('0* 3 1 2 6* 4 5 7 8*'))).toEqual([0, 8, 9]);
    expect(entriesAmong(packets('0* 1.1 1.9 3*'))).toEqual([0, 3, 4]);
  });

  it('are none where frames are missing, doubled, or come at uneven steps', () => {
    for (const text of ['0* 1 3 4*', '0* 1 1 2*', '0* 1.4 2 3*', '2* 3 4 5*'])
      expect(entriesAmong(packets(text))).toBeUndefined();
  });
});

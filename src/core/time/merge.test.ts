import fc from 'fast-check';
import { expect, it } from 'vitest';
import { mergeInOrder } from './merge.ts';

const named = fc.record({ start: fc.integer({ min: 0, max: 40 }), end: fc.integer({ min: 0, max: 60 }), name: fc.nat() });

it('merging lists of ranges is the same as sorting all of them, equal ones in the order of their lists', () => {
  fc.assert(
    fc.property(fc.array(fc.array(named, { maxLength: 20 }), { maxLength: 6 }), (lists) => {
      // Array.prototype.sort keeps the order of equal ones.
      const sorted = lists.flat().sort((a, b) => a.start - b.start || a.end - b.end);
      expect(mergeInOrder(lists)).toEqual(sorted);
    }),
  );
});

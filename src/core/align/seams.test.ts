import { describe, expect, it } from 'vitest';
import { word } from '../detect/made.test-help.ts';
import type { Word } from '../transcript/word.ts';
import { type OpenRun, openRuns, type PlacedRun, withPlaces } from './openRuns.ts';
import { isSeamBetter, seamsOf } from './seams.ts';

describe('seams between runs that were found', () => {
  // Five words, a pause of two seconds, and five words.
  const said = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9].map((k) =>
    word(`w${k}`, k + (k < 5 ? 0 : 2), k + 0.9 + (k < 5 ? 0 : 2), 'estimated'),
  );
  const runs = openRuns(said, 20, 45);
  const as = (run: OpenRun, isLike: (k: number) => boolean = () => true): PlacedRun => ({
    run,
    placing: run.places.map((k) => ({ ...(said[k] as Word), error: 0.06, isLike: isLike(k) })),
  });
  const pause = { start: 4.9, end: 7 };

  it('are looked at with the words and the sound of both sides', () => {
    expect(runs).toHaveLength(2);
    const [seam, ...more] = seamsOf(
      said,
      runs.map((run) => as(run)),
      20,
    );
    expect(more).toEqual([]);
    expect(seam).toEqual({ places: [1, 2, 3, 4, 5, 6, 7, 8], open: [2, 3, 4, 5, 6, 7], sound: { start: 0.85, end: 11.05 } });
  });

  it('are left where nothing else is heard in the pause, and nothing that was found there is doubtful', () => {
    expect(
      seamsOf(
        said,
        runs.map((run) => as(run)),
        20,
        [pause],
      ),
    ).toEqual([]);
    expect(
      seamsOf(
        said,
        runs.map((run) => as(run)),
        20,
        [{ start: 5.2, end: 7 }],
      ),
    ).toHaveLength(1);
    expect(
      seamsOf(
        said,
        runs.map((run) => as(run, (k) => k !== 5)),
        20,
        [pause],
      ),
    ).toHaveLength(1);
  });

  it('are left where one side was not found, and where the pause is long', () => {
    const [left, right] = runs as [OpenRun, OpenRun];
    expect(seamsOf(said, [as(left), { run: right, placing: 'not said' }], 20)).toEqual([]);
    const later = said.map((one, k) => (k < 5 ? one : { ...one, start: one.start + 5, end: one.end + 5 }));
    const far = openRuns(later, 30, 45).map(
      (run): PlacedRun => ({
        run,
        placing: run.places.map((k) => ({ ...(later[k] as Word), error: 0.06, isLike: true })),
      }),
    );
    expect(seamsOf(later, far, 30)).toEqual([]);
  });

  it('go by what is like the sound', () => {
    const before = runs.map((run) => as(run, (k) => k !== 5));
    const [seam] = seamsOf(said, before, 20) as [OpenRun];
    expect(isSeamBetter(as(seam), before)).toBe(true);
    expect(
      isSeamBetter(
        as(seam, (k) => k !== 4),
        before,
      ),
    ).toBe(true);
    expect(
      isSeamBetter(
        as(seam, (k) => k < 4),
        before,
      ),
    ).toBe(false);
    expect(isSeamBetter({ run: seam, placing: 'not said' }, before)).toBe(false);
    const moved = withPlaces(said, [...before, as(seam)]);
    expect(moved.every(({ timing }) => timing === 'measured')).toBe(true);
  });
});

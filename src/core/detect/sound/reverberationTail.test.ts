import { describe, expect, it } from 'vitest';
import { curve, find, ROOM, VOICE } from '../made.test-help.ts';
import { DEFAULT_SETTINGS } from '../settings.ts';
import { prepareTracks, soundsOf } from './sounds.ts';

const WORDS = 12;
type Stretch = readonly [seconds: number, dbfs: number];

/** Decays by so many decibels each 20 ms until the room is reached. */
const decay = (step: number, from = VOICE): Stretch[] =>
  from - step <= ROOM ? [] : [[0.02, from - step], ...decay(step, from - step)];

/** Words of a second with an ending of their own and a second of silence behind each. */
const spoken = (endings: readonly Stretch[][]) =>
  curve([1, ROOM], ...endings.flatMap((ending): Stretch[] => [[1, VOICE], ...ending, [1, ROOM]]));

const tailOf = (level: ReturnType<typeof curve>) => prepareTracks({ levels: [level] })[0]?.tail;

describe('a room that goes on sounding', () => {
  const [dry, soft, room] = [decay(20), decay(4), decay(3)];
  const all = (ending: Stretch[]) => Array.from({ length: WORDS }, () => ending);

  it('is told from a dry one, whose words end softly at times', () => {
    expect(tailOf(spoken(all(dry)))).toBe(0);
    expect(tailOf(spoken(all(soft).map((ending, k) => (k % 4 === 0 ? dry : ending))))).toBe(0);
    expect(tailOf(spoken(all(room)))).toBeGreaterThan(10);
    expect(tailOf(spoken([room, room]))).toBe(0);
  });

  it('lets silences begin where the voice stopped, and nothing that has not fallen goes', () => {
    const level = spoken(all(room));
    const length = room.reduce((sum, [seconds]) => sum + seconds, 0);
    const lates = find({ levels: [level] })
      .filter(({ kind, start }) => kind === 'pause' && start > 0)
      .map(({ start }, k) => start - (2 + k * (2 + length)));
    expect(lates).toHaveLength(WORDS);
    for (const late of lates) {
      expect(late).toBeGreaterThanOrEqual(0);
      expect(late).toBeLessThan(0.7 * length);
    }
  });

  it('takes nothing where the threshold is set by hand', () => {
    const [track] = prepareTracks({ levels: [spoken(all(room))] });
    if (!track) throw new Error('one track');
    const { runs } = soundsOf(track, { ...DEFAULT_SETTINGS, threshold: -57 });
    const automatic = soundsOf(track, DEFAULT_SETTINGS).runs;
    expect(runs.ends[0]).toBeGreaterThan((automatic.ends[0] as number) + 5);
  });
});

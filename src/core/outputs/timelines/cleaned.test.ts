import { describe, expect, it } from 'vitest';
import { DEFAULT_SETTINGS } from '../../detect/settings.ts';
import { programmeOf } from '../../programme/programme.ts';
import { planOne } from '../plan/made.test-help.ts';
import { otio } from './otio.ts';
import { FORMATS } from './registry.ts';
import { xml } from './xml.ts';

const keepers = {
  name: 'fog and birds.mov',
  location: 'file:///Watch/fog%20and%20birds.mov',
  duration: 60,
  frameRate: '25/1',
  tracks: 2,
  channels: [1, 2],
  hasVideo: true,
  timecode: '10:00:00:00',
};
const cut = {
  settings: { ...DEFAULT_SETTINGS, crossfade: 0.2 },
  proposals: [],
  unmatched: [],
  programme: programmeOf([
    { start: 0, end: 2, rate: 1 },
    { start: 4, end: 8, rate: 1 },
    { start: 8, end: 9, rate: 1, hole: true },
    { start: 9, end: 12, rate: 1 },
  ]),
};
const plan = planOne('Fog', keepers, cut, undefined, { cleaned: true });

describe('cleaned sound on tracks of its own', () => {
  it('lies in sync under what was recorded, which is muted, and comes from a file beside it that counts from nought', () => {
    const text = xml.write(plan)[0]?.text.replaceAll('\n', '') ?? '';
    expect(text).toContain('<pathurl>file:///Watch/fog%20and%20birds%20cleaned.wav</pathurl>');
    const heard = text.slice(text.indexOf('<numOutputChannels>'));
    const tracks = [...heard.matchAll(/<track>(.*?)<\/track>/g)].map(([, one = '']) => one);
    expect(tracks.map((one) => /<enabled>(\w+)<\/enabled><locked>/.exec(one)?.[1])).toEqual([
      ...['FALSE', 'FALSE', 'FALSE', 'TRUE', 'TRUE', 'TRUE'],
    ]);
    const places = tracks.map((one) => [...one.matchAll(/<in>(\d+)<\/in><out>(\d+)<\/out>/g)].map(([whole]) => whole));
    // Each pair is a group of its own: recorded and cleaned are not one.
    const groups = [...text.matchAll(/<linkclipref>([sk])\d+c1-1<\/linkclipref><groupindex>(\d+)/g)].map(
      ([, kind, group]) => `${kind}${group}`,
    );
    expect([...new Set(groups)].sort()).toEqual(['k4', 's2']);
    expect(places[0]).toHaveLength(3);
    expect(places.slice(3)).toEqual(places.slice(0, 3));
    expect(tracks.slice(3).every((one) => one.includes('file-1-cleaned') && !one.includes('"file-1"'))).toBe(true);

    const { tracks: stack } = JSON.parse(otio.write(plan)[0]?.text ?? '');
    const sounds = stack.children.filter(({ kind }: { kind: string }) => kind === 'Audio');
    expect(sounds.map(({ name, enabled }: { name: string; enabled: boolean }) => [name, enabled])).toEqual([
      ['Sound 1', false],
      ['Sound 2, stereo', false],
      ['Sound 1, cleaned', true],
      ['Sound 2, stereo, cleaned', true],
    ]);
    const [first] = sounds[2].children;
    expect(first.media_references.DEFAULT_MEDIA.target_url).toBe('file:///Watch/fog%20and%20birds%20cleaned.wav');
    const starts = [first, sounds[0].children[0]].map((clip) => clip.source_range.start_time.value);
    expect(starts).toEqual([0, 900_000]);
  });

  it('comes back as what was recorded, and formats that have one sound say so', () => {
    for (const format of FORMATS) {
      const texts = format.write(plan).map(({ text }) => text);
      expect([format.id, format.read(texts, plan.rate).events]).toEqual([format.id, plan.events]);
      const says = format.cannotCarry(plan).join().includes('cleaned sound');
      expect([format.id, says]).toEqual([format.id, format.id === 'edl' || format.id === 'csv']);
    }
  });
});

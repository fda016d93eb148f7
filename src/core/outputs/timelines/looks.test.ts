import { describe, expect, it } from 'vitest';
import { DEFAULT_SETTINGS } from '../../detect/settings.ts';
import { cutListSchema } from '../../programme/cutlistSchema.ts';
import { programmeOf } from '../../programme/programme.ts';
import { withLooks } from '../plan/looks.ts';
import { planOne } from '../plan/made.test-help.ts';
import { edl } from './edl.ts';
import { LOOKS } from './format.ts';
import { otio } from './otio.ts';
import { FORMATS } from './registry.ts';
import { xml } from './xml.ts';

const workshop = { name: 'carriage-clock.mp4', duration: 60, frameRate: '25/1', tracks: 1, hasVideo: true };

/** Four pieces of a recording, of which the second is too short for a whole dissolve on either side. */
function planWith(seamLook: 'closer' | 'dissolve') {
  const settings = { ...DEFAULT_SETTINGS, seamLook, closerBy: 10, dissolveFor: 0.4 };
  const pieces = [
    [0, 2],
    [4, 4.2],
    [6, 9],
    [12, 14],
  ].map(([start = 0, end = 0]) => ({ start, end, rate: 1 }));
  const cut = { settings, proposals: [], unmatched: [], programme: programmeOf(pieces) };
  const plain = planOne('The carriage clock', workshop, cut);
  return { plain, plan: withLooks(plain, cut, { x: 0.2, y: 0.5 }) };
}

describe('looks of seams on a timeline', () => {
  it('are on its events, as long as both sides and what lies beyond them allow', () => {
    expect(planWith('dissolve').plan.events.map(({ dissolve }) => dissolve)).toEqual([undefined, 2, 2, 5]);
    expect(planWith('closer').plan.events.map(({ closer }) => closer)).toEqual([undefined, 0.1, 0.1, undefined]);
  });

  it('are a transition and a scale in timeline XML, around the point that stays', () => {
    const [over] = xml.write(planWith('dissolve').plan);
    expect(over?.text.match(/<effectid>Cross Dissolve<\/effectid>/g)).toHaveLength(3);
    expect(over?.text.replaceAll('\n', '')).toMatch(/<transitionitem><start>48<\/start><end>52<\/end><alignment>center/);
    const [near] = xml.write(planWith('closer').plan);
    const effects = near?.text.replaceAll('\n', '').match(/<effectid>basic<\/effectid>.*?<\/filter>/g) ?? [];
    expect(effects).toHaveLength(2);
    for (const effect of effects) {
      expect(effect).toContain('<value>110</value>');
      // A tenth larger around a fifth of the width: the middle moves right by 0.1 × (0.5 - 0.2).
      expect(effect).toContain('<horiz>0.03</horiz><vert>0</vert>');
    }
  });

  it('are a transition and an effect in OpenTimelineIO, and remarks in an edit decision list', () => {
    const picture = (text: string) => JSON.parse(text).tracks.children.find(({ kind }: { kind: string }) => kind === 'Video');
    const over = picture(otio.write(planWith('dissolve').plan)[0]?.text ?? '');
    expect(over.children.map(({ OTIO_SCHEMA }: { OTIO_SCHEMA: string }) => OTIO_SCHEMA)).toEqual([
      'Clip.2',
      'Transition.1',
      'Clip.2',
      'Transition.1',
      'Clip.2',
      'Transition.1',
      'Clip.2',
    ]);
    const near = picture(otio.write(planWith('closer').plan)[0]?.text ?? '');
    expect(near.children[1].effects).toMatchObject([{ metadata: { zetemis: { scale: 1.1, centre: { x: 0.2, y: 0.5 } } } }]);
    expect(edl.write(planWith('closer').plan)[0]?.text).toContain('* PICTURE LARGER BY 10 % AROUND 20 % ACROSS, 50 % DOWN');
    expect(edl.write(planWith('dissolve').plan)[0]?.text).toContain(
      '* PICTURE DISSOLVES FROM THE EVENT BEFORE: 10 FRAMES ACROSS THE CUT',
    );
  });

  it('are read back in their own places, though several clips between two transitions are as long', () => {
    const settings = { ...DEFAULT_SETTINGS, seamLook: 'dissolve' as const, dissolveFor: 0.4, crossfade: 0.16 };
    const pieces = [0, 4, 8, 12, 16].map((start) => ({ start: start + 1, end: start + 3, rate: 1 }));
    const cut = { settings, proposals: [], unmatched: [], programme: programmeOf(pieces) };
    const plan = withLooks(planOne('The carriage clock', workshop, cut), cut);
    expect(plan.events.map(({ dissolve }) => dissolve)).toEqual([undefined, 5, 5, 5, 5]);
    const places = plan.events.map(({ recordIn, recordOut, sourceIn }) => [recordIn, recordOut, sourceIn]);
    for (const format of [xml, otio]) {
      const { clips } = format.read([format.write(plan)[0]?.text ?? ''], plan.rate);
      for (const kind of ['picture', 'sound'] as const) {
        const read = clips.filter((clip) => clip.kind === kind);
        expect([format.id, kind, read.map(({ recordIn, recordOut, sourceIn }) => [recordIn, recordOut, sourceIn])]).toEqual([
          format.id,
          kind,
          places,
        ]);
      }
    }
  });

  it('are none where nothing is taken out', () => {
    const settings = { ...DEFAULT_SETTINGS, seamLook: 'dissolve' as const };
    const pieces = [0, 4, 8].map((start) => ({ start, end: start + 2, rate: 1 }));
    const cut = { settings, proposals: [], unmatched: [], programme: programmeOf(pieces) };
    for (const removed of ['marked', 'disabled'] as const)
      expect(
        withLooks(planOne('Marked', workshop, cut, undefined, { removed }), cut).events.some(({ dissolve }) => dissolve),
      ).toBe(false);
  });

  it('move no frame in any format, and where one cannot say them it says so', () => {
    for (const look of ['closer', 'dissolve'] as const) {
      const { plain, plan } = planWith(look);
      for (const format of FORMATS) {
        const texts = format.write(plan).map(({ text }) => text);
        const { events } = format.id === 'json' ? plan : plain;
        expect([format.id, format.read(texts, plan.rate).events]).toEqual([format.id, events]);
        const losses = format.cannotCarry(plan).join();
        expect([format.id, losses.includes(LOOKS)]).toEqual([format.id, format.id === 'edl' || format.id === 'csv']);
        if (format.id === 'json') {
          const { timeline } = cutListSchema.parse(JSON.parse(texts[0] ?? ''));
          expect(timeline?.events.some(({ closer, dissolve }) => closer || dissolve)).toBe(true);
        }
      }
    }
  });
});

import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { analyse, type Episode, planOf } from '@/cli/analyse.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { DEFAULT_STYLE } from '@/core/outputs/captions/style.ts';
import { type OutputInput, outputOf } from '@/core/outputs/outputs.ts';
import { type FramePlan, planFrames } from '@/core/outputs/plan/framePlan.ts';
import { withLooks } from '@/core/outputs/plan/looks.ts';
import { withMarkers } from '@/core/outputs/plan/markers.ts';
import { xml } from '@/core/outputs/timelines/xml.ts';
import { programmeOf } from '@/core/programme/programme.ts';
import { countingOf, MADE, type Made, make, TONES } from '../handoff/generatedMedia.ts';
import { readCsv, readCues, readEdl, readOtio, readTimelineXml, readTtml, type Seen, wordTimes } from '../handoff/readers.ts';
import { Deck } from '../handoff/timecodeByCounting.ts';
import { folderFor } from '../media.ts';

const DTD = join(import.meta.dirname, '../handoff/timeline.dtd');
const folder = folderFor('checker');
const episodes = new Map<string, Episode>();
const words = join(folder, 'tones.json');

beforeAll(async () => {
  writeFileSync(words, JSON.stringify({ words: TONES.map(({ text, start, end }) => ({ text, start, end })) }));
  for (const made of MADE) {
    const path = make(folder, made);
    episodes.set(
      made.name,
      await analyse([path], { words: [words], set: { fillers: 'leave', repeats: 'leave' }, speech: false, takes: 'off' }),
    );
  }
}, 900_000);

afterAll(() => episodes.clear());

const planFor = ({ name }: Made): FramePlan => planOf(episodes.get(name) as Episode, {});

function written(made: Made, id: string, plan = planFor(made)): string[] {
  const { transcript } = episodes.get(made.name) as Episode;
  const input: OutputInput = { plan, transcript, breaks: [], mask: [], style: DEFAULT_STYLE };
  return (
    outputOf(id)
      ?.write(input)
      .map(({ text }) => text) ?? []
  );
}

function rateOf(made: Made): [number, number] {
  const counted = made.counted ?? made.rate ?? '25/1';
  const [num = 25, den = 1] = counted.split('/').map(Number);
  return [num, den];
}

const sides = (list: readonly Seen[]) => list.map(({ file, from, to, at, until }) => ({ file, from, to, at, until }));

/** Where a moment of the file is shown: the frame of the timeline, by the events that a reader found. */
function shownAt(seen: readonly Seen[], frame: number): number | undefined {
  const event = seen.find(({ from, to }) => frame >= from && frame < to);
  return event && event.at + frame - event.from;
}

describe.each(MADE.map((made) => [made.name, made] as const))('%s', (name, made) => {
  it('is counted at its rate, from its start', () => {
    const plan = planFor(made);
    const [num, den] = rateOf(made);
    expect(plan.rate).toEqual({ num, den });
    expect(plan.mode).toBe(made.drop ? 'drop' : 'nonDrop');
    const deck = new Deck(countingOf(`${num}/${den}`, made.drop ?? false));
    expect(plan.sources[0]?.start).toBe(made.start ? deck.count(made.start) : 0);
  });

  it('reads as the same events in every format, none of which shows a frame that is not there', () => {
    const [num, den] = rateOf(made);
    const counting = countingOf(`${num}/${den}`, made.drop ?? false);
    const start = made.start ? new Deck(counting).count(made.start) : 0;
    const lists = written(made, 'edl');
    const edl = readEdl(lists.slice(0, 1), counting, new Map([[name, start]]));
    const csv = readCsv(written(made, 'csv')[0] ?? '');
    const otio = readOtio(written(made, 'otio')[0] ?? '');
    const path = join(folder, `${name}.xml`);
    writeFileSync(path, written(made, 'xml')[0] ?? '');
    execFileSync('xmllint', ['--noout', '--nonet', '--dtdvalid', DTD, path]);
    const xml = readTimelineXml(path);
    expect(sides(edl)).toEqual(sides(csv));
    expect(sides(otio)).toEqual(sides(csv));
    expect(sides(xml)).toEqual(sides(csv));
    expect(edl.length).toBeGreaterThan(2);
    for (const one of [edl, otio, xml])
      expect(one.map(({ picture }) => picture)).toEqual(csv.map(({ picture }) => made.rate !== undefined && picture));
    const streams = made.streams ?? [1];
    const channels = streams.reduce((sum, count) => sum + count, 0);
    for (const { sounds } of edl) expect(sounds).toBe(Math.min(4, channels));
    for (const { sounds } of otio) expect(sounds).toBe(streams.length);
    for (const { sounds } of xml) expect(sounds).toBe(channels);
    // What a list has no room for is in lists of two.
    expect(lists).toHaveLength(1 + Math.max(0, Math.ceil((channels - 4) / 2)));
    if (made.rate && !made.counted) {
      const frames = Number(
        execFileSync(
          'ffprobe',
          [
            '-v',
            'error',
            '-count_frames',
            '-select_streams',
            'v',
            '-show_entries',
            'stream=nb_read_frames',
            '-of',
            'csv=p=0',
            join(folder, name),
          ],
          {
            encoding: 'utf8',
          },
        ).replace(/\D/g, ''),
      );
      for (const { picture, to } of csv) if (picture) expect(to).toBeLessThanOrEqual(frames);
    }
  });

  it('has every word in its captions in the frame in which the timeline shows it', () => {
    const [num, den] = rateOf(made);
    const rate = num / den;
    const seen = readCsv(written(made, 'csv')[0] ?? '');
    const times = wordTimes(written(made, 'vtt')[0] ?? '');
    expect(times.map(({ text }) => text)).toEqual(TONES.map(({ text }) => text));
    for (const [k, { at }] of times.entries()) {
      const tone = TONES[k] as (typeof TONES)[number];
      expect(Math.round(at * rate), tone.text).toBe(shownAt(seen, Math.floor(tone.start * rate + 1e-6)));
    }
    const cues = readCues(written(made, 'srt')[0] ?? '');
    const paragraphs = readTtml(written(made, 'ttml')[0] ?? '');
    expect(paragraphs.map(({ text }) => text)).toEqual(cues.map(({ text }) => text.replaceAll('\n', ' ')));
    for (const [k, { from, to }] of cues.entries()) {
      expect(Math.round(from * rate)).toBe(paragraphs[k]?.from);
      expect(Math.round(to * rate)).toBe(paragraphs[k]?.to);
    }
  });

  it('sounds, rendered from a timeline alone, where the captions say', () => {
    const [num, den] = rateOf(made);
    const counting = countingOf(`${num}/${den}`, made.drop ?? false);
    const start = made.start ? new Deck(counting).count(made.start) : 0;
    const path = join(folder, `${name}.xml`);
    writeFileSync(path, written(made, 'xml')[0] ?? '');
    // Each format in turn is the one that is rendered.
    const seen = [
      () => readEdl(written(made, 'edl').slice(0, 1), counting, new Map([[name, start]])),
      () => readOtio(written(made, 'otio')[0] ?? ''),
      () => readTimelineXml(path),
    ][MADE.indexOf(made) % 3]?.() as Seen[];
    const sound = rendered(join(folder, name), seen, num / den);
    for (const [k, { at }] of wordTimes(written(made, 'vtt')[0] ?? '').entries()) {
      const heard = onsetOf(sound, (TONES[k] as (typeof TONES)[number]).hertz);
      expect(Math.abs(heard - at), `${TONES[k]?.text} at ${at}`).toBeLessThan(den / num + ONSET_ERROR);
    }
  });
});

describe('a timeline with everything on it', () => {
  it('is valid by the document type, in every choice', () => {
    const piece = (start: number, end: number, more = {}) => ({ start, end, rate: 1, ...more });
    const programme = programmeOf([
      piece(0, 2),
      piece(2, 3),
      piece(3, 5, { rate: 4, sound: 'pitch' }),
      piece(5, 6, { hole: true }),
      piece(7, 8, { rate: 2, sound: 'mute' }),
      piece(9, 12),
      piece(13, 20),
    ]);
    const settings = { ...DEFAULT_SETTINGS, crossfade: 0.3, listen: '1', seamLook: 'closer' as const };
    const seams = [{ about: { start: 12, end: 13 }, look: 'dissolve' as const }];
    const cut = { settings, programme, seams, proposals: [], unmatched: [] };
    const media = {
      name: 'a & b <c>--.mov',
      duration: 20,
      frameRate: '30000/1001',
      conformedFrom: '2337/100',
      tracks: 3,
      channels: [1, 2, 1],
      hasVideo: true,
      pictureEnd: 18,
    };
    for (const removed of ['gone', 'disabled', 'marked'] as const)
      for (const followers of ['along', 'muted', 'left out'] as const) {
        const plan = planFrames('Every “thing” & more', [{ start: 0, end: 20, media }], cut, {
          removed,
          followers,
          cleaned: followers !== 'muted',
        });
        const marked = withMarkers(
          withLooks(plan, cut),
          [],
          [{ part: 'a', at: 9.5, title: '<Tower>' }],
          ['open', 'chapters', 'reasons', 'removed'],
        );
        const path = join(folder, 'everything.xml');
        writeFileSync(path, xml.write(marked)[0]?.text ?? '');
        execFileSync('xmllint', ['--noout', '--nonet', '--dtdvalid', DTD, path]);
        expect(readTimelineXml(path).length).toBeGreaterThan(3);
      }
  });
});

const SAMPLE_RATE = 16_000;
/** Samples that the strength of a tone is told from. */
const WINDOW = 160;
const ONSET_ERROR = (2 * WINDOW) / SAMPLE_RATE;

/** The sound of a timeline, cut by ffmpeg. */
function rendered(path: string, seen: readonly Seen[], rate: number): Float32Array {
  const parts = seen.map(
    ({ from, to }, k) => `[in${k}]atrim=start=${from / rate}:end=${to / rate},asetpts=PTS-STARTPTS[out${k}]`,
  );
  const graph = `[0:a:0]aresample=${SAMPLE_RATE}:async=1:first_pts=0,pan=mono|c0=c0,apad=pad_dur=2,asplit=${seen.length}${seen.map((_, k) => `[in${k}]`).join('')};${parts.join(';')};${seen.map((_, k) => `[out${k}]`).join('')}concat=n=${seen.length}:v=0:a=1`;
  const bytes = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-filter_complex', graph, '-f', 'f32le', 'pipe:1'], {
    maxBuffer: 1e9,
  });
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
}

/** Seconds at which a tone begins: where its strength first passes half of its most (Goertzel). */
function onsetOf(sound: Float32Array, hertz: number): number {
  const strengths: number[] = [];
  const turn = 2 * Math.cos((2 * Math.PI * hertz) / SAMPLE_RATE);
  for (let from = 0; from + WINDOW <= sound.length; from += WINDOW / 2) {
    let [last, before] = [0, 0];
    for (let k = from; k < from + WINDOW; k++) [last, before] = [(sound[k] as number) + turn * last - before, last];
    strengths.push(last * last + before * before - turn * last * before);
  }
  const most = Math.max(...strengths);
  return (strengths.findIndex((one) => one > most / 4) * (WINDOW / 2) + WINDOW / 2) / SAMPLE_RATE;
}

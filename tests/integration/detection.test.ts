import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import type { MediaFacts } from '@/core/contract/media.ts';
import type { LevelCurve } from '@/core/curves/level.ts';
import type { SpeechCurve } from '@/core/curves/speech.ts';
import { NO_STEPS } from '@/core/decisions/replay.ts';
import { prepare } from '@/core/detect/registry.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { SpeechParts } from '@/core/detect/words/partsOfSpeech.ts';
import { readTranscript } from '@/core/interchange/transcripts/words-json.ts';
import { computeCut } from '@/core/programme/cutlist.ts';
import { readMeasure } from '@/server/media/material.ts';
import { measure } from '@/server/media/measure.ts';
import { probe } from '@/server/media/probe.ts';
import { measureSpeech } from '@/server/media/speech.ts';
import { folderFor } from '../media.ts';

const speechParts = await SpeechParts.loaded();

const DEMO = join(import.meta.dirname, '..', '..', 'demo', 'media');
const folder = folderFor('detection');

interface Truth {
  duration: number;
  pauses: [number, number][];
  words: { text: string; start: number; end: number }[];
}

interface Judged {
  readonly f1: number;
  readonly clipped: number;
}

/** Curves of a recording, measured once for all tests about it; the speech model runs only where it is asked for. */
class Recording {
  private readonly curves: string;
  private levels: Promise<readonly LevelCurve[]> | undefined;
  private speech: Promise<readonly SpeechCurve[]> | undefined;

  constructor(
    private readonly path: string,
    readonly facts: MediaFacts,
  ) {
    this.curves = join(folder, `curves-${Math.random()}`);
  }

  readLevels(): Promise<readonly LevelCurve[]> {
    this.levels ??= measure(this.path, this.facts, this.curves).then(() =>
      readMeasure('levels', this.curves, this.facts.audio.length),
    );
    return this.levels;
  }

  readSpeech(): Promise<readonly SpeechCurve[]> {
    this.speech ??= this.readLevels()
      .then(() => measureSpeech(this.path, this.facts, this.curves))
      .then(() => readMeasure('speech', this.curves, this.facts.audio.length));
    return this.speech;
  }
}

const recordings = new Map<string, Recording>();
async function recordingOf(path: string): Promise<Recording> {
  const recording = recordings.get(path) ?? new Recording(path, await probe(path));
  recordings.set(path, recording);
  return recording;
}

/** How well pauses are found in a recording whose truth is known, by the rules that detection is judged by. */
async function judge(path: string, truth: Truth, by: { words?: boolean; speech?: boolean } = {}): Promise<Judged> {
  const recording = await recordingOf(path);
  const { duration } = recording.facts;
  const levels = await recording.readLevels();
  const words = by.words ? readTranscript(JSON.stringify({ words: truth.words })).words : [];
  const settings = { ...DEFAULT_SETTINGS, airBefore: 0, airAfter: 0, minPause: 0.4 };
  const material = { duration, levels, words, speech: by.speech ? await recording.readSpeech() : undefined };
  const found = computeCut(prepare({ ...material, speechParts }), { ...NO_STEPS, settings }).proposals;
  const proposals = found.filter(({ kind }) => kind === 'pause');
  const near = (a: number, b: number) => Math.abs(a - b) <= 0.06;
  const same = (p: { start: number; end: number }, [start, end]: [number, number]) =>
    near(p.start, start) && (near(p.end, end) || (p.end >= duration - 0.06 && end >= truth.duration - 0.06));
  const wanted = truth.pauses.filter(([start, end]) => end - start >= 0.4);
  const recall = wanted.filter((pause) => proposals.some((p) => same(p, pause))).length / wanted.length;
  const precision = proposals.filter((p) => truth.pauses.some((pause) => same(p, pause))).length / proposals.length;
  const clipped = truth.words.filter((word) =>
    proposals.some((p) => Math.min(p.end, word.end) - Math.max(p.start, word.start) > 0.02),
  );
  return { f1: (2 * precision * recall) / (precision + recall), clipped: clipped.length };
}

const truthOf = (name: string): Truth => JSON.parse(readFileSync(join(DEMO, `${name}.truth.json`), 'utf8'));

/** The demo recording under another sky. */
function altered(source: string, name: string, filter: string): string {
  const path = join(folder, `${name}.flac`);
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-i',
    join(DEMO, source),
    '-filter_complex',
    filter,
    '-map',
    '[out]',
    '-c:a',
    'flac',
    path,
  ]);
  return path;
}

const voice = '[0:a:0]aformat=channel_layouts=mono,aresample=48000[v];';
const joined = ';[v][n]amix=normalize=0:duration=first[out]';
const noise = (amplitude: number, colour: string, volume = '1') =>
  `${voice}anoisesrc=a=${amplitude}:c=${colour}:seed=3:d=199:r=48000,volume='${volume}':eval=frame[n]${joined}`;

/** What the bench may sound like: F1 by sound alone and with words, and the words that sound alone may clip. */
const SKIES: readonly (readonly [name: string, filter: string, bySound: number, withWords: number, clipped: number])[] = [
  ['as it is', '[0:a:0]anull[out]', 0.97, 0.97, 1],
  ['twelve decibels softer', '[0:a:0]volume=-12dB[out]', 0.97, 0.97, 1],
  ['with mains hum', `${voice}aevalsrc=0.02*sin(2*PI*50*t)+0.01*sin(2*PI*100*t):s=48000:d=199[n]${joined}`, 0.93, 0.93, 2],
  ['in a quiet room', noise(0.001, 'pink'), 0.97, 0.97, 1],
  ['in a louder room', noise(0.002, 'pink'), 0.97, 0.97, 1],
  ['in a loud room', noise(0.006, 'pink'), 0.93, 0.93, 2],
  ['with a fan that starts half-way', noise(0.004, 'brown', 'if(lt(t,90),0,1)'), 0.95, 0.97, 2],
  ['with traffic that comes and goes', noise(0.004, 'pink', '0.15+0.85*pow(sin(PI*t/130),2)'), 0.97, 0.97, 2],
  ['with the gain turned down half-way', "[0:a:0]volume='if(lt(t,70),1,0.25)':eval=frame[out]", 0.95, 0.97, 1],
  [
    'with automatic gain that turns the room up',
    `${noise(0.002, 'pink').replace('[out]', '')},acompressor=threshold=0.03:ratio=8:attack=5:release=600:makeup=8[out]`,
    0.7,
    0.85,
    2,
  ],
  ['with the gain turned up half-way', "[0:a:0]volume='if(lt(t,100),0.3,1)':eval=frame[out]", 0.97, 0.97, 1],
];

/** Where the speech model is tried as well: it takes its time. */
const HEARD: readonly string[] = ['as it is', 'with mains hum', 'in a loud room'];

/** Where level alone cannot find the edges, words and the speech measure together must. */
const STORMS: readonly (readonly [name: string, filter: string, least: number])[] = [
  [
    'far from the microphone',
    '[0:a:0]aformat=channel_layouts=mono,volume=-22dB,lowpass=f=4500,aecho=0.8:0.5:35|61:0.25|0.18[out]',
    0.97,
  ],
  ['in gusts of wind', noise(0.12, 'brown', 'pow(max(0,sin(2*PI*t/11)),12)+0.3*pow(max(0,sin(2*PI*t/7.3)),20)'), 0.75],
  [
    'over a bed of music',
    `${voice}aevalsrc='0.012*(sin(2*PI*220*t)+sin(2*PI*277*t)+sin(2*PI*330*t))*(0.6+0.4*sin(2*PI*t/2))*exp(-1.5*mod(t,1))':s=48000:d=199[n]${joined}`,
    0.7,
  ],
];

describe('pauses in the lesson at the bench', () => {
  const truth = truthOf('carriage-clock');

  it.each(SKIES)('are found %s', async (name, filter, bySound, withWords, most) => {
    const path = altered('carriage-clock.mp4', name, filter);
    const alone = await judge(path, truth);
    expect(alone.f1).toBeGreaterThanOrEqual(bySound);
    expect(alone.clipped).toBeLessThanOrEqual(most);
    const { f1, clipped } = await judge(path, truth, { words: true });
    expect(f1).toBeGreaterThanOrEqual(withWords);
    expect(clipped).toBe(0);
  });

  it.each(SKIES.filter(([name]) => HEARD.includes(name)))(
    'are found with the speech measure %s',
    async (name, filter, bySound, _, most) => {
      const path = altered('carriage-clock.mp4', name, filter);
      const alone = await judge(path, truth, { speech: true });
      expect(alone.f1).toBeGreaterThanOrEqual(bySound);
      expect(alone.clipped).toBeLessThanOrEqual(most);
      const { f1, clipped } = await judge(path, truth, { speech: true, words: true });
      expect(f1).toBeGreaterThanOrEqual(0.97);
      expect(clipped).toBe(0);
    },
  );

  it.each(STORMS)('are found %s, by words and speech together', async (name, filter, least) => {
    const path = altered('carriage-clock.mp4', name, filter);
    const { f1, clipped } = await judge(path, truth, { words: true, speech: true });
    expect(f1).toBeGreaterThanOrEqual(least);
    expect(clipped).toBe(0);
    // Sound alone finds less, but it does not bite.
    for (const speech of [false, true]) expect((await judge(path, truth, { speech })).clipped).toBeLessThanOrEqual(3);
  });
});

describe('pauses in the lamp room', () => {
  it('are where neither keeper speaks, on two tracks with bleed', async () => {
    const path = join(DEMO, 'fog-and-birds.mka');
    const truth = truthOf('fog-and-birds');
    for (const speech of [false, true]) {
      const withWords = await judge(path, truth, { words: true, speech });
      expect(withWords.clipped).toBe(0);
      expect(withWords.f1).toBeGreaterThanOrEqual(0.97);
      expect((await judge(path, truth, { speech })).f1).toBeGreaterThanOrEqual(0.9);
    }
  });
});
